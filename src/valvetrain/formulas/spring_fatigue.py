"""Strength of spring wire and what repeated loading leaves of it."""

import math
from enum import StrEnum

from valvetrain.formulas.coil_springs import spring_index
from valvetrain.formulas.damage import Below, reversed_stress, turns_borne
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, Pascal, Ratio


class Wire(StrEnum):
    """Grades of spring wire (shigley, table 10-4)."""

    MUSIC = "music wire"
    OIL_TEMPERED = "oil-tempered carbon"
    HARD_DRAWN = "hard-drawn carbon"
    CHROME_VANADIUM = "chrome-vanadium"
    CHROME_SILICON = "chrome-silicon"


# A in Pa (at 1 mm), exponent m, range of the table in m, and torsional yield as a share of tensile strength before set is removed
_TABLE: dict[Wire, tuple[float, float, float, float, float]] = {
    Wire.MUSIC: (2211e6, 0.145, 0.10e-3, 6.5e-3, 0.45),
    Wire.OIL_TEMPERED: (1855e6, 0.187, 0.5e-3, 12.7e-3, 0.50),
    Wire.HARD_DRAWN: (1783e6, 0.190, 0.7e-3, 12.7e-3, 0.45),
    Wire.CHROME_VANADIUM: (2005e6, 0.168, 0.8e-3, 11.1e-3, 0.50),
    Wire.CHROME_SILICON: (1974e6, 0.108, 1.6e-3, 9.5e-3, 0.50),
}
# Zimmerli's components for endless life of any spring steel below 10 mm: alternating and mean torsional stress (zimmerli)
_ENDURANCE = {False: (241e6, 379e6), True: (398e6, 534e6)}


def tensile_strength(wire_diameter: Metre, wire: Wire) -> Pascal:
    """Least tensile strength of spring wire. Super-clean valve-spring wire is stronger, by up to a tenth.

    Equation: S_ut = A / d^m, d in mm (empirical fit)
    Range: d within the table's range of the grade
    Source: shigley

    >>> round(tensile_strength(3e-3, Wire.CHROME_SILICON) / 1e6, 1)
    1753.1
    """
    strength, power, low, high, _ = _TABLE[wire]
    require_between(f"The diameter of {wire.value}", wire_diameter, low, high)
    return strength / float((wire_diameter * 1e3) ** power)


def torsional_yield(tensile: Pascal, wire: Wire) -> Pascal:
    """Torsional stress at which a new spring starts to set.

    Equation: S_sy = c S_ut, c 0.45 for cold-drawn and 0.50 for hardened and tempered wire, before set is removed
    Range: S_ut > 0
    Source: shigley

    >>> round(torsional_yield(1753.1e6, Wire.CHROME_SILICON) / 1e6, 2)
    876.55
    """
    require_above("The tensile strength", tensile)
    return _TABLE[wire][4] * tensile


def torsional_ultimate(tensile: Pascal) -> Pascal:
    """Torsional strength of spring wire.

    Equation: S_su = 0.67 S_ut
    Range: S_ut > 0
    Source: shigley

    >>> round(torsional_ultimate(1000e6) / 1e6)
    670
    """
    require_above("The tensile strength", tensile)
    return 0.67 * tensile


def wahl_factor(index: Ratio) -> Ratio:
    """Curvature and direct-shear correction after Wahl; at most 1.6 % above Bergstraesser's.

    Equation: K = (4 C - 1) / (4 C - 4) + 0.615 / C
    Range: 3 <= C <= 20
    Source: wahl1963

    >>> round(wahl_factor(6.0), 4)
    1.2525
    """
    require_between("The spring index", index, 3.0, 20.0)
    return (4.0 * index - 1.0) / (4.0 * index - 4.0) + 0.615 / index


