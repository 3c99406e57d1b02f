"""The figures of one side of a head that checks are made of: float, spring force, coil bind, seat force."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.gas_loads import opening_force
from valvetrain.formulas.separation import spring_share
from valvetrain.parts.engine import Side, ValvePosition
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.parts.spring import PackedSpring
from valvetrain.studies.train.estimates import CLOSED_THROTTLE, STOCK_BACK_PRESSURE
from valvetrain.studies.train.uncertainty import Columns, Numbers, Propagated, propagate, propagate_columns

Array = NDArray[np.float64]


def spring_figures(side: TrainSide) -> dict[str, Figure]:
    """Every figure that sets spring force, by name; springs are numbered outer first.

    A load that is itself an estimate was drawn at the installed height, so an error of that height does not move it:
    then `drop_n` (load height less spring height) takes the place of both heights.
    """
    figures = {"installed_height": side.installed_height, "spring_shim": side.spring_shim}
    for number, packed in enumerate(side.springs):
        spring = packed.spring
        figures[f"rate_{number}"], figures[f"load_{number}"] = spring.rate, spring.load
        if spring.bend.value or spring.bend.spread:
            figures[f"bend_{number}"] = spring.bend
        if spring.load_height.basis is Basis.ESTIMATE:
            drop = spring.load_height.value - (side.installed_height.value - packed.step.value)
            figures[f"drop_{number}"] = Figure(drop, 0.0, Basis.ESTIMATE)
        else:
            figures[f"load_height_{number}"] = spring.load_height
            figures[f"step_{number}"] = packed.step
    return figures


def _force(x: Columns, count: int, deviation: float, lift: Array | float) -> Array:
    total: Array | float = 0.0
    for n in range(count):
        if f"drop_{n}" in x:
            drop = x[f"drop_{n}"]
        else:
            drop = x[f"load_height_{n}"] - (x["installed_height"] - x[f"step_{n}"])
        squeeze = drop - deviation + x["spring_shim"] + lift
        rate = x[f"rate_{n}"] + x[f"bend_{n}"] * squeeze if f"bend_{n}" in x else x[f"rate_{n}"]
        total = total + x[f"load_{n}"] + rate * squeeze
    return np.asarray(total)


def seat_load(side: TrainSide, position: ValvePosition) -> Propagated:
    """Spring force on the seat of one valve, N (k = 2 spread)."""
    return propagate_columns(lambda x: _force(x, len(side.springs), position.deviation, 0.0), spring_figures(side))


def open_load(side: TrainSide, position: ValvePosition) -> Propagated:
    """Spring force at full lift of one valve, N."""
    figures = spring_figures(side) | {"lift": side.lift, "clearance": side.clearance}
    return propagate_columns(lambda x: _force(x, len(side.springs), position.deviation, x["lift"] - x["clearance"]), figures)


def weakest(side: TrainSide) -> ValvePosition:
    """The valve whose spring stands highest, and so pushes least."""
    return max(side.positions, key=lambda position: position.deviation)


def tightest(side: TrainSide) -> ValvePosition:
    """The valve whose spring stands lowest, and so is nearest to coil bind."""
    return min(side.positions, key=lambda position: position.deviation)


def lowest_retainer(side: TrainSide) -> ValvePosition:
    """The valve whose retainer stands lowest, and so comes nearest to its seal; a shim under its spring does not move it."""
    return min(side.positions, key=lambda position: position.retainer_deviation)


def spring_weight(active: float | Array) -> float | Array:
    """Share of a spring's mass that counts at the valve, given the share in its active coils: a third of those, and half of the rest."""
    return spring_share(1.0) * active + (1.0 - active) / 2.0


def moving_mass(side: TrainSide) -> Figure:
    """Equivalent mass at the valve, kg: every moving part, a third of the springs' active coils and the dead coil under the retainer
    (source: rayleigh)."""
    parts = [(figure.value, figure.spread) for figure in side.masses.values()]
    for packed in side.springs:
        mass, active = packed.spring.mass, packed.spring.active
        share = float(spring_weight(active.value))
        parts.append((mass.value * share, math.hypot(mass.spread * share, mass.value * active.spread / 6.0)))
    bases = [figure.basis for figure in side.masses.values()] + [packed.spring.mass.basis for packed in side.springs]
    worst = max(bases, key=list(Basis).index)
    return Figure(sum(value for value, _ in parts), math.sqrt(sum(spread**2 for _, spread in parts)), worst)


def float_figures(side: TrainSide) -> dict[str, Figure]:
    """Every figure that the float of a rigid train rests on, by name."""
    figures = spring_figures(side) | {"lift": side.lift, "duration": side.duration, "shape": side.shape, "clearance": side.clearance}
    figures |= {f"mass:{name}": figure for name, figure in side.masses.items()}
    figures |= {f"mass:spring {number}": packed.spring.mass for number, packed in enumerate(side.springs)}
    figures |= {f"active_{number}": packed.spring.active for number, packed in enumerate(side.springs)}
    return figures


