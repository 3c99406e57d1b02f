"""The answers backwards: what springs, mass and lobe the goal asks for, and whether such a spring can exist in the room it has."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.coil_springs import OIL_HARDENED_SHEAR_MODULUS, shear_stress
from valvetrain.formulas.spring_fatigue import Wire, tensile_strength, torsional_yield
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.figure import Figure
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.parts.spring import PackedSpring, Spring
from valvetrain.studies.checks.assessment import float_limit
from valvetrain.studies.springs.installed import SHIMS
from valvetrain.studies.train.float_rows import float_speed
from valvetrain.studies.train.side_figures import (
    moving_mass,
    nominal_coil_bind,
    nominal_float_speed,
    nominal_seat_load,
    seat_demand,
    tightest,
    weakest,
)

_WIDTHS = (0.55, 0.6, 0.65, 0.7, 0.75, 0.8, 0.9, 1.0)  # outside diameter over height shut, of springs that are made. Source: judgement
_ROUNDS = 50  # of halving: far below any tolerance of the trade


@dataclass(frozen=True)
class Requirement:
    """What one side must have for the goal, SI; None where nothing of the kind would do.

    `seat` N the least seat load at the present rate, `rate` N/m the least at the present seat load, both for float and gas; `mass` kg the
    greatest moving mass, `acceleration` m/rad^2 the greatest deceleration of the lobe, with the present springs; `shim` m of spring
    shim that does it with them. `has_...` is what is there now. `spring` says whether a single spring of that force can exist.
    """

    limit: float
    seat: float | None
    has_seat: float
    rate: float | None
    has_rate: float
    mass: float
    has_mass: float
    acceleration: float
    has_acceleration: float
    shim: float | None
    spring: "SpringSpec"


@dataclass(frozen=True)
class SpringSpec:
    """A spring that would give `seat` and `open` (N) at a height shut (m) over a lift (m), drawn within `outer_diameter` (m).

    `wire` and `coils` of the one with the least stress, or None with `words` telling why none fits.
    """

    seat: float
    open: float
    height: float
    wire: float | None
    coils: float
    stress: float
    words: str
    outer_diameter: float = 0.0


def _add_load(side: TrainSide, amount: float) -> TrainSide:
    first = side.springs[0]
    load = first.spring.load
    stronger = replace(first.spring, load=Figure(load.value + amount, load.spread, load.basis))
    return replace(side, springs=(replace(first, spring=stronger), *side.springs[1:]))


def _scale_rate(side: TrainSide, factor: float, place: ValvePosition) -> TrainSide:
    """Springs of another rate that give the same seat load on the valve named."""
    height = side.installed_height.value + place.deviation - side.spring_shim.value
    springs = []
    for packed in side.springs:
        own = height - packed.step.value
        spring = packed.spring
        line = Spring(
            Figure(spring.rate_at(own) * factor), Figure(spring.force(own)), Figure(own), spring.solid_height, spring.mass,
            Figure(spring.bend.value * factor), spring.active,
        )  # fmt: skip
        springs.append(PackedSpring(line, packed.step))
    return replace(side, springs=tuple(springs))


def _least(holds: Callable[[float], bool], low: float, high: float) -> float | None:
    """Least value between low and high that holds, for a condition that keeps once it holds; None when even high does not."""
    if holds(low):
        return low
    if not holds(high):
        return None
    for _ in range(_ROUNDS):
        middle = (low + high) / 2.0
        low, high = (low, middle) if holds(middle) else (middle, high)
    return high


def demand(side: TrainSide, goal: Goal, outer_diameter: float | None = None) -> Requirement:
    """What the goal asks of one side, on its weakest valve: float of a rigid train with its reserve, and gas on the seat."""
    place, limit = weakest(side), float_limit(goal)
    needs = seat_demand(side, goal).needed.value
    # the lobe that is drawn stands for many: what is asked of it is what is asked of their middle
    own = nominal_float_speed(side, place)
    limit_drawn = limit * own / float_speed(side, place).value
    has_seat = nominal_seat_load(side, place)
    has_rate = sum(packed.spring.rate_at(_own_height(side, place, packed)) for packed in side.springs)

    def holds(changed: TrainSide) -> bool:
        try:
            return nominal_float_speed(changed, place) >= limit_drawn and nominal_seat_load(changed, place) >= needs
        except OutOfRangeError:  # a spring that does not push
            return False

    def speed_of(changed: TrainSide) -> bool:
        try:
            return nominal_float_speed(changed, place) >= limit_drawn
        except OutOfRangeError:
            return False

    extra = _least(lambda amount: holds(_add_load(side, amount)), -0.95 * has_seat, 4.0 * has_seat + 500.0)
    factor = _least(lambda share: speed_of(_scale_rate(side, share, place)), 0.05, 8.0)
    # float goes with the root of force over mass, and of force over acceleration: both follow in closed form
    ratio = (own / limit_drawn) ** 2
    mass, bend = moving_mass(side).value, float(-side.curve.acceleration.min())
    room = min(nominal_coil_bind(side, tightest(side), number) for number in range(len(side.springs))) - goal.coil_bind_limit
    shim = _shim(side, holds, room)
    seat = None if extra is None else has_seat + extra
    lift = side.lift.value - side.clearance.value
    opened = max(seat or needs, needs) + has_rate * lift
    height = _own_height(side, place, side.springs[0])
    # where nobody told the room round the spring, the slimmest that can be wound is named with its diameter
    widths = [outer_diameter] if outer_diameter else [round(height * share * 1e3) / 1e3 for share in _WIDTHS]
    tried = [wanted_spring(max(seat or needs, needs), opened, height, lift, goal.coil_bind_limit, width) for width in widths]
    wanted = next((one for one in tried if one.wire is not None), tried[-1])
    return Requirement(
        limit=limit, seat=seat, has_seat=has_seat, rate=None if factor is None else factor * has_rate, has_rate=has_rate, mass=mass * ratio, has_mass=mass, acceleration=bend * ratio, has_acceleration=bend, shim=shim, spring=wanted,
    )  # fmt: skip


def _own_height(side: TrainSide, place: ValvePosition, packed: PackedSpring) -> float:
    return side.installed_height.value + place.deviation - side.spring_shim.value - packed.step.value


def _shim(side: TrainSide, holds: Callable[[TrainSide], bool], room: float) -> float | None:
    """Least shim on sale (or two) added that holds, within the room to coil bind; 0 when none is needed."""
    stacks = sorted({0.0, *SHIMS, *(a + b for a in SHIMS for b in SHIMS)})
    for added in stacks:
        if added <= room + 1e-9 and holds(replace(side, spring_shim=side.spring_shim.plus(added))):
            return added
    return None


def wanted_spring(seat: float, opened: float, height: float, lift: float, bind: float, outer_diameter: float) -> SpringSpec:
    """Look through the wires on sale for a single spring of chrome-silicon that gives the loads, fits and does not set.

    Closed and ground ends; source: shigley for rate, solid height and stress.
    """
    rate = (opened - seat) / lift
    best: SpringSpec | None = None
    too_tall = too_stressed = 0
    for step in range(20, 65):
        wire = step * 0.1e-3
        mean = outer_diameter - wire
        if not 3.2 <= mean / wire <= 12.0:
            continue
        coils = OIL_HARDENED_SHEAR_MODULUS * wire**4 / (8.0 * mean**3 * rate)
        stress = shear_stress(opened, wire, mean)
        limit = torsional_yield(tensile_strength(wire, Wire.CHROME_SILICON), Wire.CHROME_SILICON)
        if stress > limit:
            too_stressed += 1
        elif coils < 2.0 or (coils + 2.0) * wire > height - lift - bind:
            too_tall += 1
        elif best is None or stress / limit < best.stress:
            best = SpringSpec(seat, opened, height, wire, coils + 2.0, stress / limit, "", outer_diameter)
    if best:
        return best
    cause = "thin wire that fits is overstressed, thick wire is solid too soon" if too_tall and too_stressed else (
        "every wire that takes it is solid before full lift" if too_tall else "no wire takes the stress"
    )  # fmt: skip
    return SpringSpec(
        seat, opened, height, None, 0.0, math.inf, f"no such single spring fits this height: {cause}; two springs, or a taller seat, would",
        outer_diameter,
    )  # fmt: skip
