"""Sums of gaps that are each only known to lie within limits: worst case, root of squares, and exact."""

import itertools
import math
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, Ratio

Metres = Annotated[NDArray[np.float64], "m"]
_MOST = 12  # 2^n corners


def worst_case(halves: Metres) -> Metre:
    """Half width of a sum when every part is at its worst.

    Equation: A = sum |a_i|
    Range: any
    Source: gum

    >>> round(worst_case(np.array([0.015e-3, 0.008e-3, 0.008e-3])) * 1e3, 3)
    0.031
    """
    return float(np.abs(halves).sum())


def root_of_squares(halves: Metres) -> Metre:
    """Half width of a sum by the usual root of squares of half widths.

    Equation: A = sqrt(sum a_i^2)
    Range: any
    Source: gum

    >>> round(root_of_squares(np.array([0.003, 0.004])), 4)
    0.005
    """
    return float(np.sqrt((np.asarray(halves) ** 2).sum()))


def likely_half_width(halves: Metres, share: Ratio = 0.95) -> Metre:
    """Half width that holds a share of the sum of parts, each anywhere within its half width alike: the exact distribution.

    Equation: P(|X| <= x) from F(x) = sum over corners s of prod(s) (x + s.a)_+^n / (n! prod(2 a_i))
    Range: 0 < share < 1; up to 12 parts above zero
    Source: gum_mc

    >>> round(likely_half_width(math.sqrt(3.0) * np.ones(4)), 4)
    3.8794
    """
    require_between("The share", share, 1e-6, 1.0 - 1e-6)
    parts = np.abs(np.asarray(halves, dtype=float))
    parts = parts[parts > 1e-9 * max(float(parts.max(initial=0.0)), 1e-300)]
    if len(parts) > _MOST:
        raise OutOfRangeError(f"A sum of more than {_MOST} parts is near enough to normal: use the root of squares.")
    if not len(parts):
        return 0.0
    scale = float(parts.max())
    a = parts / scale
    corners = np.array(list(itertools.product((1.0, -1.0), repeat=len(a))))
    signs, reach = corners.prod(axis=1), corners @ a
    below = math.factorial(len(a)) * float(np.prod(2.0 * a))

    def inside(x: float) -> float:
        upper, lower = (float((signs * np.maximum(end + reach, 0.0) ** len(a)).sum()) / below for end in (x, -x))
        return upper - lower

    require_above("The widest part", scale)
    return scale * float(brentq(lambda x: inside(x) - share, 0.0, float(a.sum()), xtol=1e-12))
