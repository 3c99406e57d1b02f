"""Changes of the Room station: gaps read at the bench, over-revs and what was found after them."""

import math
import re

from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.answers.gaps import rest_from
from rocklash.answers.over_rev import reached_of
from rocklash.answers.results import result_of
from rocklash.answers.rows import kind_of, positions_of
from rocklash.commands.base import Command, Refused, number_of
from rocklash.records.models import GapReading, InspectionFinding, OverRevCase, Position
from rocklash.stations.room.forms import GapForm, OverRevForm
from valvetrain.errors import ContradictionError, QuantityError
from valvetrain.parts.engine import Side
from valvetrain.parts.gaps import WAY_SPREAD, GapKind, Way, check_reading
from valvetrain.quantities import parse
from valvetrain.studies.running.inspection import inspection, outcome
from valvetrain.units import QuantityKind, UnitSystem, show

_MOST_LINES = 40
_SPLIT = re.compile(r"\s*[;,\t]\s*|\s{1,}(?=[\d.−-])")


def _pairs(text: str, system: UnitSystem) -> list[tuple[float | None, float, str]]:
    """Lines of `angle gap`, or single gaps: crank rad or None, m, as typed. Raises QuantityError naming the line."""
    found: list[tuple[float | None, float, str]] = []
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if not lines:
        raise QuantityError("Nothing is typed. Write a gap, or a crank angle and a gap on each line.")
    if len(lines) > _MOST_LINES:
        raise QuantityError(f"{len(lines)} lines are too many: {_MOST_LINES} at most.")
    for number, line in enumerate(lines, start=1):
        parts = [part for part in _SPLIT.split(line.replace("\N{MINUS SIGN}", "-"), maxsplit=1) if part]
        try:
            if len(parts) == 1:
                found.append((None, parse(parts[0], QuantityKind.LENGTH, system).value, line))
            else:
                angle = parse(parts[0], QuantityKind.ANGLE, system).value
                found.append((angle, parse(parts[1], QuantityKind.LENGTH, system).value, line))
        except QuantityError as error:
            raise QuantityError(f"Line {number}, “{line}”: {error.sentence}") from error
    return found


class KeepGaps(Command):
    """Keep one gap, or the points of a drop test, read on one valve. All lines or none; the same gap read again the same way takes the place of
    what was read before."""

    verb = "gap"
    form = GapForm

    def apply(self) -> None:
        """`readings` are lines of a gap, or of a crank angle and a gap."""
        gap, way = GapKind(self.cleaned["gap"]), Way(self.cleaned["way"])
        place = get_object_or_404(Position, engine=self.subject.engine_id, pk=number_of(self.cleaned["valve"]))
        try:
            rows = self._rows(gap, way, place)
        except (QuantityError, ContradictionError) as error:
            raise Refused(f"{place}: {error.sentence} {self.nothing}") from error
        for old in GapReading.objects.select_for_update(of=("self",), no_key=True).filter(
            build=self.subject, position=place, gap=gap.value, way=way.value
        ):
            self.ledger.drop(old)
        self.ledger.made(GapReading.objects.bulk_create(rows))
        self.note(f"{place}, {gap.value.replace('_', ' ')}, {way.value}", "", ", ".join(row.typed for row in rows))

    def _rows(self, gap: GapKind, way: Way, place: Position) -> list[GapReading]:
        result, rows = result_of(self.subject), []
        for angle, value, typed in _pairs(self.cleaned["readings"], self.system):
            check_reading(gap, value, angle)
            if gap is GapKind.PISTON_VALVE and (angle is None) != (way is Way.CLAY):
                need = "one thickness, without an angle" if way is Way.CLAY else "a crank angle before each gap, for example −10 1.84"
                raise Refused(f"{place}: {way.value} needs {need}. {self.nothing}")
            rest = rest_from(result, Side(place.side), value, angle) if gap is GapKind.PISTON_VALVE else None
            rows.append(
                GapReading(
                    build=self.subject, position=place, gap=gap.value, way=way.value, value=value, spread=WAY_SPREAD[way], angle=angle, rest=rest,
                    typed=typed[:80], by=self.member.user,
                )
            )  # fmt: skip
        return rows


