"""A ring or a guide pressed into a head: pressure, stresses, what holds it, and how warm the head must be for it to drop in."""

import math
from typing import Annotated

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, Newton, Pascal, Ratio

Kelvin = Annotated[float, "K"]
OnePerKelvin = Annotated[float, "1/K"]


def _require_rings(diameter: float, inner: float, outer: float) -> None:
    require_above("The diameter of the joint", diameter)
    require_above("What is left outside the joint", outer, diameter)
    if not 0.0 <= inner < diameter:
        raise OutOfRangeError(f"The bore of the inner part must lie between 0 and {diameter:g}, and is {inner:g}.")


def press_pressure(
    interference: Metre, diameter: Metre, inner: Metre, outer: Metre, elastic_in: Pascal, poisson_in: Ratio, elastic_out: Pascal, poisson_out: Ratio
) -> Pascal:  # fmt: skip
    """Pressure in a press fit of two rings, plane stress. `interference` is on the diameter; a solid inner part has `inner` 0.

    Equation: p = i / (d [(1/Eo)((o^2+d^2)/(o^2-d^2) + nuo) + (1/Ei)((d^2+n^2)/(d^2-n^2) - nui)])
    Range: 0 <= n < d < o, i >= 0; elastic, no end effects
    Source: shigley

    >>> round(press_pressure(0.1e-3, 32e-3, 26e-3, 52e-3, 120e9, 0.28, 71e9, 0.33) / 1e6, 6)
    42.071927
    """
    _require_rings(diameter, inner, outer)
    require_between("The interference", interference / diameter, 0.0, 0.02)
    for name, value in (("The modulus of the inner part", elastic_in), ("The modulus of the outer part", elastic_out)):
        require_above(name, value)
    for value in (poisson_in, poisson_out):
        require_between("Poisson's number", value, 0.0, 0.5)
    outside = (outer**2 + diameter**2) / (outer**2 - diameter**2) + poisson_out
    inside = (diameter**2 + inner**2) / (diameter**2 - inner**2) - poisson_in
    return interference / (diameter * (outside / elastic_out + inside / elastic_in))


def hoop_outside(pressure: Pascal, diameter: Metre, outer: Metre) -> Pascal:
    """Hoop stress (pull) at the bore of the outer part of a press fit.

    Equation: sigma = p (o^2 + d^2) / (o^2 - d^2)
    Range: 0 < d < o
    Source: shigley

    >>> round(hoop_outside(42.071927e6, 32e-3, 52e-3) / 1e6, 5)
    93.35961
    """
    _require_rings(diameter, 0.0, outer)
    return pressure * (outer**2 + diameter**2) / (outer**2 - diameter**2)


def hoop_inside(pressure: Pascal, diameter: Metre, inner: Metre) -> Pascal:
    """Hoop stress at the bore of the inner ring of a press fit; push is negative. At the outside of a solid part it is the pressure itself.

    Equation: sigma = -2 p d^2 / (d^2 - n^2)
    Range: 0 < n < d
    Source: shigley

    >>> round(hoop_inside(42.071927e6, 32e-3, 26e-3) / 1e6, 5)
    -247.59571
    """
    _require_rings(diameter, inner, 2.0 * diameter)
    require_above("The bore of the inner part", inner)
    return -2.0 * pressure * diameter**2 / (diameter**2 - inner**2)


def push_out_force(pressure: Pascal, diameter: Metre, length: Metre, friction: Ratio) -> Newton:
    """Force along the axis that a press fit holds.

    Equation: F = mu p pi d L
    Range: d, L > 0, 0 <= mu <= 1
    Source: shigley

    >>> round(push_out_force(42.071927e6, 32e-3, 6e-3, 0.12), 3)
    3045.263
    """
    require_above("The diameter of the joint", diameter)
    require_above("The length of the joint", length)
    require_between("Friction", friction, 0.0, 1.0)
    return friction * pressure * math.pi * diameter * length


def warm_interference(
    interference: Metre, diameter: Metre, inner: OnePerKelvin, outer: OnePerKelvin, warm_in: Kelvin, warm_out: Kelvin
) -> Metre:
    """Interference on the diameter when the parts are warmer by `warm_in` and `warm_out`; below zero there is play.

    Equation: i_T = i + d (alpha_in dT_in - alpha_out dT_out)
    Range: d > 0; mean coefficients over each warming
    Source: definition

    >>> round(warm_interference(0.1e-3, 32e-3, 11.5e-6, 22.5e-6, 150.0, 150.0) * 1e3, 4)
    0.0472
    """
    require_above("The diameter of the joint", diameter)
    return interference + diameter * (inner * warm_in - outer * warm_out)


def warming_to_drop_in(interference: Metre, play: Metre, diameter: Metre, expansion: OnePerKelvin) -> Kelvin:
    """How much the outer part must be warmed for the inner one to drop in with some play.

    Equation: dT = (i + play) / (alpha d)
    Range: d, alpha > 0, i + play >= 0
    Source: definition

    >>> round(warming_to_drop_in(0.1e-3, 0.03e-3, 32e-3, 22.5e-6), 5)
    180.55556
    """
    require_above("The diameter of the joint", diameter)
    require_above("The coefficient of expansion", expansion)
    if interference + play < 0.0:
        raise OutOfRangeError("It drops in as it is: there is play, not interference.")
    return (interference + play) / (expansion * diameter)
