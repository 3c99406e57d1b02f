"""Does everything have room? Every gap of a set-up as a check, with what would free more."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

import numpy as np

from valvetrain.memory import Kept, name_of
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import EngineKind, Gear, Side
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.gaps import GapKind, GapReading
from valvetrain.parts.record import BuildRecord
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.checks.assessment import judge, parts_of
from valvetrain.studies.checks.check import Check, CheckSubject, Verdict
from valvetrain.studies.gaps.geometry import RoomGeometry, geometry_of
from valvetrain.studies.gaps.others import OtherGap, other_gaps
from valvetrain.studies.gaps.piston import LeastGap, least_gap, least_rim
from valvetrain.studies.gaps.valves import HeadsApart, bore_reach, least_apart
from valvetrain.studies.train.assembly import CompletedBuild
from valvetrain.studies.train.head_change import head_change
from valvetrain.studies.train.uncertainty import Numbers, Propagated, propagate
from valvetrain.units import LENGTH, QuantityKind, amount

_RIM = np.radians(np.linspace(-12.0, 12.0, 13))
_PISTON: Kept[LeastGap] = Kept(128)
_OTHER: Kept[list[OtherGap]] = Kept(128)
_BORE: Kept[Propagated] = Kept(256)


@dataclass(frozen=True)
class RoomReview:
    """The room of the proposed set-up. `checks` in the order of the gaps; `how` by check's code and about; `counts` tells which of them
    speak for the whole build: those that rest on more than estimates, or whose parts are no longer the stock ones."""

    geometry: RoomGeometry
    pistons: Mapping[Side, LeastGap]
    heads: HeadsApart | None
    checks: tuple[Check, ...]
    how: Mapping[tuple[CheckSubject, str], str]
    counts: frozenset[tuple[CheckSubject, str]]
    notes: tuple[str, ...]

    @property
    def counting(self) -> list[Check]:
        """The checks that speak for the whole build."""
        return [check for check in self.checks if (check.code, check.about) in self.counts]


def limit_of(goal: Goal, key: str) -> tuple[float, str]:
    """A gap's limit (m) and where it comes from."""
    return goal.limits[key], goal.origin.get(key, "common practice")


def unproven_unless_short(verdict: Verdict) -> Verdict:
    """What rests on an estimate alone can be short, but never more than unproven."""
    return verdict if verdict is Verdict.SHORT else Verdict.UNPROVEN


class _Book:
    """Gathers the checks of one set-up."""

    def __init__(self, goal: Goal, changed: Mapping[Side, bool]) -> None:
        self.goal, self.changed = goal, changed
        self.checks: list[Check] = []
        self.how: dict[tuple[CheckSubject, str], str] = {}
        self.counts: set[tuple[CheckSubject, str]] = set()

    def add(
        self, code: CheckSubject, side: Side | None, found: Propagated, limit_key: str, how: str, why: str, valve: str = "",
    ) -> None:  # fmt: skip
        limit, origin = limit_of(self.goal, limit_key)
        margin = found.value - limit
        verdict = judge(margin, found.spread, on_estimates=found.rests_on_estimates)
        guessed = how == "estimate" or (how == "computed" and found.estimated > 0.5)
        if guessed:
            verdict = unproven_unless_short(verdict)
        basis = {"estimate": "estimates", "computed": "computed"}.get(how, how)
        about = side.value if side else ""
        check = Check(
            code=code, about=about, side=side, worst=valve, kind=QuantityKind.LENGTH, figure=found.value, limit=limit, at_least=True, margin=margin, spread=found.spread, basis=basis, dominant=found.shares[:4], verdict=verdict,
            why=why, limit_origin=origin, parts=parts_of(found),
        )  # fmt: skip
        self.checks.append(check)
        self.how[code, about] = how if not (how == "computed" and guessed) else "estimate"
        touched = any(self.changed.values()) if side is None else self.changed[side]
        if not guessed or touched:
            self.counts.add((code, about))


