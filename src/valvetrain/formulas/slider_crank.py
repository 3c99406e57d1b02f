"""Crank and piston."""

import math

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.quantities import Hertz, Metre, MetrePerSecond, Radian, Ratio


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
