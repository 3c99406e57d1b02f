"""What is due on an engine, and between which days: from sheets, entries, changes, over-revs, the hours of its parts, and what its readings drift to."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from typing import Any

from django.utils import timezone

from rocklash.answers.logbook import Meter, day_of, meter_of
from rocklash.answers.results import result_of
from rocklash.answers.rows import side_rows
from rocklash.answers.strain import strained, use_words
from rocklash.answers.tester import fits_of_text
from rocklash.answers.wear import trends_of
from rocklash.records.models import (
    Build,
    CareEntry,
    ClearanceSession,
    DueRule,
    DueState,
    OverRevCase,
    Part,
    PartStart,
    SetupRole,
    SpringLog,
    Workshop,
)
from rocklash.records.selectors import due as kept
from rocklash.records.selectors.builds import with_parts
from rocklash.records.selectors.changes import slot_changes, works_done
from rocklash.records.selectors.logbook import Ran
from valvetrain.errors import OutOfRangeError, ValveTrainError
from valvetrain.parts.engine import Gear
from valvetrain.studies.logbook.dates import Pace, days_of, pace_of
from valvetrain.studies.logbook.due import After, Due, Rule, Run, State, Unit, Whose, held, in_force, typed_rule
from valvetrain.studies.logbook.seasons import LoadLife, LoadTest, load_life
from valvetrain.units import UnitSystem

_FAR = 5.0  # times the least, where readings tell no most. Source: judgement
_CHANGED = {"cam": "cams", "low_cam": "cams", "valve": "valves", "follower": "followers"}
# Which rule a part's own hours count for.
_RULE_OF = {
    "outer_spring": "valve springs",
    "inner_spring": "valve springs",
    "keepers": "keepers and retainers",
    "retainer": "keepers and retainers",
}
DRIFT, LOADS = "clearances, by their drift", "valve springs, by their loads"


@dataclass(frozen=True, kw_only=True)
class Rows:
    """All that bears on what is due on one build; sheets newest first, logs oldest first."""

    runs: list[Ran] = field(default_factory=list)
    care: list[CareEntry] = field(default_factory=list)
    sheets: list[ClearanceSession] = field(default_factory=list)
    cases: list[OverRevCase] = field(default_factory=list)
    typed: list[DueRule] = field(default_factory=list)
    starts: list[PartStart] = field(default_factory=list)
    logs: list[SpringLog] = field(default_factory=list)


@dataclass(frozen=True, kw_only=True)
class PartHours:
    """A part of the proposed set-up with the hours it has: `since` None where nobody noted when it came in, so that they are at most the engine's."""

    side: str
    slot: str
    part: Part
    since: date | None
    hours: float
    start: PartStart | None

    @property
    def left(self) -> float | None:
        """Hours to its own service hours, None without them."""
        return None if self.part.service_hours is None else self.part.service_hours - self.hours


@dataclass(frozen=True, kw_only=True)
class SpringSeason:
    """A spring of a side with its tester logs against hours; `why` nothing follows from them."""

    side: str
    part: Part
    new: float | None
    tests: tuple[LoadTest, ...]
    life: LoadLife | None
    why: str = ""


@dataclass(frozen=True, kw_only=True)
class DueStanding:
    """An engine's meter, what is due on it, and the days between which each falls due."""

    meter: Meter
    rows: tuple[Due, ...]
    days: Mapping[str, tuple[date, date | None] | None]
    trouble: str = ""


def words_of(build: Build) -> set[str]:
    """What an engine is, in the words by which rules are chosen."""
    words = set(use_words(build))
    if build.engine.gear in (Gear.DOHC, Gear.OHC):
        words.add("chain")
    valves = [row.valve for (role, _), row in side_rows(build).items() if role == SetupRole.PROPOSED]
    if any(valve and "titanium" in str(valve.facts.get("material", "")) for valve in valves):
        words.add("titanium")
    return words


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


def _ran_since(meter: Meter, start: PartStart, until: date) -> float:
    """Hours since a part came in, that day with them."""
    return max(0.0, meter.hours(until) - meter.hours(start.made_on - timedelta(days=1)))


