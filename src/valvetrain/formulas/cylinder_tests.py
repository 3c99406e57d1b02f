"""Compression gauge, leak-down tester and starter current: what their figures are worth."""

import math
from typing import Annotated

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.formulas.valve_flow import critical_pressure_ratio
from valvetrain.units import Hertz, Pascal, Ratio, SquareMetre

CubicMetre = Annotated[float, "m**3"]
_HEATS = 1.4


def cranking_gauge(ambient: Pascal, trapped: Ratio, exponent: Ratio) -> Pascal:
    """Pressure over the air's that a compression gauge shows.

    Equation: p_a (r_t^n - 1)
    Range: p_a > 0, r_t >= 1, 0.8 <= n <= 1.4
    Source: heywood1988

    >>> round(cranking_gauge(101325.0, 8.6, 1.25))
    1390918
    """
    require_above("The air's pressure", ambient)
    require_between("The trapped compression ratio", trapped, 1.0, 40.0)
    require_between("The exponent", exponent, 0.8, 1.4)
    return float(ambient * (trapped**exponent - 1.0))


def exponent_of_gauge(ambient: Pascal, trapped: Ratio, gauge: Pascal) -> Ratio:
    """The exponent that a gauge's reading comes to; falls with leak and slow cranking.

    Equation: ln(1 + p_g / p_a) / ln r_t
    Range: p_a > 0, r_t > 1, p_g >= 0
    Source: heywood1988

    >>> round(exponent_of_gauge(101325.0, 8.6, 1390918.4), 6)
    1.25
    """
    require_above("The air's pressure", ambient)
    require_above("The trapped compression ratio", trapped, 1.0)
    return math.log1p(gauge / ambient) / math.log(trapped)


def spread_of_highest(least: Pascal, most: Pascal) -> Ratio:
    """Spread between cylinders, of the highest.

    Equation: (max - min) / max
    Range: 0 <= min <= max, max > 0
    Source: definition

    >>> round(spread_of_highest(10.2e5, 12.6e5), 6)
    0.190476
    """
    require_above("The highest pressure", most)
    return 1.0 - least / most


def leak_share(regulated: Pascal, behind: Pascal) -> Ratio:
    """What a leak-down tester calls percent: the part of the regulated gauge pressure that is lost behind its restrictor.

    Equation: (p1 - p2) / p1, gauge
    Range: 0 <= p2 <= p1, p1 > 0
    Source: definition

    >>> round(leak_share(550e3, 490e3), 4)
    0.1091
    """
    require_above("The regulated pressure", regulated)
    require_between("The pressure behind over the regulated", behind / regulated, 0.0, 1.0)
    return 1.0 - behind / regulated


def _drive(ratio: float) -> float:
    """Flow function of a pressure ratio, choked below the critical one."""
    ratio = max(ratio, critical_pressure_ratio(_HEATS))
    return float(math.sqrt(max(0.0, ratio ** (2.0 / _HEATS) - ratio ** ((_HEATS + 1.0) / _HEATS))))


def leak_area(regulated: Pascal, behind: Pascal, ambient: Pascal, restrictor: SquareMetre) -> SquareMetre:
    """Area of the leak that a tester's pair tells: the figure that travels from one tester to another. Pressures are gauge.

    Equation: A_r [P1 psi(P2 / P1)] / [P2 psi(p_a / P2)], P absolute, series flow with one flow coefficient
    Range: 0 < p2 <= p1, p_a > 0, A_r > 0
    Source: heywood1988

    >>> round(leak_area(550e3, 490e3, 101325.0, math.pi / 4 * 1e-6) * 1e6, 4)
    0.5148
    """
    require_above("The restrictor's area", restrictor)
    require_above("The air's pressure", ambient)
    if not 0.0 < behind <= regulated:
        raise OutOfRangeError("The pressure behind the restrictor must lie above zero and at most at the regulated one.")
    first, second = regulated + ambient, behind + ambient
    return restrictor * first * _drive(second / first) / (second * _drive(ambient / second))


def wet_ratio(trapped: Ratio, oil: CubicMetre, volume: CubicMetre) -> Ratio:
    """Trapped ratio with oil in the cylinder; `volume` is that of the closed chamber.

    Equation: (r_t V - dV) / (V - dV)
    Range: r_t > 1, 0 <= dV < V
    Source: definition

    >>> round(wet_ratio(8.6, 5e-6, 30e-6), 3)
    10.12
    """
    require_above("The trapped compression ratio", trapped, 1.0)
    require_above("The chamber", volume, oil)
    return (trapped * volume - oil) / (volume - oil)


def compressions_per_second(speed: Hertz, cylinders: Ratio) -> Hertz:
    """Compressions of a four-stroke a second.

    Equation: n N / 2
    Range: all above zero
    Source: definition

    >>> round(compressions_per_second(260 / 60, 4), 4)
    8.6667
    """
    require_above("The speed", speed)
    require_above("The cylinders", cylinders)
    return cylinders * speed / 2.0


def error_of_median(spread: Ratio, count: Ratio) -> Ratio:
    """Standard error of a median of readings that scatter by a standard deviation.

    Equation: sqrt(pi / 2) s / sqrt m, taken as 1.25
    Range: m >= 1
    Source: definition

    >>> round(error_of_median(2.0, 8.0), 4)
    0.8839
    """
    require_above("The count", count)
    return 1.25 * spread / math.sqrt(count)
