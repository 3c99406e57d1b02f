"""What a search needs of parts, computed once for every shard: what fits what, what moves with the valve, how springs push and stand."""

import itertools
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ValveTrainError
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.record import PartRecord
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.parts.spring import PackedSpring
from valvetrain.studies.choose.fit import Fit, FitRule, clash, fit_rules, judge_fit
from valvetrain.studies.choose.proposal import Bench, Stand, filled, springs_of, stand_of, stock_part, stock_spring, with_set
from valvetrain.studies.choose.slots import NOTHING, Candidate, PartSet, Shelf, Slot
from valvetrain.studies.train.assembly import complete, packed_spring
from valvetrain.studies.train.float_rows import column
from valvetrain.studies.train.priors import ROWS
from valvetrain.studies.train.side_figures import seat_demand, weakest

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
_MOVING = (Slot.VALVE, Slot.RETAINER, Slot.KEEPERS, Slot.FOLLOWER)
_TOPS = (Slot.VALVE, Slot.KEEPERS)


@dataclass(frozen=True, kw_only=True)
class Dropped:
    """A part that is in no set, and why; the sentence holds amounts in SI."""

    slot: Slot
    name: str
    why: str


def ready_shelf(bench: Bench, shelf: Shelf) -> tuple[Shelf, tuple[Dropped, ...]]:
    """The shelf with every part filled; parts whose figures contradict one another, and cams that tell no lift, are left out and named."""
    found: dict[Slot, tuple[Candidate, ...]] = {}
    dropped: list[Dropped] = []
    for slot in Slot:
        rows = []
        for each in shelf.parts[slot]:
            part = each.record
            if each.empty or part == stock_part(bench.record, bench.side, slot):
                rows.append(replace(each, alone=stock_spring(bench, slot)))
                continue
            if slot is Slot.CAM and part.lobe is None and not part.figures.keys() & {"lift", "lobe_height"}:
                dropped.append(Dropped(slot=slot, name=part.name, why="Its lift is not known: nothing of it can be judged."))
                continue
            try:
                rows.append(replace(each, record=filled(bench, slot, part)))
            except ValveTrainError as error:
                dropped.append(Dropped(slot=slot, name=part.name, why=error.sentence))
        if not rows and slot in (Slot.INNER, Slot.SPRING_SHIM):
            rows = [NOTHING]
        found[slot] = tuple(rows)
    return Shelf(parts=found), tuple(dropped)


def head_part(bench: Bench) -> PartRecord:
    """The head as a part: what is told of its side, and of its oil feeds."""
    told = {**bench.record.stock[bench.side].fit, **bench.record.proposed[bench.side].fit}
    return PartRecord("the head", told, dict(bench.record.facts))


@dataclass(frozen=True, kw_only=True)
class FitTray:
    """How many sets are left after one rule, in the order of the rules."""

    rule: FitRule
    left: int