def part_hours(build: Build, meter: Meter, starts: Iterable[PartStart], today: date) -> list[PartHours]:
    """Hours of every part of the proposed set-up, exhaust first: those it brought along and those of the engine since it came in."""
    known = {(start.part_id, start.side): start for start in starts}
    found = []
    for (role, side), row in sorted(side_rows(build).items()):
        if role != SetupRole.PROPOSED:
            continue
        for slot in ("cam", "low_cam", "valve", "retainer", "keepers", "follower", "outer_spring", "inner_spring"):
            part = getattr(row, slot)
            if part is None:
                continue
            start = known.get((part.pk, side))
            hours = meter.hours(today) if start is None else start.had / 3600.0 + _ran_since(meter, start, today)
            found.append(PartHours(side=side, slot=slot, part=part, since=start.made_on if start else None, hours=hours, start=start))
    return found


def spring_seasons(meter: Meter, parts: list[PartHours], logs: Iterable[SpringLog]) -> list[SpringSeason]:
    """Each spring's tests against the engine's hours since it came in; the load is told where the new spring stood, at its highest tested height."""
    by_part: dict[int, list[SpringLog]] = {}
    for log in logs:
        by_part.setdefault(log.part_id, []).append(log)
    found = []
    for row in parts:
        mine = by_part.get(row.part.pk, [])
        if row.slot not in ("outer_spring", "inner_spring") or not mine:
            continue
        new = next((log for log in reversed(mine) if not log.used), None)
        used = [log for log in mine if log.used]
        try:
            found.append(_season(row, meter, new, used))
        except (ValveTrainError, IndexError) as error:
            why = getattr(error, "sentence", "the log names no spring")
            found.append(SpringSeason(side=row.side, part=row.part, new=None, tests=(), life=None, why=why))
    return found


def _season(row: PartHours, meter: Meter, new: SpringLog | None, used: list[SpringLog]) -> SpringSeason:
    empty = SpringSeason(side=row.side, part=row.part, new=None, tests=(), life=None)
    if new is None:
        return _told(empty, "No log of it new: losses are given against that.")
    fresh = fits_of_text(new.text, UnitSystem(new.system))[0]
    heights = [fresh.height, *(fit.height for log in used for fit in fits_of_text(log.text, UnitSystem(log.system)))]
    height = min(heights)
    load, tests = fresh.load_at(height).value, []
    for log in used:
        day = timezone.localtime(log.at).date()
        hours = _ran_since(meter, row.start, day) + row.start.had / 3600.0 if row.start else meter.hours(day)
        loads = [fit.load_at(height).value for fit in fits_of_text(log.text, UnitSystem(log.system))]
        tests.append(LoadTest(hours=hours, least=min(loads), middle=sum(loads) / len(loads), count=len(loads)))
    if not tests:
        return SpringSeason(side=row.side, part=row.part, new=load, tests=(), life=None, why="Not tested since it ran.")
    return SpringSeason(side=row.side, part=row.part, new=load, tests=tuple(tests), life=load_life(load, tests))


def _told(row: SpringSeason, why: str) -> SpringSeason:
    return SpringSeason(side=row.side, part=row.part, new=row.new, tests=row.tests, life=None, why=why)


def _drift_rule(build: Build, sheets: list[ClearanceSession]) -> Rule | None:
    """By when the first valve leaves its limits, from its own sheets."""
    told = sorted((sheet for sheet in sheets if sheet.hours is not None), key=lambda sheet: sheet.hours or 0.0)
    if len(told) < 2:
        return None
    known = [(name, trend) for name, _, trend, _ in trends_of(build, result_of(build), told) if trend and trend.limit_least is not None]
    if not known:
        return None
    name, first = min(known, key=lambda each: each[1].limit_least or 0.0)
    least = max(first.limit_least or 0.0, 0.1)
    most = max(first.limit_most if first.limit_most is not None else _FAR * least, least)
    why = f"{name} moves {1e6 * abs(first.rate):.1f} \u00b5m an hour and is the first to leave its limits"
    return typed_rule(DRIFT, least, Unit.HOURS, Whose.MEASURED, most=most, why=why, does="measure the clearances cold")


def _ago(parts: list[PartHours], season: SpringSeason) -> float | None:
    """Hours since a spring of a side was last tested; None for one that never was."""
    hours = next((row.hours for row in parts if row.part.pk == season.part.pk and row.side == season.side), None)
    return max(0.0, hours - season.tests[-1].hours) if season.tests and hours is not None else None


