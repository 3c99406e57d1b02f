"""Parts in hand, measured one by one, dealt to the seats: equal seat force, fewest shims, the lightest where it floats first.

Retainers, keepers and valves first, by mass: min of the greatest mass over spring force, over classes of equal mass so that copies of one answer
vanish (HiGHS). Then springs and shims: the least greatest error by bipartite matching, and within a window the fewest shims by assignment.
"""

import itertools
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import Bounds, LinearConstraint, linear_sum_assignment, milp
from scipy.sparse import coo_array, csr_array
from scipy.sparse.csgraph import maximum_bipartite_matching

from valvetrain.errors import ContradictionError
from valvetrain.units import FORCE, LENGTH, amount

Array = NDArray[np.float64]
TESTER = 1.0  # N that a good bench tester tells apart: to deal closer than that wastes shims. Source: judgement
_CLASS = 0.05e-3  # kg within which parts weigh the same. Source: judgement
_SECONDS = 8.0
_GAP = 0.01  # share of the best that is left open in masses: the scale tells no more


@dataclass(frozen=True, kw_only=True)
class Seat:
    """A seat: name, and the height (m) its springs stand at with nominal parts and no shim."""

    name: str
    height: float


@dataclass(frozen=True, kw_only=True)
class SpringInHand:
    """A spring: name, force N at a height m, rate N/m."""

    name: str
    load: float
    rate: float
    at: float

    def force(self, height: float) -> float:
        """Force (N) at a height (m)."""
        return self.load + self.rate * (self.at - height)


@dataclass(frozen=True, kw_only=True)
class PartInHand:
    """A retainer, a pair of keepers or a valve: name, mass kg, and by how much (m) it lets the spring stand higher than the nominal part."""

    name: str
    mass: float
    offset: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Stack:
    """Shims on one another: thickness m, and of how many it is made."""

    thickness: float
    count: int


@dataclass(frozen=True, kw_only=True)
class Dealt:
    """What one seat gets: spring, shims, the other parts by kind, force on the seat N, what moves kg (springs not in it)."""

    seat: Seat
    spring: str
    stack: Stack
    parts: dict[str, str]
    force: float
    mass: float


@dataclass(frozen=True, kw_only=True)
class Deal:
    """A whole deal: `worst` N from the force wanted, shims used, greatest mass kg, how many springs stay over."""

    seats: tuple[Dealt, ...]
    target: float
    worst: float
    shims: int
    heaviest: float
    over: tuple[str, ...]
    best_possible: float


def stacks_of(sizes: Sequence[float], most: float = 2e-3, together: int = 2) -> tuple[Stack, ...]:
    """What can be made of shims of these sizes (m), none to `together` of them and no thicker than `most`; of equal thickness the fewest."""
    best: dict[float, int] = {0.0: 0}
    for count in range(1, together + 1):
        for some in itertools.combinations_with_replacement(sorted(set(sizes)), count):
            thick = round(sum(some), 6)
            if thick <= most:
                best.setdefault(thick, count)
    return tuple(Stack(thickness=thick, count=count) for thick, count in sorted(best.items()))


def _errors(heights: Array, springs: Sequence[SpringInHand], stacks: Sequence[Stack], target: float) -> Array:
    """How far each spring over each stack would be from the force wanted, N, (seats, springs, stacks)."""
    load, rate, at = (np.array([getattr(spring, key) for spring in springs]) for key in ("load", "rate", "at"))
    thick = np.array([stack.thickness for stack in stacks])
    stands = heights[:, None, None] - thick[None, None, :]
    return np.asarray(load[None, :, None] + rate[None, :, None] * (at[None, :, None] - stands) - target)


def _covers(near: NDArray[np.bool_]) -> bool:
    """Whether every seat can have a spring of its own."""
    return bool((maximum_bipartite_matching(csr_array(near), perm_type="column") >= 0).all())


def least_error(heights: Array, springs: Sequence[SpringInHand], stacks: Sequence[Stack], target: float) -> float:
    """The least greatest error (N) of any deal of springs and shims: by halving over the errors that can be. Source: bottleneck assignment."""
    found = np.abs(_errors(heights, springs, stacks, target)).min(axis=2)
    values = np.unique(found)
    low, high = 0, len(values) - 1
    while low < high:
        middle = (low + high) // 2
        if _covers(found <= values[middle] + 1e-12):
            high = middle
        else:
            low = middle + 1
    return float(values[low])


def deal_springs(
    heights: Array, springs: Sequence[SpringInHand], stacks: Sequence[Stack], target: float, window: float = TESTER
) -> tuple[list[tuple[int, int]], float, float]:
    """Spring and stack for each seat: the fewest shims with which every seat is within `window` N of the force wanted, or within the least greatest
    error where that is wider; among those the closest. Also the greatest error, and the least that could be.

    Raises ContradictionError when there are fewer springs than seats.
    """
    if len(springs) < len(heights):
        raise ContradictionError(f"{len(heights)} seats want as many springs; {len(springs)} are in hand.")
    least = least_error(heights, springs, stacks, target)
    errors = _errors(heights, springs, stacks, target)
    allowed = np.abs(errors) <= max(window, least) + 1e-9
    count = np.array([stack.count for stack in stacks])
    # fewest shims first; of equal ones the closest, which must never outweigh a shim
    cost = np.where(allowed, count[None, None, :] * 1e3 + np.abs(errors) / (np.abs(errors).max() + 1e-9), np.inf)
    best = cost.argmin(axis=2)
    table = np.take_along_axis(cost, best[:, :, None], axis=2)[:, :, 0]
    rows, columns = linear_sum_assignment(np.where(np.isfinite(table), table, 1e9))
    picked = [(int(c), int(best[r, c])) for r, c in zip(rows, columns, strict=True)]
    worst = max(abs(errors[r, c, s]) for r, (c, s) in enumerate(picked))
    return picked, float(worst), least


