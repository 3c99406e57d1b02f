"""Crank and piston."""

import math
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Hertz, Kilogram, Metre, MetrePerSecond, Pascal, Radian, Ratio, SquareMetre

Radians = Annotated[NDArray[np.float64], ""]
Metres = Annotated[NDArray[np.float64], "m"]
MetresPerSecond = Annotated[NDArray[np.float64], "m/s"]
MetresPerSquareSecond = Annotated[NDArray[np.float64], "m/s**2"]
MetrePerSquareSecond = Annotated[float, "m/s**2"]


def mean_piston_speed(stroke: Metre, speed: Hertz) -> MetrePerSecond:
    """Mean speed of the piston; `speed` is the crankshaft's in rev/s.

    Equation: Sp = 2 S N
    Range: S > 0, N > 0
    Source: heywood1988

    >>> round(mean_piston_speed(0.0536, 9500 / 60), 3)
    16.973
    """
    require_above("The stroke", stroke)
    require_above("The engine speed", speed)
    return 2.0 * stroke * speed


def speed_at_piston_speed(stroke: Metre, piston_speed: MetrePerSecond) -> Hertz:
    """Crankshaft speed (rev/s) at which the mean piston speed is reached.

    Equation: N = Sp / (2 S)
    Range: S > 0, Sp > 0
    Source: heywood1988

    >>> round(speed_at_piston_speed(0.0536, 16.973333) * 60)
    9500
    """
    require_above("The stroke", stroke)
    require_above("The piston speed", piston_speed)
    return piston_speed / (2.0 * stroke)


def piston_drop(stroke: Metre, rod: Metre, angle: Radian) -> Metre:
    """Way of the piston down from top dead centre, no pin offset.

    Equation: x = r + l - r cos(theta) - sqrt(l^2 - r^2 sin^2(theta)), r = S / 2
    Range: S > 0, l > S / 2; any angle
    Source: heywood1988

    >>> round(piston_drop(0.0536, 0.0995, math.pi / 2) * 1000, 4)
    30.4772
    """
    require_above("The stroke", stroke)
    require_above("The connecting rod", rod, stroke / 2.0)
    crank = stroke / 2.0
    return crank + rod - crank * math.cos(angle) - math.sqrt(rod**2 - (crank * math.sin(angle)) ** 2)


def trapped_ratio(compression: Ratio, stroke: Metre, rod: Metre, closing: Radian) -> Ratio:
    """Compression ratio counted from where the intake valve shuts, `closing` after bottom dead centre.

    Equation: r_t = 1 + (r_c - 1) x(pi + closing) / S
    Range: r_c > 1, S > 0, l > S / 2, -pi/2 <= closing <= pi; a geometric index only
    Source: heywood1988

    >>> round(trapped_ratio(13.2, 0.0536, 0.101, math.radians(52)), 4)
    11.3637
    """
    require_above("The compression ratio", compression, 1.0)
    require_between("The closing angle", closing, -math.pi / 2.0, math.pi)
    return 1.0 + (compression - 1.0) * piston_drop(stroke, rod, math.pi + closing) / stroke


def piston_travel(stroke: Metre, rod: Metre, offset: Metre, angle: Radians) -> Metres:
    """Way of the piston down from its highest place, with a pin or bore offset; `angle` is counted from that place.

    Equation: x = sqrt((r + l)^2 - e^2) - r cos(t) - sqrt(l^2 - (r sin(t) - e)^2), t = angle + asin(e / (r + l)), r = S / 2
    Range: S > 0, l > S / 2 + |e|; any angle
    Source: heywood1988

    >>> float(round(piston_travel(0.0536, 0.101, 0.0, np.array([math.radians(10)]))[0] * 1000, 6))
    0.514425
    """
    require_above("The stroke", stroke)
    require_above("The connecting rod", rod, stroke / 2.0 + abs(offset))
    crank = stroke / 2.0
    turned = angle + math.asin(offset / (crank + rod))
    reach = math.sqrt((crank + rod) ** 2 - offset**2)
    return np.asarray(reach - crank * np.cos(turned) - np.sqrt(rod**2 - (crank * np.sin(turned) - offset) ** 2))


def piston_acceleration(stroke: Metre, rod: Metre, speed: Hertz) -> MetrePerSquareSecond:
    """Greatest acceleration of the piston, at top dead centre; `speed` is the crankshaft's in rev/s, no pin offset.

    Equation: a = (2 pi N)^2 r (1 + r / l), r = S / 2
    Range: S > 0, l > S / 2, N > 0
    Source: heywood1988

    >>> round(piston_acceleration(0.0536, 0.101, 200.0))
    53551
    """
    require_above("The stroke", stroke)
    require_above("The connecting rod", rod, stroke / 2.0)
    require_above("The engine speed", speed)
    crank = stroke / 2.0
    return (2.0 * math.pi * speed) ** 2 * crank * (1.0 + crank / rod)