def _since_tested(parts: list[PartHours], seasons: list[SpringSeason], since: dict[str, Run]) -> None:
    """Springs that were all on the tester were seen to then: the rule asks for just that."""
    springs = {(row.part.pk, row.side) for row in parts if row.slot in ("outer_spring", "inner_spring")}
    tested = {(season.part.pk, season.side): _ago(parts, season) for season in seasons}
    agos = [tested.get(spring) for spring in springs]
    if not agos or any(ago is None for ago in agos):
        return
    ago = max(ago for ago in agos if ago is not None)
    known = since.get("valve springs")
    if known is None or known.hours is None or ago <= known.hours:
        since["valve springs"] = Run(hours=ago, passes=known.passes if known else None, seasons=known.seasons if known else None)


def _load_rules(parts: list[PartHours], seasons: list[SpringSeason]) -> list[tuple[Rule, float]]:
    """By when the first set of springs has lost what it may, with the hours since its last test; the most urgent alone."""
    known = [(each, each.life, ago) for each in seasons if each.life and (ago := _ago(parts, each)) is not None]
    if not known:
        return []
    first, life, ago = min(known, key=lambda each: each[1].left[0] - each[2])
    least = max(life.left[0], 0.1)
    most = max(life.left[1] if life.left[1] is not None else _FAR * least, least)
    lost = 100.0 * life.lost[-1][1]
    why = f"the weakest of {first.part}, {first.side}, had lost {lost:.1f} in a hundred when it was last tested"
    rule = typed_rule(
        LOADS, least, Unit.HOURS, Whose.MEASURED, most=most, why=why, does="test load and height, renew what lost over six in a hundred"
    )
    return [(rule, ago)]


def _typed_rules(build: Build, typed: list[DueRule]) -> list[Rule]:
    more = []
    for row in typed:
        whose = Whose.MAKER if row.build_id else Whose.OWN
        why = "so the maker's manual has it" if row.build_id else "so this workshop does it"
        more.append(
            typed_rule(
                row.what, row.least, Unit(row.unit), whose, most=row.most, page=row.page, why=why, does=row.does or f"see to the {row.what}"
            )
        )
    figure = build.figures.get("interval")
    if figure and figure.get("value"):
        why = "so it is planned for this engine"
        more.append(typed_rule("clearances", figure["value"] / 3600.0, Unit.HOURS, Whose.GOAL, why=why, does="measure the clearances cold"))
    return more


def _event_words(changed: tuple[date, str] | None) -> set[str]:
    if changed is None:
        return set()
    return {changed[1], "head"} if changed[1] in ("valves", "seats") else {changed[1]}


def _since_care(rows: Rows, meter: Meter, today: date) -> dict[str, Run]:
    now, since = meter.hours(today), {}
    for entry in reversed(rows.care):
        since[entry.what] = Run(
            hours=now - entry.seconds / 3600.0, passes=float(meter.passes(entry.made_on)), seasons=meter.seasons(entry.made_on, today)
        )
    if rows.sheets:
        day = day_of(rows.sheets[0])
        hours = now - float(rows.sheets[0].hours) if rows.sheets[0].hours is not None else meter.ran_since(day)
        known = since.get("clearances")
        if known is None or known.hours is None or hours <= known.hours:
            since["clearances"] = Run(hours=hours, passes=float(meter.passes(day)), seasons=meter.seasons(day, today))
        since["clearances after the first hours"] = since["clearances"]
        told = next((sheet for sheet in rows.sheets if sheet.hours is not None), None)
        if told is not None:
            since[DRIFT] = Run(hours=now - float(told.hours or 0.0))
    return since


def _since_parts(parts: list[PartHours], since: dict[str, Run], meter: Meter, today: date) -> list[Rule]:
    """Lay the hours of parts whose start is known under the rules they count for; the rules of their own service hours."""
    oldest: dict[str, Run] = {}
    more = []
    for row in parts:
        if row.since is None:
            continue
        titanium = row.slot == "valve" and "titanium" in str(row.part.facts.get("material", ""))
        rule = "titanium valves" if titanium else _RULE_OF.get(row.slot)
        run = Run(hours=row.hours, passes=float(meter.passes(row.since)), seasons=meter.seasons(row.since, today))
        if rule and (rule not in oldest or row.hours > (oldest[rule].hours or 0.0)):
            oldest[rule] = run
        if row.part.service_hours:
            what = f"{row.part.name}, {row.side}"
            more.append(
                typed_rule(what, row.part.service_hours, Unit.HOURS, Whose.CARD, why="its service hours, on the shelf", does="renew it")
            )
            since[what] = run
    for rule, run in oldest.items():
        known = since.get(rule)
        if known is None or known.hours is None or (run.hours or 0.0) <= known.hours:
            since[rule] = run
    return more