def deal_masses(kinds: Sequence[Sequence[PartInHand]], holds: Array) -> list[list[int]]:
    """For each seat one part of each kind, so that the greatest mass over `holds` (N, what its springs hold) is as small as can be.

    Raises ContradictionError when a kind has fewer parts than there are seats.
    """
    seats = len(holds)
    for kind in kinds:
        if len(kind) < seats:
            raise ContradictionError(f"{seats} seats want as many parts of each kind; of one there are {len(kind)}.")
    classes = [sorted({round(part.mass / _CLASS) for part in kind}) for kind in kinds]
    sizes = [Counter(round(part.mass / _CLASS) for part in kind) for kind in kinds]
    starts = np.cumsum([0, *(len(each) * seats for each in classes)])
    total = int(starts[-1]) + 1  # the last is the greatest mass over force
    rows: list[int] = []
    columns: list[int] = []
    values: list[float] = []
    low: list[float] = []
    high: list[float] = []

    def row(entries: list[tuple[int, float]], least: float, most: float) -> None:
        at = len(low)
        for column, value in entries:
            rows.append(at)
            columns.append(column)
            values.append(value)
        low.append(least)
        high.append(most)

    for k, each in enumerate(classes):
        for seat in range(seats):
            row([(int(starts[k]) + seat * len(each) + c, 1.0) for c in range(len(each))], 1.0, 1.0)
        for c, name in enumerate(each):
            row([(int(starts[k]) + seat * len(each) + c, 1.0) for seat in range(seats)], 0.0, float(sizes[k][name]))
    scale = float(np.mean(holds))
    for seat in range(seats):
        entries = [
            (int(starts[k]) + seat * len(each) + c, name * _CLASS * 1e3 * scale / float(holds[seat]))
            for k, each in enumerate(classes)
            for c, name in enumerate(each)
        ]
        row([*entries, (total - 1, -1.0)], -np.inf, 0.0)
    matrix = coo_array((values, (rows, columns)), shape=(len(low), total)).tocsr()
    cost = np.zeros(total)
    cost[-1] = 1.0
    whole = np.ones(total)
    whole[-1] = 0
    upper = np.ones(total)
    upper[-1] = np.inf
    found = milp(
        cost, constraints=LinearConstraint(matrix, np.array(low), np.array(high)), integrality=whole, bounds=Bounds(np.zeros(total), upper),
        options={"time_limit": _SECONDS, "mip_rel_gap": _GAP},
    )  # fmt: skip
    if found.x is None:
        raise ContradictionError("No deal of these masses was found in time; deal fewer seats at once.")
    picked: list[list[int]] = [[] for _ in range(seats)]
    for k, each in enumerate(classes):
        bins = {name: [n for n, part in enumerate(kinds[k]) if round(part.mass / _CLASS) == name] for name in each}
        for seat in range(seats):
            chosen = int(np.argmax(found.x[int(starts[k]) + seat * len(each) : int(starts[k]) + (seat + 1) * len(each)]))
            picked[seat].append(bins[each[chosen]].pop())
    return picked


def deal(
    seats: Sequence[Seat], springs: Sequence[SpringInHand], kinds: Mapping[str, Sequence[PartInHand]], stacks: Sequence[Stack],
    target: float | None = None, window: float = TESTER,
) -> Deal:  # fmt: skip
    """Deal parts to seats. `kinds` by name, those that are in hand; `target` N on every seat, the middle of what can be had where None.

    Raises ContradictionError where parts are missing, or where no spring reaches the force wanted.
    """
    nominal = np.array([seat.height for seat in seats])
    middle = float(np.median([spring.force(float(np.median(nominal))) for spring in springs])) if springs else 0.0
    wanted = middle if target is None else target
    names = [name for name, parts in kinds.items() if parts]
    holds = np.full(len(seats), max(wanted, 1.0))
    by_seat = deal_masses([kinds[name] for name in names], holds) if names else [[] for _ in seats]
    heights = nominal + np.array([sum(kinds[name][n].offset for name, n in zip(names, own, strict=True)) for own in by_seat])
    picked, worst, least = deal_springs(heights, springs, stacks, wanted, window)
    if worst > 0.25 * wanted:
        raise ContradictionError(
            f"With these springs and shims the seats are {amount(worst, FORCE)} from {amount(wanted, FORCE)} at best: is the force wanted, or a height "
            f"of {amount(float(heights.max()), LENGTH)}, a slip?"
        )
    rows = []
    for n, seat in enumerate(seats):
        spring, stack = springs[picked[n][0]], stacks[picked[n][1]]
        own = {name: kinds[name][at].name for name, at in zip(names, by_seat[n], strict=True)}
        mass = sum(kinds[name][at].mass for name, at in zip(names, by_seat[n], strict=True))
        force = spring.force(float(heights[n]) - stack.thickness)
        rows.append(Dealt(seat=seat, spring=spring.name, stack=stack, parts=own, force=force, mass=mass))
    used = {row.spring for row in rows}
    return Deal(
        seats=tuple(rows), target=wanted, worst=worst, shims=sum(row.stack.count for row in rows), heaviest=max(row.mass for row in rows),
        over=tuple(spring.name for spring in springs if spring.name not in used), best_possible=least,
    )  # fmt: skip
