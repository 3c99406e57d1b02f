"""An engine's hours and what is due on it, from sheets, entries, changes and over-revs: nothing is typed twice."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import pairwise

import numpy as np
from django.utils import timezone
from numpy.typing import NDArray

from rocklash.answers.results import BuildResult
from rocklash.records.models import Build, CareEntry, ClearanceSession, OverRevCase, RunEntry
from rocklash.records.selectors.changes import slot_changes, works_done
from rocklash.records.selectors.logbook import logs_of
from rocklash.records.selectors.proof import file_of, unpacked
from valvetrain.errors import BuildFileError
from valvetrain.formats import run_table
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Gear, Use
from valvetrain.studies.logbook.due import After, Due, Rule, Run, Unit, Whose, held, in_force, typed_rule

_YEAR = 365.25
# Words by which rules are chosen. Source: judgement
_WORDS = {
    Use.TRAIL: "street", Use.STREET: "street", Use.ROAD_RACE: "race", Use.DRAG: "drag", Use.MOTOCROSS: "race", Use.ENDURANCE: "race", Use.WORK: "work",
    Use.RESCUE: "water",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Meter:
    """What an engine ran: hours in all and up to a day, passes, fuel, and the sheet that the hours rest on. `backwards` names sheets whose hours fall."""

    anchor: float
    anchored_on: date | None
    entries: tuple[RunEntry, ...]
    backwards: str = ""

    def hours(self, until: date | None = None) -> float:
        """Engine hours, up to and with a day."""
        return self.anchor + sum(
            (each.seconds or 0.0) / 3600.0
            for each in self.entries
            if (self.anchored_on is None or each.made_on > self.anchored_on) and (until is None or each.made_on <= until)
        )

    def passes(self, since: date | None = None) -> int:
        """Passes since a day."""
        return sum(each.passes or 0 for each in self.entries if since is None or each.made_on > since)

    def ran_since(self, day: date) -> float:
        """Hours by entries after a day."""
        return sum((each.seconds or 0.0) / 3600.0 for each in self.entries if each.made_on > day)


def meter_of(entries: Sequence[RunEntry], sheets: Sequence[ClearanceSession]) -> Meter:
    """The newest sheet that carries hours, and the entries after it."""
    told = [sheet for sheet in sheets if sheet.hours is not None]
    words = ""
    for later, before in pairwise(told):
        if (later.hours or 0.0) < (before.hours or 0.0):
            words = (
                f"The sheet of {_day(later):%d %b %Y} tells {later.hours:g} h, the one before, of {_day(before):%d %b %Y}, {before.hours:g} h: hours run "
                "backwards. Which is right?"
            )
            break
    if not told:
        return Meter(anchor=0.0, anchored_on=None, entries=tuple(entries), backwards=words)
    return Meter(anchor=float(told[0].hours or 0.0), anchored_on=_day(told[0]), entries=tuple(entries), backwards=words)


def _day(sheet: ClearanceSession) -> date:
    return timezone.localtime(sheet.signed_at or sheet.started_at).date()


def words_of(build: Build, answer: BuildResult) -> set[str]:
    """What an engine is, in the words by which rules are chosen."""
    words = {_WORDS.get(Use(build.use), "street")}
    if "kart" in build.engine.description.lower():
        words.add("kart")
    if answer.record.kind.gear in (Gear.DOHC, Gear.OHC):
        words.add("chain")
    parts = [side.parts.get(Owner.VALVE) for side in answer.record.proposed.values()]
    if any(part and "titanium" in part.facts.get("material", "") for part in parts):
        words.add("titanium")
    return words


_CHANGED = {"cam": "cams", "low_cam": "cams", "valve": "valves", "follower": "followers"}


def _changed_on(build: Build) -> tuple[date, str] | None:
    """When parts that bed in were last changed, and which."""
    found: list[tuple[date, str]] = []
    for at, _, rows in slot_changes(build):
        for row in rows:
            for column in row.get("set", {}):
                word = _CHANGED.get(column.removesuffix("_id"))
                if word:
                    found.append((timezone.localtime(at).date(), word))
    found += [(timezone.localtime(at).date(), "seats") for at, _, work, _ in works_done(build) if "seat" in work or "valve" in work]
    return max(found, default=None)


def rules_for(build: Build, answer: BuildResult) -> tuple[Rule, ...]:
    """The trade's rules for this engine, and the interval that is asked for on Goal."""
    more = []
    figure = build.figures.get("interval")
    if figure and figure.get("value"):
        hours = figure["value"] / 3600.0
        more.append(
            typed_rule(
                "clearances", hours, Unit.HOURS, Whose.GOAL, why="so it is planned for this engine", does="measure the clearances cold"
            )
        )
    return in_force(words_of(build, answer) | _event_words(build), more)


def _event_words(build: Build) -> set[str]:
    changed = _changed_on(build)
    if changed is None:
        return set()
    return {changed[1], "head"} if changed[1] in ("valves", "seats") else {changed[1]}


def due_of(
    build: Build, answer: BuildResult, meter: Meter, care: Sequence[CareEntry], sheets: Sequence[ClearanceSession], cases: Sequence[OverRevCase], today: date
) -> tuple[Due, ...]:  # fmt: skip
    """What is due today. Raises OutOfRangeError where counts run backwards."""
    now = meter.hours(today)
    since: dict[str, Run] = {}
    for entry in reversed(care):
        since[entry.what] = Run(
            hours=now - entry.seconds / 3600.0, passes=float(meter.passes(entry.made_on)), seasons=(today - entry.made_on).days / _YEAR
        )
    if sheets:
        day = _day(sheets[0])
        hours = now - float(sheets[0].hours) if sheets[0].hours is not None else meter.ran_since(day)
        known = since.get("clearances")
        if known is None or known.hours is None or hours <= known.hours:
            since["clearances"] = Run(hours=hours, passes=float(meter.passes(day)), seasons=(today - day).days / _YEAR)
        since["clearances after the first hours"] = since["clearances"]
    events: dict[After, Run | None] = {}
    changed = _changed_on(build)
    if changed is not None:
        before = changed[0] - timedelta(days=1)
        events[After.CHANGE] = Run(
            hours=meter.ran_since(before), passes=float(meter.passes(before)), seasons=(today - changed[0]).days / _YEAR
        )
    if any(case.closed_at is None for case in cases):
        events[After.OVER_REV] = Run(hours=0.0, passes=0.0, seasons=0.0)
    return held(rules_for(build, answer), since, events)


def log_of(build: Build, number: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Time (s) and engine speed (rev/s) of a kept run's file. Raises BuildFileError for a run that tells neither."""
    test = next((each for each in logs_of(build) if each.pk == number), None)
    file = file_of(test) if test else None
    if file is None:
        raise BuildFileError("This run told no time and engine speed: bring a log with both on Proof, Runs.")
    wanted = {key: place for key, place in file.columns.items() if key in ("time", "rpm")}
    table = run_table.read(unpacked(file), wanted, file.units)
    return table.columns["time"], table.columns["rpm"]