def standing_of(build: Build, rows: Rows, today: date) -> DueStanding:
    """What is due on a build today, and between which days the rest will be. A count that runs backwards is told as trouble."""
    meter = meter_of(rows.runs, rows.sheets)
    since = _since_care(rows, meter, today)
    parts = part_hours(build, meter, rows.starts, today)
    more = _typed_rules(build, rows.typed) + _since_parts(parts, since, meter, today)
    drift = _drift_rule(build, rows.sheets)
    if drift:
        more.append(drift)
    seasons = spring_seasons(meter, parts, rows.logs)
    _since_tested(parts, seasons, since)
    for rule, ago in _load_rules(parts, seasons):
        more.append(rule)
        since[LOADS] = Run(hours=ago)
    changed = _changed_on(build)
    events: dict[After, Run | None] = {}
    if changed is not None:
        before = changed[0] - timedelta(days=1)
        events[After.CHANGE] = Run(hours=meter.ran_since(before), passes=float(meter.passes(before)), seasons=meter.seasons(before, today))
    if any(case.closed_at is None for case in rows.cases):
        events[After.OVER_REV] = Run(hours=0.0, passes=0.0, seasons=0.0)
    try:
        found = held(in_force(words_of(build) | _event_words(changed), more), since, events, _strained(build, parts))
    except OutOfRangeError as error:
        return DueStanding(meter=meter, rows=(), days={}, trouble=error.sentence)
    hours, passes = _paces(rows.runs, today)
    return DueStanding(
        meter=meter, rows=found, days={row.rule.id: days_of(row, today, hours, passes) for row in found}, trouble=meter.backwards
    )


def _strained(build: Build, parts: list[PartHours]) -> list[Due]:
    return strained(build, ((row.side, row.slot, row.part, row.hours) for row in parts))


def _paces(runs: list[Ran], today: date) -> tuple[Pace | None, Pace | None]:
    ago = [(today - run.made_on).days for run in runs]
    hours = pace_of(ago, [(run.seconds or 0.0) / 3600.0 for run in runs])
    return hours, pace_of(ago, [float(run.passes or 0) for run in runs])


def rows_of(build: Build) -> Rows:
    """All that bears on what is due on one build."""
    return Rows(**kept.rows_of([build])[build.pk])


# What stands out of every engine, kept for the board, the feed and the reminders.

_RANK = {state: number for number, state in enumerate(State)}
OUT = (State.OVER, State.DUE, State.SOON)
NOTHING = len(_RANK)


def _line(row: Due, days: tuple[date, date | None] | None) -> dict[str, Any]:
    return {
        "rule": row.rule.id, "what": row.rule.what, "state": row.state.name.lower(), "used": row.used, "least": row.rule.least, "most": row.rule.most,
        "unit": row.rule.unit.value, "whose": row.rule.whose.value, "why": row.rule.why, "does": row.rule.does,
        "first": days[0].isoformat() if days else None, "last": days[1].isoformat() if days and days[1] else None,
    }  # fmt: skip


def state_of(build: Build, found: DueStanding, today: date, at: datetime) -> DueState:
    """What is kept of it: lines that stand out or have a day, the most urgent first."""
    lines = [_line(row, found.days[row.rule.id]) for row in found.rows if row.state in OUT or found.days[row.rule.id]]
    rank = min((_RANK[row.state] for row in found.rows if row.state in OUT), default=NOTHING)
    return DueState(build=build, rank=rank, hours=found.meter.hours(today), lines=lines, day=today, at=at)


def refresh(workshop: Workshop, today: date, most: int = 100, only: Iterable[int] | None = None) -> int:
    """Work out anew what is due on engines of a workshop whose state is of another day or older than their last change; how many are left.

    `only` some builds. Two people at once do the same work twice; the later one stands.
    """
    wanted = kept.stale_builds(workshop, today, only)
    at = timezone.now()
    now, left = wanted[:most], max(0, len(wanted) - most)
    if not now:
        return left
    builds = with_parts(kept.builds_by_number(workshop, now))
    rows = kept.rows_of(builds)
    kept.keep_states([state_of(build, standing_of(build, Rows(**rows[build.pk]), today), today, at) for build in builds])
    return left


def standing_kept(build: Build, today: date) -> DueStanding:
    """What is due on one build, kept for the board too unless it is off it: what is said in one place is said in the other."""
    found = standing_of(build, rows_of(build), today)
    if build.archived_at is None and not build.practice:
        kept.keep_states([state_of(build, found, today, timezone.now())])
    return found