def endurance_goodman(ultimate: Pascal, *, peened: bool = False) -> Pascal:
    """Torsional endurance limit, fully reversed, from Zimmerli's components on Goodman's line.

    Equation: S_se = S_sa / (1 - S_sm / S_su)
    Range: S_su above S_sm (379 MPa, peened 534 MPa)
    Source: zimmerli

    >>> round(endurance_goodman(1312.3e6) / 1e6, 1)
    338.9
    """
    alternating, mean = _ENDURANCE[peened]
    require_above("The torsional ultimate less Zimmerli's mean stress", ultimate - mean)
    return alternating / (1.0 - mean / ultimate)


def goodman_factor(alternating: Pascal, mean: Pascal, endurance: Pascal, ultimate: Pascal) -> Ratio:
    """Factor of safety against fatigue on Goodman's line.

    Equation: 1 / n = tau_a / S_se + tau_m / S_su
    Range: tau_a > 0, tau_m >= 0
    Source: shigley

    >>> round(goodman_factor(29.690143, 39.586858, 49.223826, 190.3363), 4)
    1.2328
    """
    require_above("The alternating stress", alternating)
    require_above("The mean stress", mean, -1e-30)
    return 1.0 / (alternating / endurance + mean / ultimate)


def gerber_factor(alternating: Pascal, mean: Pascal, ultimate: Pascal, *, peened: bool = False) -> Ratio:
    """Factor of safety against fatigue on Gerber's parabola through Zimmerli's point, load line through the origin.

    Equation: S_se = S_sa / (1 - (S_sm/S_su)^2); n = r^2 S_su^2 / (2 S_se tau_a) (-1 + sqrt(1 + (2 S_se/(r S_su))^2)), r = tau_a/tau_m
    Range: tau_a, tau_m > 0, S_su above Zimmerli's mean stress
    Source: shigley

    >>> round(gerber_factor(204.7e6, 272.9e6, 1312.3e6), 2)
    1.2
    """
    component, steady = _ENDURANCE[peened]
    require_above("The alternating stress", alternating)
    require_above("The mean stress", mean)
    require_above("The torsional ultimate less Zimmerli's mean stress", ultimate - steady)
    endurance = component / (1.0 - (steady / ultimate) ** 2)
    ratio = alternating / mean
    strength = ratio**2 * ultimate**2 / (2.0 * endurance) * (-1.0 + math.sqrt(1.0 + (2.0 * endurance / (ratio * ultimate)) ** 2))
    return strength / alternating


def turns_to_failure(alternating: Pascal, mean: Pascal, endurance: Pascal, ultimate: Pascal) -> Ratio:
    """Turns of the cam a spring is expected to stand; infinite at or below the endurance line.

    Equation: S = tau_a / (1 - tau_m/S_su); N = 10^3 (S / (0.9 S_su))^(-1/b), b = log10(0.9 S_su/S_se) / 3
    Range: tau_m below S_su; S_se below 0.9 S_su
    Source: shigley

    >>> turns_to_failure(300e6, 500e6, 400e6, 1200e6) == math.inf
    False
    >>> turns_to_failure(200e6, 500e6, 400e6, 1200e6)
    inf
    """
    stress = reversed_stress(alternating, mean, ultimate)
    return math.inf if stress <= endurance else turns_borne(stress, endurance, ultimate, Below.NOTHING)


def least_coil_gaps(wire_diameter: Metre, mean_diameter: Metre, coils: Ratio, *, moving: bool = True) -> Metre:
    """Sum of the gaps that must be left between the coils of a cold-coiled spring; half more where it moves.

    Equation: S_a = n (0.0015 D^2/d + 0.1 d), times 1.5 when moving
    Range: 3 <= D/d <= 20, n >= 1
    Source: en13906

    >>> round(least_coil_gaps(3.4e-3, 22.6e-3, 4.5, moving=False) * 1e3, 4)
    2.544
    """
    spring_index(wire_diameter, mean_diameter)
    require_between("The number of active coils", coils, 1.0, 100.0)
    gaps = coils * (0.0015 * mean_diameter**2 / wire_diameter + 0.1 * wire_diameter)
    return 1.5 * gaps if moving else gaps
