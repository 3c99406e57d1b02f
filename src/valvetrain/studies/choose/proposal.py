"""A set of parts as the record of a build: the same record that a page would judge, so that search and page cannot disagree.

What a shelf part leaves untold is completed once, by the part alone, and told as an estimate from then on: it would change with its set
otherwise.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import EngineKind, Side
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.parts.gaps import GapReading
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord
from valvetrain.parts.stale import Change, State, makes, subject_of_gap
from valvetrain.studies.choose.slots import Candidate, PartSet, Slot
from valvetrain.studies.train.assembly import CompletedBuild, complete

_PLACED = {
    Slot.CAM: Owner.CAM,
    Slot.RETAINER: Owner.RETAINER,
    Slot.KEEPERS: Owner.KEEPERS,
    Slot.VALVE: Owner.VALVE,
    Slot.FOLLOWER: Owner.FOLLOWER,
}
# What must be known of a part that it can be judged in any set; the rest follows or is the same for all.
_WANTED: dict[Slot, tuple[str, ...]] = {
    Slot.VALVE: ("head_diameter", "stem_diameter", "seat_width", "mass"),
    Slot.RETAINER: ("mass",),
    Slot.KEEPERS: ("mass",),
    Slot.FOLLOWER: ("mass",),
    Slot.OUTER: ("rate", "load", "mass", "solid_height"),
    Slot.INNER: ("rate", "load", "mass", "solid_height"),
}
_CHANGES = {
    Slot.CAM: Change.CAM, Slot.RETAINER: Change.RETAINER, Slot.KEEPERS: Change.RETAINER, Slot.VALVE: Change.VALVE, Slot.FOLLOWER: Change.FOLLOWER,
}  # fmt: skip
_UNTOLD = 0.3e-3  # m, by which parts of another maker may move a height of which nothing is told (k = 2). Source: judgement
_STACK = {Slot.VALVE: ("groove_height", 1.0), Slot.KEEPERS: ("rise", 1.0), Slot.RETAINER: ("spring_face", -1.0)}


@dataclass(frozen=True, kw_only=True)
class Stand:
    """How a set's springs stand, m: `height` installed without added shim, `shim`, and `seal` the gap of the retainer to the seal, shut."""

    height: Figure
    shim: Figure
    seal: Figure


@dataclass(frozen=True, kw_only=True)
class Bench:
    """What sets are put into: the build's record, the side, and the record as completed; `own` the parts whose heights were measured."""

    record: BuildRecord
    side: Side
    done: CompletedBuild

    @property
    def own(self) -> SideRecord:
        """The side that the measured heights belong to: the proposed one where heights were told of it, else the stock one."""
        proposed = self.record.proposed[self.side]
        return proposed if "installed_height" in proposed.fit else self.record.stock[self.side]

    @property
    def fit(self) -> FigureMap:
        """How that side is fitted, without a gap."""
        sides = self.done.proposed_sides if self.own is self.record.proposed[self.side] else self.done.stock_sides
        return sides[self.side].fit

    def nearest(self, picks: Mapping[Slot, Candidate]) -> tuple[SideRecord, FigureMap]:
        """Of stock and proposed side the one that shares more of what the springs stand on with a set: its heights are the set's, as far as they go."""
        stock = self.record.stock[self.side]
        told = [(self.own, self.fit), (stock, self.done.stock_sides[self.side].fit)]
        shared = lambda side: sum(side.parts.get(slot.owner, PartRecord()) == picks[slot].record for slot in _STACK)
        return max(told, key=lambda each: shared(each[0]))


def bench_of(record: BuildRecord, side: Side) -> Bench:
    """The bench for one side of a build. Raises ValveTrainError when the build's own figures contradict one another."""
    return Bench(record=record, side=side, done=complete(record))


def stock_part(record: BuildRecord, side: Side, slot: Slot) -> PartRecord | None:
    """What came with the engine in a place; None where nothing did."""
    own = record.stock[side]
    if slot is Slot.OUTER:
        return own.springs[0]
    if slot is Slot.INNER:
        return own.springs[1] if len(own.springs) > 1 else None
    return own.parts.get(_PLACED[slot], PartRecord()) if slot in _PLACED else None


def springs_of(bench: Bench, outer: Candidate, inner: Candidate) -> tuple[PartRecord, ...]:
    """The springs of a set as the record tells them: the stock pack as it is, a stock spring in another pack with its estimates told."""
    told = (outer.record,) if inner.empty else (outer.record, inner.record)
    if told == bench.record.stock[bench.side].springs:
        return told
    return tuple(each.alone or each.record for each in (outer, inner) if not each.empty)


def stock_spring(bench: Bench, slot: Slot) -> PartRecord | None:
    """A stock spring with what was estimated of it in its own pack; None for anything else."""
    own = stock_part(bench.record, bench.side, slot)
    if own is None or slot not in (Slot.OUTER, Slot.INNER):
        return None
    return replace(own, figures=dict(bench.done.stock_sides[bench.side].springs[1 if slot is Slot.INNER else 0]))


