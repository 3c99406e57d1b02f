"""Power from how a vehicle gathers speed, and what turning parts keep of it."""

import math
from typing import Annotated

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Hertz, Kilogram, KilogramPerCubicMetre, KilogramSquareMetre, MetrePerSecond, Newton, Ratio, SquareMetre

Watt = Annotated[float, "W"]
MetrePerSquareSecond = Annotated[float, "m/s**2"]
PerSquareSecond = Annotated[float, "1/s**2"]


def power_of_air(speed: MetrePerSecond, density: KilogramPerCubicMetre, drag_area: SquareMetre) -> Watt:
    """Power that the air takes.

    Equation: rho CdA v^3 / 2
    Range: v >= 0, all above zero
    Source: definition

    >>> round(power_of_air(30.0, 1.18, 0.32), 1)
    5097.6
    """
    require_above("The air's density", density)
    return 0.5 * density * drag_area * speed**3


def power_of_gain(speed: MetrePerSecond, gain: MetrePerSquareSecond, mass: Kilogram, turning: Kilogram) -> Watt:
    """Power that goes into gathering speed; `turning` is what the wheels' inertia counts as (J / r^2).

    Equation: (m + J / r^2) v dv/dt
    Range: m > 0
    Source: definition

    >>> round(power_of_gain(30.0, 3.0, 250.0, 9.0))
    23310
    """
    require_above("The mass", mass)
    return (mass + turning) * speed * gain


def power_of_road(speed: MetrePerSecond, weight: Newton, rolling: Ratio, slope: Ratio) -> Watt:
    """Power that tyres and a slope take; `slope` is rise over way, `weight` m g.

    Equation: m g (Crr cos a + sin a) v
    Range: |slope| <= 0.3
    Source: definition

    >>> round(power_of_road(30.0, 250.0 * 9.80665, 0.015, 0.0), 1)
    1103.2
    """
    require_between("The slope", slope, -0.3, 0.3)
    angle = math.atan(slope)
    return weight * (rolling * math.cos(angle) + math.sin(angle)) * speed


def power_kept(inertia: KilogramSquareMetre, speed: Hertz, gain: PerSquareSecond) -> Watt:
    """Power that a shaft keeps while it gathers speed; `speed` in rev/s, `gain` in rev/s^2.

    Equation: J w dw/dt, w = 2 pi N
    Range: J >= 0
    Source: definition

    >>> round(power_kept(0.1, 110.0 / (2 * math.pi), 12.0 / (2 * math.pi)), 1)
    132.0
    """
    return inertia * (2.0 * math.pi) ** 2 * speed * gain
