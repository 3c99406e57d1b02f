"""What one valve needs after its clearance was read: shim, turn of the screw, metal off the stem, or nothing."""

from dataclasses import dataclass
from enum import StrEnum

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.clearances import clearance_with_shim, interval_inside, nearest_size, screw_turns, shim_thickness
from valvetrain.parts.engine import SHIMMED, Adjuster

BLADE_FEEL = 0.010e-3  # m, k = 2, that the drag of one blade leaves open. Source: judgement
MOST_CLEARANCE, LEAST_SHIM, MOST_SHIM = 1.5e-3, 0.5e-3, 12e-3  # m; beyond them the unit is wrong. Source: judgement
THINNEST_BLADE, LIKELY_CLEARANCE = (
    0.02e-3,
    0.8e-3,
)  # m; between them a bare number is a likely clearance. Source: common practice, no source

_SLACK = 1e-9


class State(StrEnum):
    """Where a clearance lies against its limits."""

    IN_RANGE = "in range"
    TIGHT = "tight"
    LOOSE = "loose"
    UNDECIDED = "undecided"


class Aim(StrEnum):
    """Where in the range to aim."""

    MIDDLE = "middle"
    LOOSE_END = "loose end"
    OWN = "own"


class Act(StrEnum):
    """What to do at one valve."""

    STAYS = "stays"
    SHIM = "shim"
    TURN = "turn"
    GRIND = "grind"
    FINER_BLADE = "finer blade"
    NEED_SHIM = "measure the shim"
    IMPOSSIBLE = "impossible"
    NOTHING = "nothing to set"


@dataclass(frozen=True)
class ClearanceLimits:
    """Cold clearance limits (m) and the sizes of shim on sale (m)."""

    least: float
    most: float
    step: float = 0.05e-3
    thinnest: float = 1.2e-3
    thickest: float = 3.5e-3

    def aim(self, aim: Aim) -> float:
        """Clearance aimed at (m): the middle, or a quarter of the range below its loose end."""
        width = self.most - self.least
        return self.least + width * (0.5 if aim is Aim.MIDDLE else 0.75)


@dataclass(frozen=True)
class ClearanceInterval:
    """What was read: the clearance lies in `low..high` (m, equal for a best blade); `shim` (m) may be unknown."""

    low: float
    high: float
    shim: float | None = None

    @property
    def middle(self) -> float:
        """Middle of the interval, m."""
        return (self.low + self.high) / 2.0


@dataclass(frozen=True)
class ValvePlan:
    """What to do at one valve and what it will be then. Lengths in m, `amount` in m or turns as the act needs."""

    state: State
    off_by: float
    act: Act
    wanted: float | None
    amount: float | None
    low_after: float | None
    high_after: float | None
    sure: bool | None
    why: str


def state_of(found: ClearanceInterval, limits: ClearanceLimits) -> State:
    """Where the reading lies; undecided when its interval straddles a limit."""
    inside = interval_inside(found.low, found.high, limits.least, limits.most)
    if inside:
        return State.IN_RANGE
    if inside is None:
        return State.UNDECIDED
    return State.TIGHT if found.middle < limits.least else State.LOOSE


def off_by(found: ClearanceInterval, limits: ClearanceLimits) -> float:
    """How far the middle of the reading is outside the limits, m; zero inside."""
    return max(limits.least - found.middle, found.middle - limits.most, 0.0)