class Joins:
    """Which parts go together: a matrix for each pair of places, and how many sets pass the rules one after the other."""

    def __init__(self, shelf: Shelf, head: PartRecord) -> None:
        self.shelf, self.head = shelf, head
        self.rules = tuple(rule for rule in fit_rules() if all(part in _PLACES for part in rule.about))
        self.ok: dict[tuple[Slot, Slot | None], Mask] = {}
        self.untold: dict[str, int] = {}
        self.trays: list[FitTray] = []
        pair_of = {pair: number for number, pair in enumerate(_PAIRS)}
        for pair in pair_of:
            self.ok[pair] = np.ones((len(shelf.parts[pair[0]]), 1 if pair[1] is None else len(shelf.parts[pair[1]])), dtype=np.bool_)
        for rule in self.rules:
            self._apply(rule)
            self.trays.append(FitTray(rule=rule, left=self.count()))

    def _parts(self, slot: Slot | None) -> tuple[PartRecord, ...]:
        return (self.head,) if slot is None else tuple(each.record for each in self.shelf.parts[slot])

    def _apply(self, rule: FitRule) -> None:
        """Narrow the matrix of the rule's two places; what touches the innermost spring touches the inner, or the outer where there is none."""
        left, right = rule.about
        targets = [(_PLACES[left], _PLACES[right])] if right != "innermost" else [(_PLACES[left], Slot.INNER), (_PLACES[left], Slot.OUTER)]
        for a, b in targets:
            turned = a is None or (a, b) not in self.ok
            first, second = (b, a) if turned else (a, b)
            assert first is not None
            matrix = self.ok[first, second]
            for i, one in enumerate(self._parts(first)):
                for j, other in enumerate(self._parts(second)):
                    if (one.name == "" and not one.figures) or (other.name == "" and not other.figures):
                        continue
                    if not matrix[i, j]:
                        continue
                    found = judge_fit(rule, *((other, one) if turned else (one, other))).fit
                    if found is Fit.UNTOLD:
                        self.untold[rule.id] = self.untold.get(rule.id, 0) + 1
                    if found is Fit.CLASH and not (right == "innermost" and b is Slot.OUTER):
                        matrix[i, j] = False
                    elif found is Fit.CLASH:
                        self._alone[i if turned else j] = False

    @cached_property
    def _alone(self) -> Mask:
        """Outer springs that may stand without an inner one."""
        return np.ones(len(self.shelf.parts[Slot.OUTER]), dtype=np.bool_)

    @property
    def packs(self) -> Mask:
        """Outer with inner springs."""
        found = self.ok[Slot.INNER, Slot.OUTER].T & self.ok[Slot.OUTER, None] & self.ok[Slot.INNER, None][:, 0]
        empty = np.array([each.empty for each in self.shelf.parts[Slot.INNER]])
        return np.asarray(np.where(empty, found & self._alone[:, None], found))

    def packs_of(self, retainer: int) -> Mask:
        """Those that go on one retainer."""
        on = self.ok[Slot.OUTER, Slot.RETAINER][:, retainer][:, None] & self.ok[Slot.INNER, Slot.RETAINER][:, retainer]
        return np.asarray(self.packs & on)

    def tops_of(self, retainer: int) -> Mask:
        """Valves with keepers that go with one retainer."""
        ok = self.ok
        found = ok[Slot.VALVE, Slot.KEEPERS] & ok[Slot.KEEPERS, Slot.RETAINER][:, retainer] & ok[Slot.VALVE, None]
        return np.asarray(found & ok[Slot.VALVE, Slot.RETAINER][:, retainer][:, None])

    def count(self) -> int:
        """How many sets go together: given the retainer, springs, tops and riders on the lobe are independent of one another."""
        ok, shims, total = self.ok, len(self.shelf.parts[Slot.SPRING_SHIM]), 0
        on = (ok[Slot.CAM, Slot.FOLLOWER] & ok[Slot.CAM, None]).astype(np.int64)
        for r in np.flatnonzero(ok[Slot.RETAINER, None][:, 0]):
            followers = ok[Slot.FOLLOWER, Slot.RETAINER][:, r] & ok[Slot.FOLLOWER, None][:, 0]
            tops = self.tops_of(int(r)).astype(np.int64)
            tipped = tops.sum(axis=1) @ (ok[Slot.VALVE, Slot.FOLLOWER] & followers).astype(np.int64) @ on.T
            total += int(self.packs_of(int(r)).sum()) * int(tipped.sum())
        return total * shims


_PLACES: dict[str, Slot | None] = {
    "valve": Slot.VALVE, "keepers": Slot.KEEPERS, "retainer": Slot.RETAINER, "outer": Slot.OUTER, "inner": Slot.INNER, "cam": Slot.CAM,
    "follower": Slot.FOLLOWER, "head": None, "innermost": Slot.INNER,
}  # fmt: skip
_PAIRS: tuple[tuple[Slot, Slot | None], ...] = (
    (Slot.VALVE, Slot.KEEPERS), (Slot.VALVE, Slot.RETAINER), (Slot.VALVE, Slot.FOLLOWER), (Slot.VALVE, None), (Slot.KEEPERS, Slot.RETAINER),
    (Slot.OUTER, Slot.RETAINER), (Slot.INNER, Slot.RETAINER), (Slot.INNER, Slot.OUTER), (Slot.OUTER, None), (Slot.INNER, None),
    (Slot.RETAINER, None), (Slot.FOLLOWER, Slot.RETAINER), (Slot.FOLLOWER, None), (Slot.CAM, Slot.FOLLOWER), (Slot.CAM, None),
)  # fmt: skip


@dataclass(frozen=True, eq=False, kw_only=True)
class Group:
    """Riders (retainer, valve, keepers, follower) whose springs stand at one height, m; `seals` the gap of each to its seal."""

    height: Figure
    picks: NDArray[np.int64]
    seals: tuple[Figure, ...]