def _piston_words(least: LeastGap) -> str:
    degrees = math.degrees(least.at)
    where = f"{abs(degrees):.0f}° {'after' if degrees >= 0 else 'before'} overlap TDC"
    phaser = f", phaser {abs(math.degrees(least.advance)):.0f}° {'early' if least.advance > 0 else 'late'}" if least.advance else ""
    slipped = [gap for gap in (least.early, least.late) if gap is not None]
    tooth = ""
    if slipped:
        tooth = (
            f" A cam one tooth off leaves {amount(min(slipped), LENGTH)}." if min(slipped) > 0.0 else " A cam one tooth off lets them meet."
        )
    return f"Along the stem, least {where}{phaser}. A valve that meets the piston bends or breaks.{tooth}"


def _piston(book: _Book, geometry: RoomGeometry, train: TrainSide, least: LeastGap, readings: tuple[GapReading, ...]) -> None:
    side, how = train.side, least.rest.how
    shares = least.shares
    estimated = 1.0 if how == "estimate" else 0.0
    found = Propagated(least.value, least.spread, shares, estimated)
    book.add(GapKind.PISTON_VALVE, side, found, f"piston_gap_limit_{side}", how, _piston_words(least), least.rest.valve)
    rows = [row for row in readings if row.gap is GapKind.POCKET_RIM and row.side is side]
    words = "Beside the head, in its pocket: the rim must not ride up the pocket's wall."
    if rows:
        worst = min(rows, key=lambda row: row.value)
        rim = Propagated(worst.value, worst.spread, (), 0.0)
        book.add(GapKind.POCKET_RIM, side, rim, GapKind.POCKET_RIM.limit_key, worst.way.value, words, worst.valve)
        return
    nominal = least_rim(geometry, train, least.rest.figure.value, least.advance)
    if nominal is None:
        return
    place = geometry.places[side]
    figures = {"pocket_diameter": place.pocket_diameter, "head_diameter": place.head_diameter, "pocket_offset": place.pocket_offset}
    parts = propagate(lambda x: (x["pocket_diameter"] - x["head_diameter"]) / 2.0 - abs(x["pocket_offset"]), figures)
    spread = math.hypot(parts.spread, place.pocket_offset.spread)  # the offset's sign is unknown: its whole spread counts
    told = place.pocket_diameter.basis is not Basis.ESTIMATE
    shares = tuple((f"room:{name}", share) for name, share in parts.shares)
    book.add(
        GapKind.POCKET_RIM, side, Propagated(nominal, spread, shares, 0.0 if told else 1.0), GapKind.POCKET_RIM.limit_key,
        "computed" if told else "estimate", words,
    )  # fmt: skip


def _heads(book: _Book, geometry: RoomGeometry, done: CompletedBuild, readings: tuple[GapReading, ...]) -> HeadsApart | None:
    trains = done.proposed.sides
    heads = least_apart(geometry, trains, done.engine)
    rows = [row for row in readings if row.gap is GapKind.VALVE_VALVE]
    degrees = math.degrees(heads.at)
    why = (
        f"Heads across from one another, over both phasers' ranges; nearest {abs(degrees):.0f}° {'after' if degrees >= 0 else 'before'} "
        f"overlap TDC, at {amount(heads.lifts[0], LENGTH, 1)} of intake and {amount(heads.lifts[1], LENGTH, 1)} of exhaust lift."
    )
    if rows:
        worst = min(rows, key=lambda row: row.value)
        found, how, valve = Propagated(worst.value, worst.spread, (), 0.0), worst.way.value, worst.valve
    else:
        known = all(place.offset.basis is not Basis.ESTIMATE for place in geometry.places.values())
        how, valve = "computed" if known else "estimate", ""
        found = Propagated(heads.value, heads.spread, heads.shares, 0.0 if known else 1.0)
    book.add(GapKind.VALVE_VALVE, None, found, GapKind.VALVE_VALVE.limit_key, how, why, valve)
    return heads


