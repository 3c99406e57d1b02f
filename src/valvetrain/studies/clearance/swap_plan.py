"""Which shim goes where: all valves of an engine together, over the shims in it, the shop's stock and the sizes on sale.

Order of what counts (each first where the ones before are equal): every valve that can be is inside its limits; fewest to buy; closest to
the aim; fewest moved; the larger clearance. Solved by HiGHS through scipy's milp, one goal after the other.
"""

import math
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import coo_array

from valvetrain.errors import ContradictionError
from valvetrain.formulas.clearances import probability_inside
from valvetrain.studies.clearance.shim_plan import ClearanceInterval, ClearanceLimits, State, state_of
from valvetrain.units import LENGTH, amount, bare

CONFIDENCE = 0.95  # probability with which a valve must come out inside. Source: judgement, the usual of metrology
MICROMETER = 3.4e-6  # m, one standard deviation of a shim read with a micrometer of 0.01 mm (METHODS 13.3)
LABEL = 12.5e-6  # m, of a shim known by its label alone: labels lie by half a step either way. Source: judgement
_SLACK = 1e-9  # m, of binary rounding
BOUGHT = 5e-6  # m, of a new shim by its packet. Source: judgement


@dataclass(frozen=True)
class ValveNeed:
    """One valve: reading, limits and aim (m); `sigma` of its shim's thickness (m); `ratio` valve motion over blade motion.

    `stays` pins the shim that is in; `only` pins a shim by its key; `never` forbids shims by key.
    """

    name: str
    found: ClearanceInterval
    limits: ClearanceLimits
    aim: float
    ratio: float = 1.0
    sigma: float = MICROMETER
    stays: bool = False
    only: str = ""
    never: frozenset[str] = frozenset()


@dataclass(frozen=True)
class StockShim:
    """Shims of one size on the shelf: key, thickness (m), how many, one standard deviation (m)."""

    key: str
    size: float
    count: int
    sigma: float = MICROMETER


@dataclass(frozen=True)
class Fitting:
    """What one valve gets: shim by key and size, where it comes from (`stays`, a valve's name, `stock`, `buy`), the clearance it will have
    (m, the reading's whole interval), and the probability of being inside."""

    valve: str
    key: str
    size: float
    source: str
    low: float
    high: float
    inside: float
    letter: str = ""


@dataclass(frozen=True)
class SwapPlan:
    """The plan. `impossible` valves with the reason and what would make them possible; `buy` sizes (m) with how many; `to_stock` shims
    that come out and are needed nowhere, by valve. `worst` is the least probability of any fitted valve."""

    fittings: tuple[Fitting, ...]
    impossible: Mapping[str, str]
    buy: Mapping[float, int]
    to_stock: Mapping[str, float]
    moved: int
    worst: float

    @property
    def objective(self) -> tuple[int, int, int, int]:
        """Valves without a shim, shims to buy, deviation from the aims in tenths of a micrometre, valves moved."""
        return len(self.impossible), sum(self.buy.values()), self.deviation, self.moved

    deviation: int = 0


@dataclass(frozen=True)
class _Choice:
    valve: int
    key: str
    size: float
    source: str
    cost: int
    middle: float
    inside: float
    limited: str = field(default="")


def clearance_after(need: ValveNeed, size: float) -> tuple[float, float]:
    """The reading's interval (m) with another shim in."""
    change = ((need.found.shim or 0.0) - size) / need.ratio
    return need.found.low + change, need.found.high + change


def chance(need: ValveNeed, size: float, sigma: float, *, stays: bool = False) -> float:
    """Probability that a valve is inside its limits with a shim: its reading anywhere in its interval alike, thicknesses normal."""
    low, high = clearance_after(need, size)
    spread = 0.0 if stays else math.hypot(need.sigma, sigma) / need.ratio
    return probability_inside((low + high) / 2.0, (high - low) / 2.0, spread, need.limits.least, need.limits.most)


def _cost(need: ValveNeed, size: float, *, stays: bool) -> int:
    """Deviation from the aim in tenths of a micrometre; a valve that stays and is in range is not worth touching for its aim's sake."""
    low, high = clearance_after(need, size)
    if stays and state_of(need.found, need.limits) is State.IN_RANGE:
        return 0
    return round(abs((low + high) / 2.0 - need.aim) * 1e7)