class DropGap(Command):
    """Take one reading of a gap back."""

    verb = "gap"

    def apply(self) -> None:
        """`reading` is its number."""
        rows = GapReading.objects.select_for_update(of=("self",), no_key=True).select_related("position")
        row = get_object_or_404(rows, build=self.subject, pk=number_of(self.text("reading")))
        self.note(f"{row.position}, {row.gap.replace('_', ' ')}", row.typed, "removed")
        self.ledger.drop(row)


class BeginOverRev(Command):
    """Keep an over-rev: rpm before and two gears, a road speed and the gear it went into, or a logged peak."""

    verb = "over-rev"
    judged = False
    form = OverRevForm

    def apply(self) -> None:
        """Enough of them to tell how far it went."""
        told = {key: typed.value if typed else None for key, typed in self.cleaned.items() if key != "note"}
        peak, before, road, gear_from, gear_to = (told[key] for key in ("peak", "before", "road", "gear_from", "gear_to"))
        shifted = before is not None and gear_from is not None and gear_to is not None
        if peak is None and not shifted and (road is None or gear_to is None):
            raise Refused(
                "Give the logged peak, or the speed before the shift with both gears, or the speed over the ground with the gear it went into. "
                + self.nothing
            )
        values = {
            "before": before, "gear_from": gear_from, "gear_to": gear_to, "road": None if shifted else road, "peak": peak,
            "note": self.cleaned["note"], "by": self.member.user, "build": self.subject,
        }  # fmt: skip
        reached = reached_of(result_of(self.subject), OverRevCase(**values))
        if not math.isfinite(reached.high) or reached.high * 60 > 40000:
            raise Refused(f"These gears would drag it to {reached.high * 60:,.0f} rpm. Are the ratios right? {self.nothing}")
        self.made = self.ledger.make(OverRevCase, **values)
        self.note("", "", f"up to {show(reached.high, QuantityKind.SPEED)} rpm")


class _OfACase(Command):
    """A command on one over-rev."""

    judged = False

    def case(self) -> OverRevCase:
        """The case that was sent, locked."""
        return get_object_or_404(
            OverRevCase.objects.select_for_update(of=("self",), no_key=True), build=self.subject, pk=number_of(self.text("case"))
        )


class KeepFinding(_OfACase):
    """Keep what was found at one step; an empty finding takes it back. A step somebody else filled meanwhile is not overwritten."""

    verb = "inspection"

    def apply(self) -> None:
        """`seen` is the finding the person saw."""
        case, engine = self.case(), self.subject.engine
        if case.closed_at:
            raise Refused("This inspection is signed; begin a new one to look again.")
        step = {each.key: each for each in inspection(kind_of(engine), positions_of(engine))}.get(self.text("step"))
        finding = self.text("finding")
        if step is None or (finding and finding not in {each.key for each in step.findings}):
            raise Refused("There is no such step or finding.")
        now = InspectionFinding.objects.select_for_update(no_key=True).filter(case=case, step=step.key).first()
        found = now.finding if now else ""
        if found == finding:
            return
        if self.text("seen") != found:
            raise Refused(
                f"{step.place}, {step.title.lower()}: meanwhile somebody else found “{found or 'nothing yet'}”. Choose again.",
                conflict=True,
            )
        if finding:
            self.ledger.put(InspectionFinding, {"case": case, "step": step.key}, finding=finding, by=self.member.user)
        elif now:
            self.ledger.drop(now)
        self.note(f"{step.place}, {step.title.lower()}", found, finding)


class CloseCase(_OfACase):
    """Sign an inspection in which every step was looked at."""

    verb = "inspection"
    reversible = False
    nothing = "Nothing was signed."

    def apply(self) -> None:
        """Signed once it stays."""
        if self.subject.practice:
            raise Refused("A practice copy cannot be signed: its readings may be simulated. Inspect the build itself.")
        case, engine = self.case(), self.subject.engine
        state, words = outcome(inspection(kind_of(engine), positions_of(engine)), {row.step: row.finding for row in case.findings.all()})
        if state == "open":
            raise Refused(f"{words} {self.nothing}")
        self.ledger.set(case, closed_at=timezone.now(), closed_by=self.member.user)
        self.note("", "", f"signed: {state}")