class Tables:
    """Everything of a search that does not hang on the cam. `train` is the side as it is, from which every other is made."""

    def __init__(self, bench: Bench, shelf: Shelf) -> None:
        self.bench = bench
        self.shelf, self.dropped = ready_shelf(bench, shelf)
        self.joins = Joins(self.shelf, head_part(bench))
        self.base = {slot: self.shelf.parts[slot][0] for slot in Slot}
        self.done = complete(with_set(bench, PartSet(self.base)))
        self.train: TrainSide = self.done.proposed.sides[bench.side]
        self.goal: Goal = self.done.goal
        self.place = weakest(self.train)
        self.weights = self.train.joint.weights if self.train.joint else np.full(ROWS, 1.0 / ROWS)
        self.rows: list[Array] = []
        self._row: dict[tuple[str, Figure], int] = {}
        # what is worked out once and used by every shard: springs as they stand, riders, gaps, cams
        self.items: dict[tuple[tuple[int, int], int, Figure], Any] = {}
        self.riders: dict[tuple[int, Figure], Any] = {}
        self.rooms: dict[tuple[Any, ...], tuple[int, float]] = {}
        self.codes: dict[tuple[tuple[int, int], Figure], tuple[NDArray[np.uint8], Array]] = {}
        self._motions: dict[tuple[int, int], Any] = {}
        self._packs_on: dict[int, Mask] = {}
        self._groups: dict[int, dict[Figure, Group]] = {}

    @cached_property
    def radix(self) -> NDArray[np.int64]:
        """What each place of a set's numbers counts, so that sums of them order sets as the numbers do."""
        sizes = [len(self.shelf.parts[slot]) for slot in Slot]
        return np.array([np.prod(sizes[place + 1 :], dtype=np.int64) for place in range(len(sizes))], dtype=np.int64)

    @cached_property
    def packs(self) -> list[tuple[int, int]]:
        """Outer and inner springs, by number, that go together on some retainer."""
        anywhere = np.zeros_like(self.joins.packs)
        for r in range(len(self.shelf.parts[Slot.RETAINER])):
            if self.joins.ok[Slot.RETAINER, None][r, 0]:
                anywhere |= self.joins.packs_of(r)
        return [(int(o), int(i)) for o, i in zip(*np.nonzero(anywhere), strict=True)]

    @cached_property
    def motions(self) -> list[tuple[int, int]]:
        """Cams with followers, by number, that go together."""
        ok = self.joins.ok[Slot.CAM, Slot.FOLLOWER] & self.joins.ok[Slot.CAM, None]
        return [(int(c), int(f)) for c, f in zip(*np.nonzero(ok), strict=True) if self.joins.ok[Slot.FOLLOWER, None][int(f), 0]]

    def motion(self, numbers: tuple[int, int], make: Callable[["Tables", tuple[int, int]], Any]) -> Any:
        """A cam under a follower, made once."""
        if numbers not in self._motions:
            self._motions[numbers] = make(self, numbers)
        return self._motions[numbers]

    def packs_on(self, retainer: int) -> Mask:
        """Packs that go on one retainer, (outer, inner)."""
        if retainer not in self._packs_on:
            self._packs_on[retainer] = self.joins.packs_of(retainer)
        return self._packs_on[retainer]

    @cached_property
    def heights(self) -> list[Figure]:
        """Heights at which springs may stand, with any follower."""
        return list(dict.fromkeys(height for _, follower in self.motions for height in self.groups(follower)))

    def groups(self, follower: int) -> dict[Figure, Group]:
        """The riders with one follower, by the height at which they let the springs stand."""
        if follower not in self._groups:
            self._groups[follower] = self._grouped(follower)
        return self._groups[follower]

    def _grouped(self, follower: int) -> dict[Figure, Group]:
        joins, parts = self.joins, self.shelf.parts
        found: dict[Figure, list[tuple[int, int, int, int, Figure]]] = {}
        tips = joins.ok[Slot.VALVE, Slot.FOLLOWER][:, follower]
        for r in range(len(parts[Slot.RETAINER])):
            if not joins.ok[Slot.RETAINER, None][r, 0] or not joins.ok[Slot.FOLLOWER, Slot.RETAINER][follower, r]:
                continue
            for v, k in zip(*np.nonzero(joins.tops_of(r) & tips[:, None]), strict=True):
                stand = self._stand(int(v), int(k), r)
                found.setdefault(stand.height, []).append((r, int(v), int(k), follower, stand.seal))
        return {
            height: Group(height=height, picks=np.array([row[:4] for row in rows]), seals=tuple(row[4] for row in rows))
            for height, rows in found.items()
        }

    def _stand(self, valve: int, keepers: int, retainer: int) -> Stand:
        parts = self.shelf.parts
        key = (valve, keepers, retainer)
        if key not in self._stands:
            picks = {
                Slot.VALVE: parts[Slot.VALVE][valve], Slot.KEEPERS: parts[Slot.KEEPERS][keepers],
                Slot.RETAINER: parts[Slot.RETAINER][retainer], Slot.SPRING_SHIM: NOTHING,
            }  # fmt: skip
            self._stands[key] = stand_of(self.bench, picks)
        return self._stands[key]

    @cached_property
    def _stands(self) -> dict[tuple[int, int, int], Stand]:
        return {}

    def springs(self, pack: tuple[int, int], height: Figure) -> tuple[PackedSpring, ...]:
        """The springs of a pack as they are at an installed height, outer first; the stock pack's as they were completed."""
        outer, inner = self.shelf.parts[Slot.OUTER][pack[0]], self.shelf.parts[Slot.INNER][pack[1]]
        told = springs_of(self.bench, outer, inner)
        if told == self.bench.record.stock[self.bench.side].springs:
            return self.done.stock.sides[self.bench.side].springs
        step = self.done.proposed_sides[self.bench.side].fit["inner_step"]
        return tuple(packed_spring(part.figures, part.facts, height, step if number else Figure(0.0)) for number, part in enumerate(told))

    def column(self, name: str, figure: Figure) -> Array:
        """The rows of one figure, as the float of a side takes them."""
        if figure.spread == 0.0:
            return np.full(ROWS, figure.value)
        return np.asarray(column(self.train, name, figure))

    def number(self, name: str, figure: Figure) -> int:
        """Number of a figure's rows among those that may decide; -1 for what is exactly known."""
        if figure.spread <= 0.0:
            return -1
        key = (name, figure)
        if key not in self._row:
            self._row[key] = len(self.rows)
            self.rows.append(self.normal(self.column(name, figure)))
        return self._row[key]

    def normal(self, values: Array) -> Array:
        """Rows centred, of unit variance, and weighted, so that a sum of products with them is a covariance."""
        away = values - values @ self.weights
        wide = float((away * away) @ self.weights)
        return np.asarray(self.weights * away / np.sqrt(wide)) if wide > 0.0 else np.zeros(ROWS)

    def mass(self, slot: Slot, number: int) -> Figure:
        """What a part of the shelf weighs at the valve."""
        each = self.shelf.parts[slot][number].record
        own = stock_part(self.bench.record, self.bench.side, slot)
        if each == own:
            return self.done.stock.sides[self.bench.side].masses[slot.value]
        figure = each.figures["mass"]
        share = self.train.on_a_lobe if slot is Slot.FOLLOWER else 1
        return figure if share == 1 else Figure(figure.value / share, figure.spread / share, figure.basis)

    def needs(self, valve: int) -> tuple[float, float, float, float]:
        """What must be kept on the seat with a valve: N, variance, its estimated part, and how much of it is gas."""
        if valve not in self._needs:
            side = self.with_valve(self.train, valve)
            demand = seat_demand(side, self.goal)
            wide = demand.needed.spread**2
            estimated = sum(share for name, share in demand.needed.shares if demand.figures[name].basis is Basis.ESTIMATE)
            self._needs[valve] = (demand.needed.value, wide, wide * estimated, demand.gas)
        return self._needs[valve]

    @cached_property
    def _needs(self) -> dict[int, tuple[float, float, float, float]]:
        return {}

    def with_valve(self, side: TrainSide, valve: int) -> TrainSide:
        """A side with another valve's head, seat and stem."""
        part = self.shelf.parts[Slot.VALVE][valve].record
        own = stock_part(self.bench.record, self.bench.side, Slot.VALVE)
        figures: Mapping[str, Figure] = (
            self.done.stock_sides[self.bench.side].parts[Owner.VALVE] if part == own else part.figures
        )  # fmt: skip
        return replace(
            side, head_diameter=figures["head_diameter"], seat_width=figures["seat_width"], stem_diameter=figures["stem_diameter"]
        )


def set_at(shelf: Shelf, numbers: Mapping[Slot, int]) -> PartSet:
    """A set by the numbers of its parts."""
    return PartSet({slot: shelf.parts[slot][numbers[slot]] for slot in Slot})


def every_set(shelf: Shelf) -> Iterator[tuple[int, ...]]:
    """The numbers of every set, in the order of the places: for small shelves."""
    return itertools.product(*(range(len(shelf.parts[slot])) for slot in Slot))


def goes_together(shelf: Shelf, head: PartRecord, numbers: Mapping[Slot, int]) -> bool:
    """Whether one set goes together, by every rule in turn."""
    there: dict[str, PartRecord] = {
        slot.value: shelf.parts[slot][numbers[slot]].record for slot in Slot if not shelf.parts[slot][numbers[slot]].empty
    }
    there["head"] = head
    there["innermost"] = there.get("inner", there["outer"])
    rules = [rule for rule in fit_rules() if all(part in there and part in _PLACES for part in rule.about)]
    return not any(clash((rule,), there[rule.left[0]], there[rule.right[0]]) for rule in rules)
