"""What spring force costs: torque and friction of the cam drive, stress at the nose, at the goal and at idle."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ValveTrainError
from valvetrain.formulas.cam_torque import friction_torque, lift_torque, shaft_power
from valvetrain.parts.cam_drive import Contact, lobe_from_valve
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion.forces import rigid_forces
from valvetrain.studies.train.side_figures import tightest

Array = NDArray[np.float64]

# Coefficient of friction between lobe and follower: boundary 0.08 to 0.12, a roller rolls. Source: trade
_FRICTION = {Contact.FLAT: 0.10, Contact.DOMED: 0.09, Contact.PAD: 0.09, Contact.ROLLER: 0.012}


@dataclass(frozen=True)
class Cost:
    """One camshaft (all valves of the side) at one crank speed (rev/s): friction power W, greatest torque N m that its drive must give,
    mean friction torque N m, and greatest force at the valve N."""

    speed: float
    power: float
    torque_most: float
    torque_mean: float
    force_most: float


def cost_of_force(side: TrainSide, speed: float, valves_per_cylinder: int, cylinders: int) -> Cost:
    """Friction and torque of one camshaft with a rigid train; the cylinders' lobes are taken evenly spaced. Source: norton_cam.

    Raises ValveTrainError when no lobe gives the lift through this follower.
    """
    lines = rigid_forces(side, tightest(side), speed)
    curve = side.curve
    up = lines.lift > 0.0
    force = np.where(up, np.maximum(lines.contact, 0.0), 0.0)
    turning = lift_torque(force, curve.velocity)
    shape = lobe_from_valve(side.cam.drive, side.cam.base, curve)
    # friction acts along the face: its arm is the axis' distance from the tangent at the contact, for a flat face base radius plus lift
    if side.cam.drive.contact is Contact.FLAT:
        reach = np.abs(shape.touch.imag)
    else:
        normal = (shape.centre - shape.touch) / np.abs(shape.centre - shape.touch)
        reach = np.abs(np.real(np.conj(normal) * shape.touch))
    # force at the lobe is the valve's by the lever
    rubbing = friction_torque(force * shape.lever, reach, _FRICTION[side.cam.drive.contact])
    grid = np.linspace(-math.pi, math.pi, 720, endpoint=False)
    one = np.interp(grid, curve.angle, turning + rubbing, left=0.0, right=0.0)
    lost = np.interp(grid, curve.angle, rubbing, left=0.0, right=0.0)
    whole = sum((np.roll(one, round(number * 720 / cylinders)) for number in range(cylinders)), np.zeros(720)) * valves_per_cylinder
    mean = float(lost.mean()) * cylinders * valves_per_cylinder
    return Cost(speed, shaft_power(mean, speed / 2.0), float(whole.max()), mean, float(force.max()))


def try_cost(side: TrainSide, speed: float, valves_per_cylinder: int, cylinders: int) -> Cost | None:
    """`cost_of_force`, or None when the follower's geometry cannot carry the lift."""
    try:
        return cost_of_force(side, speed, valves_per_cylinder, cylinders)
    except ValveTrainError:
        return None