def filled(bench: Bench, slot: Slot, part: PartRecord) -> PartRecord:
    """The part with what nobody told of it, as an estimate of the part alone among the stock ones. Raises ValveTrainError where its figures
    contradict one another."""
    if slot is Slot.CAM:
        return _filled_cam(bench, part)
    wanted = _WANTED.get(slot, ())
    told = set(part.figures)
    if "seat_load" in told:
        told.add("load")  # a force that stands at the installed height, whatever that is
    if "load" in told and "seat_load" in told and "load_height" in part.figures:
        told.add("rate")
    if slot in (Slot.OUTER, Slot.INNER) and {"wire_diameter", "mean_diameter", "total_coils", "free_length"} <= told:
        return part
    if told >= set(wanted):
        return part
    own = bench.record.stock[bench.side]
    if slot in (Slot.OUTER, Slot.INNER):
        springs = (part,) if slot is Slot.OUTER else (own.springs[0], part)
        side = replace(own, springs=springs)
    else:
        side = replace(own, parts={**own.parts, _PLACED[slot]: part})
    found = complete(replace(bench.record, proposed={**bench.record.proposed, bench.side: side})).proposed_sides[bench.side]
    figures = found.springs[-1 if slot is Slot.INNER else 0] if slot in (Slot.OUTER, Slot.INNER) else found.parts[_PLACED[slot]]
    missing = {key: figures[key] for key in wanted if key not in told}
    if "load" in missing:
        missing["load_height"] = figures["load_height"]
    return replace(part, figures={**part.figures, **missing})


def _filled_cam(bench: Bench, part: PartRecord) -> PartRecord:
    """A cam's card with the durations it leaves out, from the class of engine."""
    if part.lobe is not None or {"height_1", "duration_1"} <= part.figures.keys() or {"opens_1", "shuts_1"} <= part.figures.keys():
        return part
    own = bench.record.stock[bench.side]
    side = replace(own, parts={**own.parts, Owner.CAM: part})
    found = complete(replace(bench.record, proposed={**bench.record.proposed, bench.side: side})).proposed_sides[bench.side].cam.figures
    return replace(part, figures={**part.figures, "height_1": found["height_1"], "duration_1": found["duration_1"]})


def stand_of(bench: Bench, picks: Mapping[Slot, Candidate]) -> Stand:
    """How the springs stand with the valve, keepers and retainer of a set, and with the shim under them.

    Heights were measured with the bench's own parts; each other part moves them by its dimensions, where both are told, and by an unknown
    little where they are not.
    """
    own, fit = bench.nearest(picks)
    height, seal = fit["installed_height"], fit["retainer_to_seal"]
    moved = [_moved(own.parts.get(slot.owner, PartRecord()), picks[slot].record, key, sign) for slot, (key, sign) in _STACK.items()]
    under = _moved(own.parts.get(Owner.RETAINER, PartRecord()), picks[Slot.RETAINER].record, "underside", -1.0)
    shim = picks[Slot.SPRING_SHIM].record.figures.get("thickness", Figure(0.0, 0.0, Basis.CARD))
    return Stand(height=_sum(height, *moved), shim=shim, seal=_sum(seal, *moved, under))


def _moved(own: PartRecord, other: PartRecord, key: str, sign: float) -> Figure:
    """By how much (m) another part in a place moves a height."""
    if own == other or other.figures.get(key) == own.figures.get(key) != None:  # noqa: E711  (two untold dimensions are not equal ones)
        return Figure(0.0)
    a, b = own.figures.get(key), other.figures.get(key)
    if a is None or b is None:
        return Figure(0.0, _UNTOLD, Basis.ESTIMATE)
    return Figure(sign * (b.value - a.value), math.hypot(a.spread, b.spread), max(a.basis, b.basis, key=list(Basis).index))


def _sum(first: Figure, *others: Figure) -> Figure:
    """A height with what moves it; its basis is the worst of those that matter."""
    felt = [first, *(each for each in others if each.value or each.spread)]
    spread = math.sqrt(sum(each.spread**2 for each in felt))
    main = max(felt, key=lambda each: each.spread)
    return Figure(round(sum(each.value for each in felt), 10), spread, main.basis if len(felt) > 1 else first.basis)


def with_set(bench: Bench, chosen: PartSet) -> BuildRecord:
    """The build's record with a set proposed on the bench's side; its parts are `filled` ones."""
    picks, record, side = chosen.picks, bench.record, bench.side
    proposed = record.proposed[side]
    parts = dict(proposed.parts)
    for slot, owner in _PLACED.items():
        parts[owner] = picks[slot].record
        if owner not in record.stock[side].parts and picks[slot].record == PartRecord():
            del parts[owner]
    springs = springs_of(bench, picks[Slot.OUTER], picks[Slot.INNER])
    same = all(parts.get(owner) == proposed.parts.get(owner) for owner in _PLACED.values() if owner is not Owner.CAM)
    fit = dict(proposed.fit)
    if not same:  # what was measured with other parts is not known of these
        for key in ("follower_gap", "tip_height"):
            fit.pop(key, None)
    changed = {_CHANGES[slot] for slot, owner in _PLACED.items() if parts.get(owner) != proposed.parts.get(owner)}
    if springs != proposed.springs:
        changed.add(Change.SPRING)
    gaps = tuple(gap for gap in record.gaps if gap.side is not side or not _void(gap, changed, record.kind))
    stand = stand_of(bench, picks)
    fit |= {"installed_height": stand.height, "spring_shim": stand.shim, "retainer_to_seal": stand.seal}
    low = proposed.low_cam if parts.get(Owner.CAM) == proposed.parts.get(Owner.CAM) else None
    own = SideRecord(parts=parts, springs=springs, fit=fit, low_cam=low)
    return replace(record, proposed={**record.proposed, side: own}, gaps=gaps)


def _void(gap: GapReading, changed: set[Change], kind: EngineKind) -> bool:
    """Whether what was read is not true any more once these are changed."""
    return any(makes(change, subject_of_gap(gap.gap), kind) is State.VOID for change in changed)
