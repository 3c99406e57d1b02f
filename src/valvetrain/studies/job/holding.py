"""Holding a valve with air while its keepers come out: the pressure it takes, what the air does to the crank, how far the valve could fall."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from valvetrain.formulas.gas_loads import opening_force
from valvetrain.formulas.slider_crank import piston_drop, piston_velocity
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train.side_figures import nominal_force

_CONE = math.radians(7.0)  # half angle of the keepers' cone, where it is not known. Source: trade
_CLEAN, _BAKED = 0.16, 0.28  # friction in a keeper's cone, oiled and baked dry. Source: judgement
_GRAVITY = 9.81
# What hands use: to hold, and when a knock pops the valve off its seat, Pa gauge. Source: trade
TRADE = (2.07e5, 3.45e5)


def release(clamped: float, friction: float, cone: float = _CONE) -> float:
    """Axial force (N) that pushes a wedge of half angle `cone` (rad) out of a cone it was clamped into with a force (N); zero where it does not lock itself.

    With the normal force kept, clamping is N (sin a + mu cos a) and letting go N (mu cos a - sin a). Source: statics.
    """
    holds = friction * math.cos(cone) - math.sin(cone)
    return max(clamped * holds / (friction * math.cos(cone) + math.sin(cone)), 0.0)


@dataclass(frozen=True)
class ValveHeld:
    """One valve with air under it: pressures (Pa gauge) that keep it on its seat by its weight alone, while a clean cone lets go, and while a baked one does; area of air (m2)."""

    name: str
    rests: float
    clean: float
    baked: float
    area: float


def held(train: TrainSide, place: ValvePosition, mass: float) -> ValveHeld:
    """What it takes for one valve; `mass` kg of valve and what hangs on it. The cone was driven in by the full force of the springs at full lift."""
    seal = train.head_diameter.value - train.seat_width.value
    push = -opening_force(0.0, 1.0, 0.0, seal, train.stem_diameter.value)  # N per Pa in the cylinder, port and case open to the air
    full = float(nominal_force(train, place, np.array([train.curve.full - train.clearance.value]))[0])
    weight = mass * _GRAVITY
    return ValveHeld(place.name, weight / push, (weight + release(full, _CLEAN)) / push, (weight + release(full, _BAKED)) / push, push)


@dataclass(frozen=True)
class CrankUnderAir:
    """What the air does at a crank angle (rad after TDC): torque (N m) and how far the piston has gone down (m)."""

    angle: float
    torque: float
    down: float


def crank_under_air(
    pressure: float, bore: float, stroke: float, rod: float, angles: Sequence[float], offset: float = 0.0
) -> list[CrankUnderAir]:
    """Torque on the crank of one cylinder by air (Pa gauge) on its piston, at angles (rad) from TDC: pressure times area times how fast the piston goes per radian."""
    area = math.pi / 4.0 * bore**2
    slope = piston_velocity(stroke, rod, offset, np.asarray(angles, dtype=float), 1.0 / (2.0 * math.pi))
    return [
        CrankUnderAir(angle, pressure * area * abs(float(each)), piston_drop(stroke, rod, abs(angle)))
        for angle, each in zip(angles, slope, strict=True)
    ]


def could_fall(gap_at_tdc: float, down: float) -> float:
    """How far (m) a valve falls until its head lies on the crown: its gap at TDC with the valve shut, and what the piston has gone down."""
    return max(gap_at_tdc, 0.0) + down