def motion_names(side: TrainSide) -> dict[str, Figure]:
    """Figures that the motion rests on beside those of the float: solid heights, by name."""
    return {f"solid_{number}": packed.spring.solid_height for number, packed in enumerate(side.springs)}


@lru_cache(maxsize=256)
def slowing(curve: LiftCurve, clearance: float) -> tuple[Array, Array, Array]:
    """Angle, lift and acceleration where the lobe slows the valve; one flank of a lobe that is the same on both."""
    # below the clearance the valve sits on its seat: what the lobe does there cannot throw it off
    counts = (curve.acceleration < 0.0) & (curve.lift > clearance)
    if np.allclose(curve.lift, curve.lift[::-1], rtol=0.0, atol=1e-12):
        counts &= curve.angle >= 0.0
    return curve.angle[counts], curve.lift[counts], curve.acceleration[counts]


def _slowing_points(side: TrainSide, position: ValvePosition) -> tuple[Array, Array, Array, Array]:
    """Angle, lift, acceleration, and spring force over deceleration (N rad^2/m, nominal), where the lobe slows the valve."""
    angle, lift, bend = slowing(side.curve, side.clearance.value)
    force = nominal_force(side, position, lift - side.clearance.value)
    return angle, lift, bend, force / -bend


def nominal_float_speed(side: TrainSide, position: ValvePosition) -> float:
    """Crankshaft speed (rev/s) at which a rigid train first separates on the one lobe that is drawn, every figure at its middle: for searching.

    Raises OutOfRangeError where the springs do not push.
    """
    least = float(_slowing_points(side, position)[3].min())
    if least <= 0.0:
        raise OutOfRangeError("The spring does not push at some lift: it is longer than its space.")
    return math.sqrt(least / moving_mass(side).value) / math.pi


def spring_height(side: TrainSide, position: ValvePosition) -> float:
    """Height (m) of the outer spring with the valve shut."""
    return side.installed_height.value + position.deviation - side.spring_shim.value


def nominal_force(side: TrainSide, position: ValvePosition, lift: Array) -> Array:
    """Spring force (N) at valve lifts (m) without its spread."""
    height, total = spring_height(side, position), np.zeros_like(lift)
    for packed in side.springs:
        squeeze = packed.spring.load_height.value - (height - packed.step.value) + lift
        total += packed.spring.load.value + squeeze * (packed.spring.rate.value + packed.spring.bend.value * squeeze)
    return total


def nominal_seat_load(side: TrainSide, position: ValvePosition) -> float:
    """Seat load (N) without its spread, for searching."""
    height = spring_height(side, position)
    return sum(packed.spring.force(height - packed.step.value) for packed in side.springs)


def nominal_coil_bind(side: TrainSide, position: ValvePosition, number: int) -> float:
    """Travel left (m) without its spread, for searching."""
    packed = side.springs[number]
    height = spring_height(side, position) - packed.step.value
    return height - (side.lift.value - side.clearance.value) - packed.spring.solid_height.value


def nominal_retainer_gap(side: TrainSide, position: ValvePosition) -> float:
    """Retainer gap (m) without its spread, for searching."""
    return side.retainer_to_seal.value + position.retainer_deviation - (side.lift.value - side.clearance.value)


def float_angle(side: TrainSide, position: ValvePosition) -> float:
    """Cam angle from the nose (rad) at which a rigid train first separates."""
    angle, _, _, margins = _slowing_points(side, position)
    return abs(float(angle[np.argmin(margins)]))


def coil_bind(side: TrainSide, position: ValvePosition, number: int) -> Propagated:
    """Travel left (m) before a spring of the pack is solid at full lift.

    An estimated solid height was drawn from installed height (and lift), so their errors do not come on top of its own.
    """
    packed = side.springs[number]
    solid, lift = packed.spring.solid_height, side.lift
    if solid.basis is Basis.ESTIMATE:
        travel = {"solid": Figure(side.installed_height.value - packed.step.value - solid.value, solid.spread, Basis.ESTIMATE)}
        lift = Figure(lift.value, 0.0, lift.basis) if lift.basis is Basis.ESTIMATE else lift
    else:
        travel = {"installed_height": side.installed_height, f"step_{number}": packed.step, "solid": solid}
    figures = travel | {"spring_shim": side.spring_shim, "lift": lift, "clearance": side.clearance}

    def model(x: Columns) -> Array:
        free = x["installed_height"] - x[f"step_{number}"] - x["solid"] if "installed_height" in x else x["solid"]
        return free + position.deviation - x["spring_shim"] - (x["lift"] - x["clearance"])

    return propagate_columns(model, figures)


