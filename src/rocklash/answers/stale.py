"""Readings that no longer count, because a part was changed since: with the reason."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property

from django.utils.dateparse import parse_datetime

from rocklash.records.models import Build, GapReading, Part, SetupRole, SetupSide
from rocklash.records.selectors.changes import slot_changes, works_done
from valvetrain.parts.engine import EngineKind
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.stale import (
    STEPS_THAT_CHANGE,
    Change,
    State,
    Subject,
    change_of_slot,
    change_of_step,
    change_of_work,
    makes,
    subject_of_gap,
)

_HEAD_FIGURES = ("face_off", "gasket_new")


@dataclass(frozen=True)
class Stale:
    """Why a reading no longer counts, or should be looked at again."""

    state: State
    reason: str

    @property
    def void(self) -> bool:
        """Whether it counts no more."""
        return self.state is State.VOID


@dataclass(frozen=True)
class _Slot:
    at: datetime
    by: str
    side: str
    slot: str
    before: int | None


class Changes:
    """What was changed in the proposed set-up of a build; read once, and only where something was read of the build."""

    def __init__(self, build: Build, kind: EngineKind, rows: dict[tuple[str, str], SetupSide]) -> None:
        self.build, self.kind, self.rows = build, kind, rows

    @cached_property
    def _slots(self) -> list[_Slot]:
        sides = {row.pk: side for (role, side), row in self.rows.items() if role == SetupRole.PROPOSED}
        found = []
        for at, by, data in slot_changes(self.build):
            for change in data:
                if change.get("row") != "setupside" or change.get("pk") not in sides:
                    continue
                for column, (before, _) in change.get("set", {}).items():
                    slot = column.removesuffix("_id")
                    if slot != column:
                        found.append(_Slot(at, by or "somebody", sides[change["pk"]], slot, before))
        return found

    @cached_property
    def _names(self) -> dict[int, str]:
        return dict(Part.objects.filter(pk__in={each.before for each in self._slots if each.before}).values_list("pk", "name"))

    def since(self, at: datetime, side: str, subject: Subject) -> Stale | None:
        """What became of something read at a moment on a side: void weighs more than to be looked at."""
        found = [*self._by_parts(at, side, subject), *self._by_head(at, subject), *self._by_work(at, side, subject)]
        return min(found, key=lambda each: each.state is not State.VOID, default=None)

    @cached_property
    def _works(self) -> list[tuple[datetime, Change, str, list[str]]]:
        sides = {place.name: place.side for place in self.build.engine.positions.all()}
        found = []
        for at, _, what, where in works_done(self.build):
            change = change_of_step(what) if what in STEPS_THAT_CHANGE else change_of_work(what)
            if change:
                found.append((at, change, what, [sides.get(each, each) for each in where if each]))
        return found

    def _by_work(self, at: datetime, side: str, subject: Subject) -> Iterable[Stale]:
        for moment, change, what, where in self._works:
            state = makes(change, subject, self.kind)
            if moment > at and state and (not where or side in where):
                who = "" if what in STEPS_THAT_CHANGE else " at the machine shop"
                yield Stale(state, f"{change.value} on {moment:%d %b}{who}")

    def _by_parts(self, at: datetime, side: str, subject: Subject) -> Iterable[Stale]:
        first: dict[str, _Slot] = {}
        for each in self._slots:
            if each.at > at and each.side == side:
                first.setdefault(each.slot, each)
        for slot, each in first.items():
            now: Part | None = getattr(self.rows[SetupRole.PROPOSED, side], slot)
            if each.before == (now.pk if now else None):
                continue  # changed there and back
            state = makes(change_of_slot(slot), subject, self.kind)
            if state:
                was = self._names.get(each.before or 0, "none")
                yield Stale(state, f"the {slot.replace('_', ' ')} was changed on {each.at:%d %b} from {was} to {now or 'none'}")

    def _by_head(self, at: datetime, subject: Subject) -> Iterable[Stale]:
        state = makes(Change.HEAD, subject, self.kind)
        for key in _HEAD_FIGURES if state else ():
            moment = parse_datetime(self.build.engine.figures.get(key, {}).get("at", "") or "")
            if state and moment and moment >= at.replace(microsecond=0):  # a figure keeps whole seconds
                what = "the head's face was taken down" if key == "face_off" else "the head gasket was changed"
                yield Stale(state, f"{what} on {moment:%d %b}")


def stale_notes(changes: Changes, moments: Iterable[tuple[str, datetime]], side: str, subject: Subject) -> list[str]:
    """A sentence for each thing read of a side (its name, and when) that no longer counts or wants another look."""
    found = []
    for name, at in moments:
        stale = changes.since(at, side, subject)
        if stale:
            found.append(f"{name}: {'void' if stale.void else 'look again'}, {stale.reason}.")
    return found


def stale_gaps(changes: Changes, readings: Iterable[GapReading]) -> dict[int, Stale]:
    """Gap readings that no longer count or want another look, by number."""
    found = {}
    for row in readings:
        stale = changes.since(row.at, row.position.side, subject_of_gap(GapKind(row.gap)))
        if stale:
            found[row.pk] = stale
    return found
