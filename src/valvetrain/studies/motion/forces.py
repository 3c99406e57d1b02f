"""Forces along a valve over the cam angle: of a rigid train at any speed, and of the motion at a speed that was swept."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.kernels import valve_motion as kernel
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion.sweep import LOSS, SAMPLES, Sweep
from valvetrain.studies.train.side_figures import moving_mass, nominal_force

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class ForceLines:
    """Over `angle` (rad of cam from the nose, increasing): `lift` at the valve (m, clearance off), `spring` force, `inertia` force that
    the springs must hold (positive where the lobe slows the valve), and `contact` force at the valve, N. Zero where the valve sits."""

    angle: Array
    lift: Array
    spring: Array
    inertia: Array
    contact: Array


def rigid_forces(side: TrainSide, position: ValvePosition, speed: float) -> ForceLines:
    """Forces of a rigid train at a crank speed (rev/s); `contact` is negative where it would let go (source: norton_cam)."""
    curve, clearance = side.curve, side.clearance.value
    lift = np.maximum(curve.lift - clearance, 0.0)
    up = lift > 0.0
    spring = nominal_force(side, position, lift)
    inertia = np.where(up, -moving_mass(side).value * (math.pi * speed) ** 2 * curve.acceleration, 0.0)
    return ForceLines(curve.angle, lift, spring, inertia, np.where(up, spring - inertia, 0.0))


@dataclass(frozen=True, eq=False)
class MovingForces:
    """What the motion gives at one speed, over `angle` (rad of cam from the nose): N and m. `gap` is the distance from the lobe."""

    speed: float
    angle: Array
    lift: Array
    contact: Array
    seat: Array
    spring: Array
    gap: Array

    @property
    def apart(self) -> NDArray[np.bool_]:
        """Where the valve has left the lobe."""
        return self.gap > LOSS


def moving_forces(found: Sweep, speed: float) -> MovingForces:
    """The trace of a sweep at the swept speed nearest to a crank speed (rev/s)."""
    at = int(np.argmin(np.abs(found.speed - speed)))
    angle = np.linspace(-math.pi, math.pi, SAMPLES, endpoint=False)
    trace = found.trace[:, :, at].astype(float)
    springs = (len(trace) - 3) // 4
    lobe = found.case.lobe_at(angle)
    lift = trace[kernel.LIFT]
    return MovingForces(
        speed=float(found.speed[at]),
        angle=angle,
        lift=np.maximum(lift, 0.0),
        contact=trace[kernel.CONTACT],
        seat=trace[kernel.SEAT],
        spring=sum((trace[3 + 4 * n + kernel.TOP_FORCE] for n in range(springs)), np.zeros(SAMPLES)),
        gap=np.where(lobe > 0.0, lift - lobe, 0.0),
    )


def skips(found: Sweep, speed: float) -> bool:
    """Whether the valve leaves the lobe by more than LOSS at the swept speed nearest to a crank speed (rev/s): the one criterion of lost
    contact."""
    return bool(found.loses[int(np.argmin(np.abs(found.speed - speed)))])


def least_contact(found: Sweep, speed: float) -> float:
    """Least contact force (N) while the lobe lifts more than a tenth, at the swept speed nearest to a crank speed (rev/s)."""
    return float(found.contact_least[int(np.argmin(np.abs(found.speed - speed)))])