def _on_sale(need: ValveNeed) -> list[float]:
    """Sizes on sale that could bring the valve near its limits."""
    shim = need.found.shim or 0.0
    limits = need.limits
    ends = [shim + (need.found.middle - value) * need.ratio for value in (limits.most, limits.least)]
    first = max(math.floor((min(ends) - limits.thinnest) / limits.step) - 1, 0)
    last = min(math.ceil((max(ends) - limits.thinnest) / limits.step) + 1, round((limits.thickest - limits.thinnest) / limits.step))
    return [round(limits.thinnest + number * limits.step, 9) for number in range(first, last + 1)]


def sale_key(size: float) -> str:
    """Key of a size on sale."""
    return f"buy {size * 1e3:.4f}"


def in_valve(name: str) -> str:
    """Key of the shim that is in a valve."""
    return f"in {name}"


def _choices(needs: list[ValveNeed], stock: list[StockShim], confidence: float) -> list[_Choice]:
    found = []
    for number, need in enumerate(needs):
        if need.found.shim is None:
            continue
        own = in_valve(need.name)
        offered = [
            (in_valve(other.name), other.found.shim, "stays" if other is need else other.name, other.sigma)
            for other in needs
            if other.found.shim is not None
        ]
        offered += [(shim.key, shim.size, "stock", shim.sigma) for shim in stock if shim.count > 0]
        offered += [(sale_key(size), size, "buy", BOUGHT) for size in _on_sale(need)]
        for key, size, source, sigma in offered:
            if key in need.never or (need.only and key != need.only) or (need.stays and key != own):
                continue
            low, high = clearance_after(need, size)
            pinned = need.stays and key == own
            if confidence >= 0.5 and not pinned and not need.limits.least - _SLACK <= (low + high) / 2.0 <= need.limits.most + _SLACK:
                continue  # the spread lies alike on both sides: with its middle outside, a valve is inside with less than one half
            inside = chance(need, size, sigma, stays=key == own)
            if inside >= confidence or pinned:
                found.append(_Choice(number, key, size, source, _cost(need, size, stays=key == own), (low + high) / 2.0, inside))
    return found


def _solve(choices: list[_Choice], needs: list[ValveNeed], stock: list[StockShim]) -> list[int]:
    """Indices of the chosen ones: lexicographic goals, each kept as a limit for the next."""
    count, valves = len(choices), len(needs)
    rows = [choice.valve for choice in choices]
    once = LinearConstraint(coo_array((np.ones(count), (rows, range(count))), shape=(valves, count)).tocsr(), 0, 1)
    limited = {in_valve(need.name): 1 for need in needs} | {shim.key: shim.count for shim in stock}
    offered = {choice.key for choice in choices}
    keys = [key for key in limited if key in offered]
    place = {key: number for number, key in enumerate(keys)}
    held = [(place[choice.key], n) for n, choice in enumerate(choices) if choice.key in place]
    constraints = [once]
    if held:
        table = coo_array((np.ones(len(held)), ([row for row, _ in held], [n for _, n in held])), shape=(len(keys), count)).tocsr()
        constraints.append(LinearConstraint(table, 0, np.array([limited[key] for key in keys], dtype=float)))
    goals = [
        -np.ones(count),
        np.array([choice.source == "buy" for choice in choices], dtype=float),
        np.array([choice.cost for choice in choices], dtype=float),
        np.array([choice.source != "stays" for choice in choices], dtype=float),
        -np.array([round(choice.middle * 1e7) for choice in choices], dtype=float),
    ]
    picked: list[int] = []
    for goal in goals:
        solved = milp(goal, integrality=np.ones(count), bounds=Bounds(0, 1), constraints=constraints, options={"mip_rel_gap": 0.0})
        if solved.x is None:
            break
        picked = [n for n in range(count) if solved.x[n] > 0.5]
        value = float(goal[picked].sum())
        constraints.append(LinearConstraint(goal[None, :], -np.inf, value + 0.25))
    return picked