def rod_stretch(mass: Kilogram, acceleration: MetrePerSquareSecond, rod: Metre, section: SquareMetre, modulus: Pascal) -> Metre:
    """How much longer the connecting rod becomes by the pull of the piston at overlap top dead centre.

    Equation: d = m a l / (E A), m all that hangs on the small end
    Range: m, a, l, A, E > 0; stretch of the shank alone, neither bearings nor crank
    Source: statics

    >>> round(rod_stretch(0.30, 53556.0, 0.101, 110e-6, 206e9) * 1e3, 4)
    0.0716
    """
    for name, value in (("The mass", mass), ("The acceleration", acceleration), ("The rod", rod), ("Its section", section)):
        require_above(name, value)
    if not modulus > 0.0:
        raise OutOfRangeError(f"A modulus of elasticity must be above zero, and is {modulus:g}.")
    return mass * acceleration * rod / (modulus * section)


def dead_centres(stroke: Metre, rod: Metre, offset: Metre) -> tuple[Radian, Radian]:
    """Crank angles of the highest and the lowest place of a piston with pin or bore offset, from where crank and bore are in line.

    Equation: top asin(e / (l + r)), bottom pi + asin(e / (l - r))
    Range: l > r + |e|, r = S / 2
    Source: heywood1988

    >>> [round(math.degrees(angle), 4) for angle in dead_centres(0.0536, 0.101, 1e-3)]
    [0.4483, 180.7722]
    """
    require_above("The stroke", stroke)
    require_above("The connecting rod", rod, stroke / 2.0 + abs(offset))
    crank = stroke / 2.0
    return math.asin(offset / (rod + crank)), math.pi + math.asin(offset / (rod - crank))


def piston_velocity(stroke: Metre, rod: Metre, offset: Metre, angle: Radians, speed: Hertz) -> MetresPerSecond:
    """Velocity of the piston, positive down; `angle` from its highest place, `speed` the crankshaft's in rev/s.

    Equation: v = 2 pi N [r sin(t) + (r sin(t) - e) r cos(t) / sqrt(l^2 - (r sin(t) - e)^2)], t = angle + asin(e / (r + l)), r = S / 2
    Range: S > 0, l > S / 2 + |e|, N > 0
    Source: heywood1988

    >>> round(float(piston_velocity(0.0536, 0.0995, 0.0, np.array([math.pi / 2]), 9500 / 60)[0]), 3)
    26.662
    """
    sine, cosine, reach, crank = _swing(stroke, rod, offset, angle)
    require_above("The engine speed", speed)
    side = crank * sine - offset
    return np.asarray(2.0 * math.pi * speed * (crank * sine + side * crank * cosine / reach))


def piston_acceleration_at(stroke: Metre, rod: Metre, offset: Metre, angle: Radians, speed: Hertz) -> MetresPerSquareSecond:
    """Acceleration of the piston, positive down; `angle` from its highest place, `speed` the crankshaft's in rev/s.

    Equation: a = (2 pi N)^2 [r cos(t) + ((r cos(t))^2 - y r sin(t)) / q + (y r cos(t))^2 / q^3], y = r sin(t) - e, q = sqrt(l^2 - y^2)
    Range: S > 0, l > S / 2 + |e|, N > 0
    Source: heywood1988

    >>> round(float(piston_acceleration_at(0.0536, 0.0995, 0.0, np.array([math.radians(60)]), 9500 / 60)[0]), 1)
    9694.3
    """
    sine, cosine, reach, crank = _swing(stroke, rod, offset, angle)
    require_above("The engine speed", speed)
    side, along = crank * sine - offset, crank * cosine
    part = along + (along**2 - side * crank * sine) / reach + (side * along) ** 2 / reach**3
    return np.asarray((2.0 * math.pi * speed) ** 2 * part)


def _swing(stroke: float, rod: float, offset: float, angle: Radians) -> tuple[Radians, Radians, Metres, float]:
    """Sine and cosine of the crank's angle, height of the rod, and crank radius."""
    require_above("The stroke", stroke)
    require_above("The connecting rod", rod, stroke / 2.0 + abs(offset))
    crank = stroke / 2.0
    turned = np.asarray(angle) + math.asin(offset / (crank + rod))
    sine, cosine = np.sin(turned), np.cos(turned)
    return sine, cosine, np.sqrt(rod**2 - (crank * sine - offset) ** 2), crank