def retainer_gap(side: TrainSide, position: ValvePosition) -> Propagated:
    """Gap (m) from retainer to seal at full lift; an estimated gap was drawn from the lift, which then counts once."""
    lift = side.lift
    if side.retainer_to_seal.basis is Basis.ESTIMATE and lift.basis is Basis.ESTIMATE:
        lift = Figure(lift.value, 0.0, lift.basis)
    figures = {"retainer_to_seal": side.retainer_to_seal, "lift": lift, "clearance": side.clearance}
    return propagate_columns(lambda x: x["retainer_to_seal"] + position.retainer_deviation - (x["lift"] - x["clearance"]), figures)


@dataclass(frozen=True)
class SeatDemand:
    """Force the springs must give on the seat, and how much of it is gas (N); `decides` names the moment that asks for most."""

    needed: Propagated
    gas: float
    figures: Mapping[str, Figure]
    decides: str = ""


def seat_demand(side: TrainSide, goal: Goal) -> SeatDemand:
    """Seat force needed against boost (intake) or back pressure (exhaust), N.

    Intake: boost in the port, cylinder and crankcase at ambient. Exhaust, the worse of two moments: at full power the pulses of the other
    cylinders, mean times pulse factor, against a cylinder at intake pressure in the induction stroke; lifting off, the mean back pressure that
    is still behind the valve against a cylinder below ambient. Force balance, source: statics.
    The seat seals at head diameter minus seat width. Where the force to keep was taken from the stock springs, those held
    against the stock engine's own back pressure too: only what the goal adds to that counts.
    """
    figures = {
        "wanted": goal.seat_force[side.side],
        "boost": goal.boost,
        "head": side.head_diameter,
        "seat": side.seat_width,
        "stem": side.stem_diameter,
    }
    if side.side is Side.EXHAUST:
        figures |= {"back": goal.back_pressure, "pulse": goal.pulse_factor, "vacuum": CLOSED_THROTTLE}
    # Without boost an estimated back pressure is the stock engine's own, whatever it is: it does not differ from itself.
    own = goal.boost.value == 0.0 and goal.back_pressure.basis is Basis.ESTIMATE
    return _seat_demand(tuple(figures.items()), compares=side.side in goal.seat_reference, own=own)


@lru_cache(maxsize=256)
def _seat_demand(items: tuple[tuple[str, Figure], ...], *, compares: bool, own: bool) -> SeatDemand:
    """Kept by content: springs and retainers are tried by the dozen while valve and pressures stay."""
    figures = dict(items)

    def moments(x: Numbers) -> tuple[float, float]:
        seal = x["head"] - x["seat"]
        if "back" not in x:
            return opening_force(x["boost"], 0.0, 0.0, seal, x["stem"]), -math.inf
        power = opening_force(x["back"] * x["pulse"], x["boost"], 0.0, seal, x["stem"])
        return power, opening_force(x["back"], x["vacuum"], 0.0, seal, x["stem"])

    def gas(x: Numbers) -> float:
        return max(moments(x))

    def added(x: Numbers) -> float:
        if not compares:
            return max(gas(x), 0.0)
        before = gas({**x, "boost": 0.0} | ({} if own or "back" not in x else {"back": STOCK_BACK_PRESSURE}))
        return max(gas(x) - max(before, 0.0), 0.0)

    middle = {name: figure.value for name, figure in figures.items()}
    power, lifted = moments(middle)
    decides = "boost in the port" if "back" not in figures else (
        "exhaust pulses at full power, less the pressure in the cylinder" if power >= lifted
        else "lifting off: back pressure still behind the valve, the cylinder below ambient"
    )  # fmt: skip
    return SeatDemand(propagate(lambda x: x["wanted"] + added(x), figures), added(middle), figures, decides)


def seat_margin(side: TrainSide, position: ValvePosition, goal: Goal, demand: SeatDemand) -> Propagated:
    """Seat load minus what is needed (N), with the spread of both."""
    if side.springs == goal.seat_reference.get(side.side):
        exact = tuple(
            PackedSpring(replace(p.spring, load=Figure(p.spring.load.value, 0.0, p.spring.load.basis)), p.step) for p in side.springs
        )
        side = replace(side, springs=exact)
    springs = spring_figures(side)
    has, needs = seat_load(side, position), demand.needed
    value, spread = has.value - needs.value, math.hypot(has.spread, needs.spread)
    if spread == 0.0:
        return Propagated(value, 0.0, (), 0.0)
    shares = [(name, share * has.spread**2 / spread**2) for name, share in has.shares]
    shares += [(f"goal:{name}", share * needs.spread**2 / spread**2) for name, share in needs.shares]
    known = springs | {f"goal:{name}": figure for name, figure in demand.figures.items()}
    estimated = sum(share for name, share in shares if known[name].basis is Basis.ESTIMATE)
    return Propagated(value, spread, tuple(sorted(shares, key=lambda item: -item[1])), estimated)