def _why_not(need: ValveNeed, choices_without_pins: int) -> str:
    """Why a valve gets no shim, and what would make it possible."""
    limits = need.limits
    if need.found.shim is None:
        return "the fitted shim is not known: measure it."
    if (need.stays or need.only or need.never) and choices_without_pins:
        return "what is pinned or forbidden leaves no shim: take a pin away."
    wanted = need.found.shim + (need.found.middle - need.aim) * need.ratio
    wide = (need.found.high - need.found.low) / 2.0
    if wanted < limits.thinnest - limits.step / 2.0:
        return (
            f"it needs {amount(wanted, LENGTH, 3)}, thinner than the thinnest on sale ({amount(limits.thinnest, LENGTH)}): the seat has sunk; stem tip or seat "
            "work, or another range of shims."
        )
    if wanted > limits.thickest + limits.step / 2.0:
        return (
            f"it needs {amount(wanted, LENGTH, 3)}, thicker than the thickest on sale ({amount(limits.thickest, LENGTH)}): worn tip, follower or lobe; look before "
            "setting, or another range of shims."
        )
    if 2.0 * wide > 0.6 * (limits.most - limits.least):
        return "its reading is too wide for these limits: read it again with blades nearer to one another."
    return f"no size in steps of {amount(limits.step, LENGTH, 3)} brings it surely inside {bare(limits.least, LENGTH)} to {amount(limits.most, LENGTH)}: a finer step, or a finer reading."


def _letters(fittings: list[Fitting]) -> list[Fitting]:
    """Letter each chain of moves: a shim that goes on to another valve carries the letter of the chain."""
    by_valve = {each.valve: each for each in fittings}
    lettered: dict[str, str] = {}
    label = iter("ABCDEFGHIJKLMNOPQRSTUVWXYZ" * 3)
    for start in fittings:
        if start.source == "stays" or start.valve in lettered:
            continue
        # walk back to where the chain begins: a valve whose new shim comes from outside, or round a ring
        at, seen = start, {start.valve}
        while at.source in by_valve and by_valve[at.source].source != "stays" and at.source not in seen:
            at = by_valve[at.source]
            seen.add(at.valve)
        letter = next(label)
        goes = {each.source: each.valve for each in fittings if each.source in by_valve and each.source != each.valve}
        valve: str | None = at.valve
        while valve is not None and valve not in lettered and by_valve[valve].source != "stays":
            lettered[valve] = letter
            valve = goes.get(valve)
    found = [Fitting(**{**each.__dict__, "letter": lettered.get(each.valve, "")}) for each in fittings]
    return sorted(found, key=lambda each: (each.letter or "~", list(lettered).index(each.valve) if each.valve in lettered else 0))


def swap_plan(needs: list[ValveNeed], stock: list[StockShim], confidence: float = CONFIDENCE) -> SwapPlan:
    """Plan all valves together. Raises ContradictionError for two valves or two shelves of one name."""
    for names, what in (([need.name for need in needs], "valve"), ([shim.key for shim in stock], "shelf")):
        twice = [name for name, count in Counter(names).items() if count > 1]
        if twice:
            raise ContradictionError(f"There are two of one {what}: {twice[0]}.")
    choices = _choices(needs, stock, confidence)
    picked = [choices[n] for n in _solve(choices, needs, stock)] if choices else []
    fittings = []
    for choice in sorted(picked, key=lambda each: each.valve):
        low, high = clearance_after(needs[choice.valve], choice.size)
        fittings.append(Fitting(needs[choice.valve].name, choice.key, choice.size, choice.source, low, high, choice.inside))
    served = {fitting.valve for fitting in fittings}
    free = [ValveNeed(each.name, each.found, each.limits, each.aim, each.ratio, each.sigma) for each in needs]
    impossible = {}
    for number, need in enumerate(needs):
        if need.name not in served:
            open_choices = sum(choice.valve == number for choice in _choices(free, stock, confidence))
            impossible[need.name] = _why_not(need, open_choices)
    used = {fitting.key for fitting in fittings}
    to_stock = {
        need.name: need.found.shim
        for need in needs
        if need.found.shim is not None and need.name in served and in_valve(need.name) not in used
    }
    buy = Counter(fitting.size for fitting in fittings if fitting.source == "buy")
    return SwapPlan(
        tuple(_letters(fittings)), impossible, dict(sorted(buy.items())), to_stock, sum(fitting.source != "stays" for fitting in fittings),
        min((fitting.inside for fitting in fittings), default=1.0), sum(choice.cost for choice in picked),
    )  # fmt: skip
