"""Crank and piston."""

from valvetrain.formulas.limits import require_above
from valvetrain.quantities import Hertz, Metre, MetrePerSecond


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
