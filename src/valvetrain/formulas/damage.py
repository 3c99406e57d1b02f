"""What turns of unequal stress leave behind: the turn of equal harm, turns it bears, the doubt of both, and what a seat is struck with."""

import math
from enum import StrEnum
from typing import Annotated

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Kilogram, MetrePerSecond, Pascal, Ratio

_FEW, _FEW_SHARE = 1e3, 0.9  # turns, and the share of the torsional ultimate that they leave (shigley, sec. 6-8)
_ENDLESS = 1e6  # turns of the endurance limit, from which Zimmerli's figures hold


class Below(StrEnum):
    """What a turn below the endurance limit does once others have gone above it."""

    NOTHING = "nothing, after Miner"
    SAME = "the same slope goes on"
    LESS = "a flatter slope, after Haibach"


def reversed_stress(alternating: Pascal, mean: Pascal, ultimate: Pascal) -> Pascal:
    """The fully reversed stress that harms as much as this turn, on Goodman's line.

    Equation: S = tau_a / (1 - tau_m / S_su)
    Range: tau_a >= 0, tau_m below S_su
    Source: shigley

    >>> round(reversed_stress(300e6, 580e6, 1174.607753e6) / 1e6, 3)
    592.63
    """
    require_above("The torsional ultimate less the mean stress", ultimate - mean)
    require_above("The alternating stress", alternating, -1e-30)
    return alternating / (1.0 - mean / ultimate)


def slope_exponent(endurance: Pascal, ultimate: Pascal) -> Ratio:
    """How steeply life falls with stress: N goes with S to the power of minus this.

    Equation: k = 3 / log10(0.9 S_su / S_se), Basquin's line from 10^3 to 10^6 turns
    Range: 0 < S_se < 0.9 S_su
    Source: shigley

    >>> round(slope_exponent(729.7662e6, 1174.607753e6), 3)
    18.639
    """
    require_above("The endurance limit", endurance)
    require_above("Nine tenths of the ultimate less the endurance limit", _FEW_SHARE * ultimate - endurance)
    return math.log10(_ENDLESS / _FEW) / math.log10(_FEW_SHARE * ultimate / endurance)


def turns_borne(reversed_: Pascal, endurance: Pascal, ultimate: Pascal, below: Below = Below.LESS) -> Ratio:
    """Turns of one reversed stress until it breaks, in the mean; below the limit as told.

    Equation: N = 10^6 (S / S_se)^-k above the limit; below it none, or k goes on, or 2 k - 1
    Range: S > 0; S_se below 0.9 S_su; at the ultimate a single turn
    Source: shigley; haibach below the limit

    >>> round(turns_borne(700e6, 729.7662e6, 1174.607753e6, Below.SAME) / 1e6, 4)
    2.1732
    >>> turns_borne(700e6, 729.7662e6, 1174.607753e6, Below.NOTHING)
    inf
    """
    require_above("The reversed stress", reversed_)
    exponent = slope_exponent(endurance, ultimate)
    if reversed_ <= endurance and below is Below.NOTHING:
        return math.inf
    if reversed_ <= endurance and below is Below.LESS:
        exponent = 2.0 * exponent - 1.0
    turns: float = _ENDLESS * (reversed_ / endurance) ** -exponent
    return max(turns, 1.0)


def doubt_of_life(exponent: Ratio, stress: Ratio, material: Ratio) -> Ratio:
    """One sigma of log10 of the life: a doubt of the stress (part of it) times the slope, and that of the material (log10).

    Equation: s = sqrt((k log10(1 + u))^2 + m^2)
    Range: k > 0; doubts >= 0
    Source: gum

    >>> round(10 ** (2.0 * doubt_of_life(18.639140472962563, 0.05, 0.25)), 4)
    8.6069
    """
    require_above("The slope exponent", exponent)
    require_between("The doubt of the stress", stress, 0.0, 1.0)
    require_between("The doubt of the material", material, 0.0, 3.0)
    return math.hypot(exponent * math.log10(1.0 + stress), material)


def impact_energy(mass: Kilogram, speed: MetrePerSecond) -> Annotated[float, "J"]:
    """What a valve brings to its seat, J.

    Equation: E = m v^2 / 2
    Range: m > 0, v >= 0
    Source: definition

    >>> round(impact_energy(0.062, 1.8) * 1e3, 2)
    100.44
    """
    require_above("The mass", mass)
    require_above("The speed", speed, -1e-30)
    return mass * speed**2 / 2.0


def reliability_bound(parts: Ratio, confidence: Ratio, life: Ratio = 1.0, shape: Ratio = 2.0) -> Ratio:
    """The least share of like parts that hold, when so many held without one failing; for `life` times as long with a Weibull shape.

    Equation: R = (1 - C)^(1/n); R(t) = R^((t/t0)^shape)
    Range: n >= 1, 0 < C < 1, life > 0, shape > 0
    Source: definition

    >>> round(reliability_bound(32, 0.95), 4), round(reliability_bound(32, 0.95, 1.5), 4)
    (0.9106, 0.8101)
    """
    require_above("The number of parts", parts, 1.0 - 1e-12)
    if not 0.0 < confidence < 1.0:
        raise OutOfRangeError("Confidence lies between zero and one.")
    require_above("The times as long", life)
    require_above("The shape", shape)
    held: float = (1.0 - confidence) ** (1.0 / parts)
    bound: float = held ** (life**shape)
    return bound
