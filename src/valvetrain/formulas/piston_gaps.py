"""Room between a valve head and a piston, and between two valve heads."""

import math
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, Radian

Metres = Annotated[NDArray[np.float64], "m"]
Directions = Annotated[NDArray[np.float64], ""]

_STEEPEST = math.radians(50.0)
_ROUND = 36  # points of a rim that are tried first
_ZOOM, _ZOOMS = 9, 4  # points about the best one, and how often the window is quartered: far below a micrometre


def stem_gap_at_rest(height: Metre, valve_angle: Radian, pocket_angle: Radian, head_diameter: Metre) -> Metre:
    """Gap along the stem between the face of a shut valve, a flat disc, and a flat pocket floor (or crown) with the piston at its top.

    Equation: g0 = h cos(b) / cos(a - b) - (D / 2) tan|a - b|, h from the head's centre straight down the bore to the floor
    Range: D > 0; angles to the bore, a from 0 to 50 deg, |a - b| below 50 deg; below zero they touch already
    Source: definition

    >>> round(stem_gap_at_rest(5e-3, math.radians(12), math.radians(12), 32e-3) * 1e3, 4)
    4.8907
    """
    require_above("The valve head", head_diameter)
    require_between("The angle between valve and bore", valve_angle, 0.0, _STEEPEST)
    require_between("The angle between pocket floor and valve head", abs(valve_angle - pocket_angle), 0.0, _STEEPEST)
    lean = valve_angle - pocket_angle
    return height * math.cos(pocket_angle) / math.cos(lean) - head_diameter / 2.0 * math.tan(abs(lean))


def stem_gap(rest_gap: Metre, travel: Metres, valve_angle: Radian, pocket_angle: Radian, lift: Metres) -> Metres:
    """Gap along the stem with the piston down by `travel` and the valve open by `lift`.

    Equation: g = g0 + x cos(b) / cos(a - b) - L; with a floor parallel to the head (a = b) g0 + x cos(a) - L
    Range: angles as in stem_gap_at_rest; arrays of equal shape; below zero valve and piston meet
    Source: definition

    >>> a = math.radians(11)
    >>> float(round(stem_gap(4.1e-3, np.array([0.51442496e-3]), a, a, np.array([2.35e-3]))[0] * 1e3, 5))
    2.25497
    """
    require_between("The angle between pocket floor and valve head", abs(valve_angle - pocket_angle), 0.0, _STEEPEST)
    return rest_gap + travel * (math.cos(pocket_angle) / math.cos(valve_angle - pocket_angle)) - lift


def rim_gap(pocket_diameter: Metre, head_diameter: Metre, offset: Metre, travel: Metres, valve_angle: Radian) -> Metres:
    """Gap beside the valve head, to the wall of its pocket; `offset` is how far the pocket's centre lies off the stem with the piston up.

    Equation: s = (Dp - D) / 2 - |o + x sin(a)|, because the pocket leaves along the bore and the valve along its stem
    Range: Dp, D > 0, 0 <= a <= 50 deg; below zero the head stands on the pocket's edge
    Source: definition

    >>> float(round(rim_gap(36e-3, 33e-3, 0.0, np.array([0.6e-3]), math.radians(12))[0] * 1e3, 4))
    1.3753
    """
    require_above("The pocket", pocket_diameter)
    require_above("The valve head", head_diameter)
    require_between("The angle between valve and bore", valve_angle, 0.0, _STEEPEST)
    return (pocket_diameter - head_diameter) / 2.0 - np.abs(offset + travel * math.sin(valve_angle))


def _across(axis: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Two unit vectors square to each axis and to one another; shape (n, 3)."""
    helper = np.where(np.abs(axis[:, :1]) < 0.9, np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0]))
    first = np.cross(axis, helper)
    first /= np.linalg.norm(first, axis=1, keepdims=True)
    return first, np.cross(axis, first)


def _rim_to_disc(centre: Metres, axis: Directions, radius: Metres, other: Metres, normal: Directions, reach: Metres) -> Metres:
    """Least distance from the rim of one disc to the whole of another, for n pairs."""
    first, second = _across(axis)
    apart = centre - other
    # with p = c + r (u cos t + v sin t) both |p - o|^2 and (p - o).n are a constant and one turn of cosine and sine
    square = (apart**2).sum(axis=1) + radius**2
    along = [2.0 * radius * (apart * each).sum(axis=1) for each in (first, second)]
    height = (apart * normal).sum(axis=1)
    rise = [radius * (each * normal).sum(axis=1) for each in (first, second)]

    def away(cosine: NDArray[np.float64], sine: NDArray[np.float64]) -> NDArray[np.float64]:
        """Squares of the distances."""
        above = height[:, None] + rise[0][:, None] * cosine + rise[1][:, None] * sine
        above *= above
        whole = square[:, None] + along[0][:, None] * cosine + along[1][:, None] * sine
        beyond = np.sqrt(np.maximum(whole - above, 0.0)) - reach[:, None]
        np.maximum(beyond, 0.0, out=beyond)
        return np.asarray(beyond * beyond + above)

    turn, wide, rows = np.linspace(0.0, 2.0 * math.pi, _ROUND, endpoint=False), 2.0 * math.pi / _ROUND, np.arange(len(radius))
    found = away(np.cos(turn), np.sin(turn))
    pick = found.argmin(axis=1)
    best, least = turn[pick], found[rows, pick]
    for _ in range(_ZOOMS):
        near = best[:, None] + np.linspace(-wide, wide, _ZOOM)
        found = away(np.cos(near), np.sin(near))
        pick = found.argmin(axis=1)
        best, least = near[rows, pick], np.minimum(least, found[rows, pick])
        wide /= 4.0
    return np.asarray(np.sqrt(least))


def disc_gap(
    centre_1: Metres, axis_1: Directions, diameter_1: Metres, centre_2: Metres, axis_2: Directions, diameter_2: Metres
) -> Metres:  # fmt: skip
    """Least distance between two thin discs in space, for n pairs: centres and unit axes (n, 3), diameters (n,).

    Where two discs are nearest, one of the two points lies on a rim; so each rim is searched against the whole other disc.

    Equation: min over t of |p(t) - disc|, p(t) = c + (D / 2)(u cos t + v sin t); distance to a disc sqrt(h^2 + max(rho - R, 0)^2)
    Range: diameters > 0; zero where the discs cut one another
    Source: definition

    >>> up, tilt = np.array([[0.0, 0.0, 1.0]]), np.array([[1.0, 0.0, 0.0]])
    >>> d = np.array([0.03])
    >>> float(round(disc_gap(np.zeros((1, 3)), up, d, np.array([[0.04, 0.0, 0.0]]), up, d)[0], 6))
    0.01
    """
    if float(min(np.min(diameter_1), np.min(diameter_2))) <= 0.0:
        raise OutOfRangeError("A valve head must have a diameter above zero.")
    one, two = diameter_1 / 2.0, diameter_2 / 2.0
    there = _rim_to_disc(centre_1, axis_1, one, centre_2, axis_2, two)
    back = _rim_to_disc(centre_2, axis_2, two, centre_1, axis_1, one)
    return np.minimum(there, back)
