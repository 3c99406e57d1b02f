"""Moment of inertia of a rocker or finger about its pivot: by its shape, by its swing, by weighing its ends."""

import math
from typing import Annotated

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Kilogram, KilogramSquareMetre, Metre

STANDARD_GRAVITY: Annotated[float, "m/s**2"] = 9.80665  # sp811


def bar_inertia(mass: Kilogram, valve_arm: Metre, other_arm: Metre) -> KilogramSquareMetre:
    """Inertia of an even bar about a pivot that parts it; a pivot at its end has no other arm.

    Equation: J = m (a^3 + b^3) / (3 (a + b))
    Range: m > 0, a > 0, b >= 0; an even bar: heavy ends weigh more, a heavy hub less
    Source: statics

    >>> round(bar_inertia(0.030, 33e-3, 0.0) * 1e6, 2)
    10.89
    """
    require_above("The mass", mass)
    require_above("The arm to the valve", valve_arm)
    require_above("The other arm", other_arm, -1e-30)
    return mass * (valve_arm**3 + other_arm**3) / (3.0 * (valve_arm + other_arm))


def pendulum_inertia(
    mass: Kilogram, centre_distance: Metre, period: Annotated[float, "s"], gravity: Annotated[float, "m/s**2"]
) -> KilogramSquareMetre:
    """Inertia about the pivot of a part that swings from it by its own weight, in small swings.

    Equation: J = m g l (T / 2 pi)^2, l from the pivot to the centre of mass
    Range: m, l, T, g > 0
    Source: statics

    >>> round(pendulum_inertia(0.030, 16.5e-3, 0.2977, 9.80665) * 1e6, 2)
    10.9
    """
    for name, value in (("The mass", mass), ("The distance of the centre of mass", centre_distance), ("The period", period)):
        require_above(name, value)
    return mass * gravity * centre_distance * (period / (2.0 * math.pi)) ** 2


def weighed_inertia(
    valve_end: Kilogram, other_end: Kilogram, valve_arm: Metre, other_arm: Metre
) -> tuple[KilogramSquareMetre, KilogramSquareMetre]:
    """Least and greatest inertia about the pivot of a part whose two ends were weighed, each while the other was carried.

    `other_arm` is positive where that end lies across the pivot, zero where it is the pivot. What lies between the ends cannot be
    told by weighing: all mass at its centre gives the least, all at the ends the greatest.
    Equation: J between m c^2 and m1 a^2 + m2 b^2, m = m1 + m2, c = (m1 a - m2 b) / m
    Range: m1 > 0, m2 >= 0, a > 0, b >= 0; no mass beyond the two ends
    Source: statics

    >>> [round(value * 1e6, 2) for value in weighed_inertia(0.015, 0.015, 33e-3, 0.0)]
    [8.17, 16.34]
    """
    require_above("The reading at the valve's end", valve_end)
    require_above("The reading at the other end", other_end, -1e-30)
    require_above("The arm to the valve", valve_arm)
    require_between("The other arm", other_arm, 0.0, 10.0 * valve_arm)
    mass = valve_end + other_end
    centre = (valve_end * valve_arm - other_end * other_arm) / mass
    return mass * centre**2, valve_end * valve_arm**2 + other_end * other_arm**2
