"""Cam curves as polynomials: the 2-p-q-r-s half event, and the clearance ramp before it."""

import math
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import MetrePerRadian, MetrePerSecond, Ratio

Ratios = Annotated[NDArray[np.float64], ""]
Coefficients = tuple[tuple[float, float], ...]


def flank_exponents(fullness: Ratio) -> tuple[float, float, float, float]:
    """Exponents p, q, r, s of the 2-p-q-r-s family with one parameter; 8 gives the classic 2-8-14-20-26.

    Equation: q = 2p - 2, r = 3p - 4, s = 4p - 6
    Range: 3.5 <= p <= 30
    Source: stoddart1953

    >>> flank_exponents(8.0)
    (8.0, 14.0, 20.0, 26.0)
    """
    require_between("The fullness of the flank", fullness, 3.5, 30.0)
    return fullness, 2.0 * fullness - 2.0, 3.0 * fullness - 4.0, 4.0 * fullness - 6.0


def polynomial_coefficients(p: Ratio, q: Ratio, r: Ratio, s: Ratio) -> Coefficients:
    """Terms (exponent, coefficient) of unit lift y(x), x = angle from nose / half duration.

    Equation: y = 1 + C2 x^2 + Cp x^p + Cq x^q + Cr x^r + Cs x^s with y = y' = y'' = y''' = y'''' = 0 at x = 1
    Range: 2 < p < q < r < s <= 120
    Source: stoddart1953

    >>> [round(c, 4) for _, c in polynomial_coefficients(8, 14, 20, 26)]
    [-1.8724, 1.8724, -1.6049, 0.749, -0.144]
    """
    require_between("p", p, 2.0 + 1e-9, q - 1e-9)
    require_between("r", r, q + 1e-9, s - 1e-9)
    require_between("s", s, r, 120.0)
    c2 = -p * q * r * s / ((p - 2) * (q - 2) * (r - 2) * (s - 2))
    cp = 2 * q * r * s / ((p - 2) * (q - p) * (r - p) * (s - p))
    cq = -2 * p * r * s / ((q - 2) * (q - p) * (r - q) * (s - q))
    cr = 2 * p * q * s / ((r - 2) * (r - p) * (r - q) * (s - r))
    cs = -2 * p * q * r / ((s - 2) * (s - p) * (s - q) * (s - r))
    return ((2.0, c2), (p, cp), (q, cq), (r, cr), (s, cs))


def unit_lift(terms: Coefficients, x: Ratios, order: int = 0) -> Ratios:
    """Unit lift or its derivative of `order` 0, 1, 2 or 3 with respect to x; zero where |x| >= 1.

    Equation: d^k/dx^k (1 + sum c x^e); odd orders change sign with x
    Range: order 0..3, any x
    Source: stoddart1953

    >>> terms = polynomial_coefficients(8, 14, 20, 26)
    >>> round(float(unit_lift(terms, np.array([0.5]))[0]), 6)
    0.53911
    """
    require_between("The order of the derivative", order, 0, 3)
    side = np.minimum(np.abs(x), 1.0)
    total = np.full_like(side, 1.0 if order == 0 else 0.0)
    for exponent, coefficient in terms:
        factor = math.prod(exponent - step for step in range(order))
        if factor:
            total += coefficient * factor * side ** (exponent - order)
    total[np.abs(x) >= 1.0] = 0.0
    return total * np.sign(x) if order % 2 else total


def seating_velocity(ramp_slope: MetrePerRadian, cam_speed: Annotated[float, "1/s"]) -> MetrePerSecond:
    """Speed at which a valve meets its seat on a constant-velocity ramp; `cam_speed` in rev/s of the camshaft.

    Equation: v = 2 pi n q
    Range: n >= 0, q >= 0; rigid train
    Source: norton_cam

    >>> round(seating_velocity(0.018e-3 * 180 / math.pi, 8000 / 120), 3)
    0.432
    """
    require_above("The ramp's slope", ramp_slope, -1e-30)
    require_above("The cam's speed", cam_speed, -1e-30)
    return 2.0 * math.pi * cam_speed * ramp_slope


def cycloidal_rise(x: Ratios, order: int = 0) -> Ratios:
    """Cycloidal rise over x from 0 to 1, or its derivative of `order` 0 to 3; at rest before and after.

    Equation: f = x - sin(2 pi x) / (2 pi)
    Range: order 0..3, any x
    Source: norton_cam

    >>> [round(float(cycloidal_rise(np.array([0.25]), order)[0]), 6) for order in (0, 1, 2)]
    [0.090845, 1.0, 6.283185]
    """
    require_between("The order", float(order), 0.0, 3.0)
    t = np.clip(x, 0.0, 1.0)
    turn = 2.0 * math.pi
    parts = (t - np.sin(turn * t) / turn, 1.0 - np.cos(turn * t), turn * np.sin(turn * t), turn**2 * np.cos(turn * t))
    inside = (x > 0.0) & (x < 1.0)
    return np.asarray(parts[0] if order == 0 else np.where(inside, parts[order], 0.0))


def polynomial_rise(x: Ratios, highest: int, order: int = 0) -> Ratios:
    """Rise of the 3-4-5 (`highest` 5) or 4-5-6-7 polynomial (7) over x from 0 to 1, or its derivative of `order` 0 to 3.

    Equation: 10 x^3 - 15 x^4 + 6 x^5; 35 x^4 - 84 x^5 + 70 x^6 - 20 x^7
    Range: highest 5 or 7, order 0..3, any x
    Source: norton_cam

    >>> round(float(polynomial_rise(np.array([0.5]), 7, 1)[0]), 4)
    2.1875
    """
    require_between("The order", float(order), 0.0, 3.0)
    terms = {5: [0, 0, 0, 10, -15, 6], 7: [0, 0, 0, 0, 35, -84, 70, -20]}
    if highest not in terms:
        raise OutOfRangeError(f"A rise of degree {highest} is not known: 5 is the 3-4-5 polynomial, 7 the 4-5-6-7.")
    law = np.polynomial.Polynomial(terms[highest])
    value = law.deriv(order)(np.clip(x, 0.0, 1.0)) if order else law(np.clip(x, 0.0, 1.0))
    return np.asarray(value if order == 0 else np.where((x > 0.0) & (x < 1.0), value, 0.0))