def _bore(book: _Book, geometry: RoomGeometry, train: TrainSide, readings: tuple[GapReading, ...]) -> None:
    side, place = train.side, geometry.places[train.side]
    rows = [row for row in readings if row.gap is GapKind.VALVE_BORE and row.side is side]
    why = "The head's outer edge against the bore's wall, wherever it stands below the gasket face; a smaller bore shrouds the valve too."
    if rows:
        worst = min(rows, key=lambda row: row.value)
        book.add(
            GapKind.VALVE_BORE,
            side,
            Propagated(worst.value, worst.spread, (), 0.0),
            GapKind.VALVE_BORE.limit_key,
            worst.way.value,
            why,
            worst.valve,
        )
        return
    figures: dict[str, Figure] = {
        "angle": place.angle, "head_diameter": place.head_diameter, "offset": place.offset, "apart": place.apart, "height": place.height,
        "bore": geometry.chamber.bore, "lift": train.lift,
    }  # fmt: skip

    found = _BORE.get(name_of(figures), partial(_bore_gap, figures))
    told = place.offset.basis is not Basis.ESTIMATE and place.apart.basis is not Basis.ESTIMATE
    shares = tuple((f"room:{name}" if name != "lift" else name, share) for name, share in found.shares)
    book.add(
        GapKind.VALVE_BORE, side, Propagated(found.value, found.spread, shares, 0.0 if told else 1.0), GapKind.VALVE_BORE.limit_key,
        "computed" if told else "estimate", why,
    )  # fmt: skip


def _bore_gap(figures: dict[str, Figure]) -> Propagated:
    """The head's outer edge to the bore's wall, m."""
    _, farthest = bore_reach({name: figure.value for name, figure in figures.items()}, figures["lift"].value)
    rim = farthest + _RIM  # small errors move the nearest place of the rim by little

    def model(x: Numbers) -> float:
        return x["bore"] / 2.0 - bore_reach(x, x["lift"], rim)[0]

    return propagate(model, figures)


def _changed(record: BuildRecord, side: Side) -> bool:
    """Whether anything that takes room is no longer what came with the engine."""
    stock, proposed = record.stock[side], record.proposed[side]
    owners = (Owner.CAM, Owner.VALVE, Owner.RETAINER, Owner.FOLLOWER)
    return any(stock.parts.get(owner) != proposed.parts.get(owner) for owner in owners) or stock.springs != proposed.springs


def room_review(record: BuildRecord, done: CompletedBuild) -> RoomReview:
    """Every gap of the proposed set-up beside those of springs and seals that the first verdict holds already.

    Raises ValveTrainError where the geometry told cannot be.
    """
    kind: EngineKind = record.kind
    geometry, readings = geometry_of(done, kind), record.gaps
    change = head_change(kind, done.engine)
    book = _Book(done.goal, {side: change is not None or _changed(record, side) for side in Side})
    pistons: dict[Side, LeastGap] = {}
    heads: HeadsApart | None = None
    notes: list[str] = []
    names = {side: name_of(done.names["proposed", side], readings) for side in done.proposed.sides}
    for side, train in done.proposed.sides.items():
        stock = done.stock.sides[side]
        if kind.gear is not Gear.SIDE_VALVE:
            pistons[side] = _PISTON.get(names[side], partial(least_gap, geometry, train, stock, readings, done.engine))
            notes += pistons[side].rest.notes
            _piston(book, geometry, train, pistons[side], readings)
            _bore(book, geometry, train, readings)
    if kind.gear is not Gear.SIDE_VALVE:
        heads = _heads(book, geometry, done, readings)
    for side, train in done.proposed.sides.items():
        others = partial(
            other_gaps, kind, train, done.stock.sides[side], done.proposed_sides[side], done.stock_sides[side],
            record.proposed[side].fit, readings, change.nearer if change else 0.0,
        )  # fmt: skip
        for gap in _OTHER.get(names[side], others):
            book.add(gap.gap, side, gap.found, gap.gap.limit_key, gap.how, gap.why, gap.valve)
    return RoomReview(geometry, pistons, heads, tuple(book.checks), book.how, frozenset(book.counts), tuple(notes))