def plan_valve(
    found: ClearanceInterval,
    limits: ClearanceLimits,
    adjuster: Adjuster,
    aim: Aim | float = Aim.MIDDLE,
    ratio: float = 1.0,
    pitch: float = 0.75e-3,
) -> ValvePlan:
    """Plan one valve. `ratio` is valve motion over motion where the blade is (of a screw: where the screw is); `pitch` the adjuster's
    thread, m; `aim` a place in the range, or a clearance of one's own, m.

    Raises OutOfRangeError for readings that cannot be. Source: METHODS 10 closed forms; sizes and ties: trade.
    """
    if found.low < 0.0 or found.high < found.low or limits.most <= limits.least:
        raise OutOfRangeError("A clearance interval must be zero or more, and must not end before it begins.")
    state, off = state_of(found, limits), off_by(found, limits)

    def plain(act: Act, why: str, wanted: float | None = None) -> ValvePlan:
        sure = True if state is State.IN_RANGE else None
        return ValvePlan(
            state=state, off_by=off, act=act, wanted=wanted, amount=None, low_after=found.low, high_after=found.high, sure=sure, why=why
        )

    if adjuster is Adjuster.HYDRAULIC:
        return plain(Act.NOTHING, "Hydraulic followers take up their own clearance; check that none is collapsed or noisy.")
    if state is State.IN_RANGE:
        return plain(Act.STAYS, "The whole reading lies inside the limits.", found.shim)
    if state is State.UNDECIDED and found.low < found.high:
        limit = "least" if found.low < limits.least else "most"
        return plain(Act.FINER_BLADE, f"The reading straddles the {limit} allowed: use a blade between the two.")
    target = limits.aim(aim) if isinstance(aim, Aim) else aim
    if adjuster in SHIMMED:
        return _plan_shim(found, limits, target, ratio, (state, off))
    if adjuster is Adjuster.SCREW:
        turns = screw_turns(found.middle, target, pitch, ratio)
        half = (found.high - found.low) / 2.0
        why = "Hold the screw while the lock nut is tightened, then read again: it creeps."
        return ValvePlan(
            state=state,
            off_by=off,
            act=Act.TURN,
            wanted=None,
            amount=turns,
            low_after=target - half,
            high_after=target + half,
            sure=True,
            why=why,
        )
    if state is State.LOOSE:
        return plain(Act.IMPOSSIBLE, "Metal cannot be put back on the stem: cut the seat deeper, or fit a new valve.")
    metal = target - found.middle
    half = (found.high - found.low) / 2.0
    why = "Grind square, a little at a time, and read again well before the full amount is off."
    return ValvePlan(
        state=state,
        off_by=off,
        act=Act.GRIND,
        wanted=None,
        amount=metal,
        low_after=target - half,
        high_after=target + half,
        sure=True,
        why=why,
    )


def _plan_shim(found: ClearanceInterval, limits: ClearanceLimits, target: float, ratio: float, known: tuple[State, float]) -> ValvePlan:
    if found.shim is None:
        return ValvePlan(*known, Act.NEED_SHIM, None, None, None, None, None, "Measure the fitted shim with a micrometer.")
    try:
        wanted = shim_thickness(found.shim, found.middle, target, ratio)
        size = nearest_size(wanted, limits.step, limits.thinnest, limits.thickest)
    except OutOfRangeError as error:
        return ValvePlan(*known, Act.IMPOSSIBLE, None, None, None, None, None, f"{error.sentence} Look at seat and stem tip.")
    low = clearance_with_shim(found.shim, found.low, size, ratio)
    high = clearance_with_shim(found.shim, found.high, size, ratio)
    sure = interval_inside(max(low, 0.0), high, limits.least, limits.most)
    why = {
        True: "The whole interval lies inside the limits with this size.",
        None: "With this size the interval straddles a limit: read with a finer pair of blades before buying.",
        False: "No size on sale brings it inside: the step between sizes is too coarse for these limits.",
    }[sure]
    return ValvePlan(*known, Act.SHIM, wanted, size, low, high, sure, why)


def same_as_before(predicted: tuple[float, float], found: ClearanceInterval) -> bool:
    """Whether a re-check agrees with the prediction: the two intervals touch, within a micrometre."""
    return found.low <= predicted[1] + 1e-6 + _SLACK and found.high >= predicted[0] - 1e-6 - _SLACK


def from_blades(blades: list[float], feel: float) -> tuple[float, float]:
    """The interval of several best-blade readings of one valve (m): their mean, give or take the feel or half their range.

    Raises OutOfRangeError for none.
    """
    if not blades:
        raise OutOfRangeError("Give at least one reading.")
    middle = sum(blades) / len(blades)
    half = max(feel, (max(blades) - min(blades)) / 2.0)
    return max(middle - half, 0.0), middle + half


def grind_passes(metal: float) -> tuple[float, ...]:
    """Metal to take off a stem in steps that stop short (m): half, then half of the rest, until five hundredths are left, then those.

    Source: trade (a little at a time; ground too far means a new valve)
    """
    left, passes = metal, []
    while left > 0.05e-3:
        passes.append(round(left / 2.0, 6))
        left -= passes[-1]
    return (*passes, round(left, 6)) if left > 0.0 else tuple(passes)


def exchanged(deviations: dict[str, float], shims: dict[str, float], slack: float) -> list[tuple[str, str]]:
    """Pairs of valves whose re-checks are off as if their shims (m) had been exchanged; `deviations` found less predicted (m)."""
    pairs = []
    names = sorted(deviations)
    for number, one in enumerate(names):
        for two in names[number + 1 :]:
            if one not in shims or two not in shims:
                continue
            apart = shims[two] - shims[one]
            if abs(apart) > slack and abs(deviations[one] + apart) <= slack and abs(deviations[two] - apart) <= slack:
                pairs.append((one, two))
    return pairs
