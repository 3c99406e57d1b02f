"""Pressure where a lobe meets its follower."""

import math
from typing import Annotated

from scipy.optimize import brentq
from scipy.special import ellipe, ellipk

from valvetrain.formulas.limits import require_above
from valvetrain.units import Metre, Newton, Pascal, Ratio

PerMetre = Annotated[float, "1/m"]


def contact_modulus(elastic_1: Pascal, poisson_1: Ratio, elastic_2: Pascal, poisson_2: Ratio) -> Pascal:
    """Modulus of a contact of two bodies.

    Equation: 1/E* = (1 - nu1^2)/E1 + (1 - nu2^2)/E2
    Range: E > 0
    Source: johnson1985

    >>> round(contact_modulus(206e9, 0.3, 206e9, 0.3) / 1e9, 5)
    113.18681
    """
    require_above("The elastic modulus", min(elastic_1, elastic_2))
    return 1.0 / ((1.0 - poisson_1**2) / elastic_1 + (1.0 - poisson_2**2) / elastic_2)


def line_pressure(load: Newton, length: Metre, bend: PerMetre, modulus: Pascal) -> Pascal:
    """Largest pressure between two cylinders side by side; `bend` is the sum of both curvatures, hollow ones negative.

    Equation: p0 = sqrt(W E* (1/R1 + 1/R2) / (pi l))
    Range: W > 0, l > 0, 1/R1 + 1/R2 > 0; elastic, no edge effect
    Source: johnson1985

    >>> round(line_pressure(900, 12e-3, 1 / 4.2e-3, contact_modulus(206e9, 0.3, 206e9, 0.3)) / 1e6, 2)
    802.1
    """
    require_above("The load", load)
    require_above("The length of the contact", length)
    require_above("The sum of the curvatures", bend)
    return math.sqrt(load * modulus * bend / (math.pi * length))


def crowned_pressure(load: Newton, bend_x: PerMetre, bend_y: PerMetre, modulus: Pascal) -> Pascal:
    """Largest pressure of an elliptical contact, exact elliptic integrals; both are sums of curvatures in their plane.

    Equation: (k^2 E(m) - K(m))/(K(m) - E(m)) = Ry/Rx, m = 1 - 1/k^2; b = (3 k^2 E W R/(pi E*))^(1/3), a = b/k; p0 = 3W/(2 pi a b)
    Range: W > 0, both curvatures above zero; elastic
    Source: johnson1985

    >>> round(crowned_pressure(1100, 1 / 4.5e-3, 1 / 0.5, contact_modulus(206e9, 0.3, 206e9, 0.3)) / 1e6, 1)
    1629.6
    """
    a, b = _ellipse(load, bend_x, bend_y, modulus)
    return float(1.5 * load / (math.pi * a * b))


def _ellipse(load: float, bend_x: float, bend_y: float, modulus: float) -> tuple[float, float]:
    """Half widths of an elliptical contact, narrow and long, m."""
    require_above("The load", load)
    require_above("The smaller curvature", min(bend_x, bend_y))
    ratio = max(bend_x, bend_y) / min(bend_x, bend_y)
    radius = 1.0 / (bend_x + bend_y)
    if ratio < 1.0 + 1e-6:
        a = (3.0 * load * (2.0 * radius) / (4.0 * modulus)) ** (1.0 / 3.0)
        return float(a), float(a)

    def miss(kappa: float) -> float:
        m = 1.0 - 1.0 / kappa**2
        first, second = float(ellipk(m)), float(ellipe(m))
        return (kappa**2 * second - first) / (first - second) - ratio

    kappa = float(brentq(miss, 1.0 + 1e-7, 10.0 + 3.0 * ratio, xtol=1e-12))
    second = float(ellipe(1.0 - 1.0 / kappa**2))
    b = (3.0 * kappa**2 * second * load * radius / (math.pi * modulus)) ** (1.0 / 3.0)
    return float(b / kappa), float(b)


def line_half_width(load: Newton, length: Metre, bend: PerMetre, modulus: Pascal) -> Metre:
    """Half width of the strip in which two cylinders side by side touch.

    Equation: b = sqrt(4 W / (pi l E* (1/R1 + 1/R2)))
    Range: W > 0, l > 0, 1/R1 + 1/R2 > 0; elastic, no edge effect
    Source: johnson1985

    >>> round(line_half_width(900, 12e-3, 1 / 4.2e-3, contact_modulus(206e9, 0.3, 206e9, 0.3)) * 1e3, 6)
    0.059527
    """
    return 2.0 * load / (math.pi * length * line_pressure(load, length, bend, modulus))


def crowned_half_width(load: Newton, bend_x: PerMetre, bend_y: PerMetre, modulus: Pascal) -> Metre:
    """Half width, the narrow way, of the ellipse in which two crowned bodies touch.

    Equation: a = b / k with b and k as for the pressure of an elliptical contact
    Range: W > 0, both curvatures above zero; elastic
    Source: johnson1985

    >>> round(crowned_half_width(1100, 1 / 4.5e-3, 1 / 0.5, contact_modulus(206e9, 0.3, 206e9, 0.3)) * 1e3, 5)
    0.12908
    """
    return _ellipse(load, bend_x, bend_y, modulus)[0]


def shear_depth(half_width: Metre) -> Metre:
    """Depth below the surface at which shear is greatest under a line contact: where a case must not end.

    Equation: z = 0.786 b
    Range: b > 0; line contact, and near it for a long ellipse; the shear there is 0.300 p0
    Source: johnson1985

    >>> round(shear_depth(0.059526784e-3) * 1e6, 2)
    46.8
    """
    require_above("The half width of the contact", half_width)
    return 0.78615138 * half_width


def greatest_shear(pressure: Pascal) -> Pascal:
    """Greatest shear under a line contact, at the depth of `shear_depth`.

    Equation: tau = 0.300 p0
    Range: p0 > 0
    Source: johnson1985

    >>> round(greatest_shear(802.10083e6) / 1e6, 1)
    240.9
    """
    require_above("The pressure", pressure)
    return 0.30028311 * pressure
