"""When the follower leaves the lobe of a rigid valve train."""

import math
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above
from valvetrain.units import Hertz, Kilogram, KilogramSquareMetre, Metre

Metres = Annotated[NDArray[np.float64], "m"]
Kilograms = Annotated[NDArray[np.float64], "kg"]
Newtons = Annotated[NDArray[np.float64], "N"]


def rotating_mass_at_valve(inertia: KilogramSquareMetre, valve_arm: Metre) -> Kilogram:
    """Mass at the valve that stands for a finger or rocker turning about its pivot.

    Equation: m = J / r_valve^2
    Range: J >= 0, r_valve > 0
    Source: norton_cam

    >>> round(rotating_mass_at_valve(3.6e-6, 33e-3) * 1000, 3)
    3.306
    """
    require_above("The arm from pivot to valve", valve_arm)
    require_above("The inertia", inertia, -1e-30)
    return inertia / valve_arm**2


def spring_share(spring_mass: Kilogram) -> Kilogram:
    """The part of a spring's mass that moves with the valve.

    Equation: m = m_spring / 3
    Range: m_spring >= 0; a uniform spring moving slowly against its own surge
    Source: rayleigh

    >>> round(spring_share(33e-3) * 1000, 3)
    11.0
    """
    require_above("The spring's mass", spring_mass, -1e-30)
    return spring_mass / 3.0


def contact_force(mass: Kilogram, acceleration: Metres, spring_force: Newtons, cam_speed: Hertz) -> Newtons:
    """Force between lobe and follower along the valve, of a rigid train; `cam_speed` is the camshaft's in rev/s.

    Equation: F_c = F_spring(h) + m (2 pi n)^2 h''(theta), h'' per rad^2 of cam
    Range: m > 0, n >= 0; negative results mean that contact is lost
    Source: norton_cam

    >>> [round(float(f), 1) for f in contact_force(0.085, np.array([-28.125e-3]), np.array([509.0]), 73.43841)]
    [0.0]
    """
    require_above("The moving mass", mass)
    return spring_force + mass * (2.0 * math.pi * cam_speed) ** 2 * acceleration


def separation_speed(mass: Kilogram | Kilograms, acceleration: Metres, spring_force: Newtons) -> Hertz:
    """Camshaft speed (rev/s) at which a rigid train first loses contact anywhere on the profile.

    The profile runs along the last axis; arrays of cases may stand before it, then `mass` has one value a case.

    Equation: n = min over h'' < 0 of sqrt(F_spring(h) / (m |h''|)) / (2 pi)
    Range: m > 0; at least one point with h'' < 0; every spring force there positive
    Source: norton_cam

    >>> round(float(separation_speed(0.085, np.array([-28.125e-3]), np.array([509.0]))) * 120, 1)
    8812.6
    """
    require_above("The moving mass", float(np.min(mass)))
    slowing = acceleration < 0.0
    if not slowing.any(axis=-1).all():
        raise OutOfRangeError("The profile has no point where the lobe slows the valve, so nothing can separate.")
    if (slowing & (spring_force <= 0.0)).any():
        raise OutOfRangeError("The spring does not push at some lift: it is longer than its space.")
    least = np.min(np.divide(spring_force, -acceleration, out=np.full(slowing.shape, np.inf), where=slowing), axis=-1)
    speed: Hertz = np.sqrt(least / mass) / (2.0 * math.pi)
    return speed
