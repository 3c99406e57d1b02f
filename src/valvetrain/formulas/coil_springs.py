"""Helical compression springs of round wire: rate, stress, solid height, mass, surge."""

import math
from enum import StrEnum

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Hertz, Kilogram, KilogramPerCubicMetre, Metre, Newton, NewtonPerMetre, Pascal, Ratio

STEEL_DENSITY: KilogramPerCubicMetre = 7850.0
OIL_HARDENED_SHEAR_MODULUS: Pascal = 79.5e9  # en10270, part 2; Shigley gives 77.2 GPa for chrome-silicon, 3 % less


class Ends(StrEnum):
    """How the ends of a spring are made; decides active coils and solid height (shigley, table 10-1)."""

    PLAIN = "plain"
    PLAIN_GROUND = "plain, ground"
    CLOSED = "closed"
    CLOSED_GROUND = "closed, ground"


_DEAD_COILS = {Ends.PLAIN: 0.0, Ends.PLAIN_GROUND: 1.0, Ends.CLOSED: 2.0, Ends.CLOSED_GROUND: 2.0}
_GROUND = {Ends.PLAIN_GROUND, Ends.CLOSED_GROUND}


def spring_index(wire_diameter: Metre, mean_diameter: Metre) -> Ratio:
    """Index of a coil spring.

    Equation: C = D / d
    Range: 3 <= C <= 20; below it the wire cannot be coiled, above it tangles.
    Source: en13906

    >>> round(spring_index(3.4e-3, 22.6e-3), 3)
    6.647
    """
    require_above("The wire diameter", wire_diameter)
    index = mean_diameter / wire_diameter
    require_between("The spring index (mean coil diameter over wire diameter)", index, 3.0, 20.0)
    return index


def active_coils(total_coils: Ratio, ends: Ends) -> Ratio:
    """Coils that give, from the coils that can be counted.

    Equation: n = Nt - dead coils (plain 0; plain ground 1; closed 2; closed ground 2)
    Range: n >= 1
    Source: shigley

    >>> active_coils(6.5, Ends.CLOSED_GROUND)
    4.5
    """
    count = total_coils - _DEAD_COILS[ends]
    require_between("The number of active coils", count, 1.0, 100.0)
    return count


def solid_height(wire_diameter: Metre, total_coils: Ratio, ends: Ends) -> Metre:
    """Height with every coil touching.

    Equation: Ls = d Nt for ground ends, d (Nt + 1) otherwise
    Range: d > 0, Nt >= 1
    Source: shigley

    >>> round(solid_height(3.8e-3, 6.2, Ends.CLOSED_GROUND) * 1000, 2)
    23.56
    """
    require_above("The wire diameter", wire_diameter)
    require_between("The number of coils", total_coils, 1.0, 100.0)
    return wire_diameter * (total_coils if ends in _GROUND else total_coils + 1.0)


def rate(wire_diameter: Metre, mean_diameter: Metre, coils: Ratio, shear_modulus: Pascal) -> NewtonPerMetre:
    """Rate of a cylindrical spring.

    Equation: k = G d^4 / (8 D^3 n)
    Range: 3 <= D/d <= 20, 1 <= n <= 100; pitch angle and direct shear neglected (under 2 % for valve springs)
    Source: shigley

    >>> round(rate(3.4e-3, 22.6e-3, 4.5, 79.5e9))
    25566
    """
    spring_index(wire_diameter, mean_diameter)
    require_between("The number of active coils", coils, 1.0, 100.0)
    require_above("The shear modulus", shear_modulus)
    return shear_modulus * wire_diameter**4 / (8.0 * mean_diameter**3 * coils)


def bergstraesser_factor(index: Ratio) -> Ratio:
    """Curvature and direct-shear correction of the torsional stress.

    Equation: K = (4 C + 2) / (4 C - 3)
    Range: 3 <= C <= 20
    Source: shigley

    >>> round(bergstraesser_factor(7.3), 6)
    1.19084
    """
    require_between("The spring index", index, 3.0, 20.0)
    return (4.0 * index + 2.0) / (4.0 * index - 3.0)


def shear_stress(load: Newton, wire_diameter: Metre, mean_diameter: Metre) -> Pascal:
    """Corrected torsional stress at the inside of the coil.

    Equation: tau = K 8 F D / (pi d^3), K after Bergstraesser
    Range: 3 <= D/d <= 20; F may be any sign
    Source: shigley

    >>> round(shear_stress(500.0, 3.4e-3, 22.6e-3) / 1e6)
    887
    """
    factor = bergstraesser_factor(spring_index(wire_diameter, mean_diameter))
    return factor * 8.0 * load * mean_diameter / (math.pi * wire_diameter**3)


def active_mass(wire_diameter: Metre, mean_diameter: Metre, coils: Ratio, density: KilogramPerCubicMetre) -> Kilogram:
    """Mass of the given number of coils.

    Equation: m = rho (pi d^2 / 4) (pi D n)
    Range: d, D, n, rho > 0
    Source: shigley

    >>> round(active_mass(3.4e-3, 22.6e-3, 4.5, 7850.0) * 1000, 2)
    22.77
    """
    for name, value in (("The wire", wire_diameter), ("The coil", mean_diameter), ("The coils", coils), ("Density", density)):
        require_above(name, value)
    return density * (math.pi * wire_diameter**2 / 4.0) * (math.pi * mean_diameter * coils)


def surge_frequency(spring_rate: NewtonPerMetre, mass: Kilogram) -> Hertz:
    """First own frequency of a spring held at both ends.

    Equation: f1 = 0.5 sqrt(k / m)
    Range: k, m > 0; uniform wire and pitch
    Source: wahl1963

    >>> round(surge_frequency(25565.54, 22.77132e-3), 1)
    529.8
    """
    require_above("The spring rate", spring_rate)
    require_above("The spring's mass", mass)
    return 0.5 * math.sqrt(spring_rate / mass)


def coil_pitch(free_length: Metre, wire_diameter: Metre, coils: Ratio, ends: Ends) -> Metre:
    """Pitch of the active coils of a free spring.

    Equation: plain (L0 - d)/n; plain ground L0/(n + 1); closed (L0 - 3d)/n; closed ground (L0 - 2d)/n
    Range: L0 above the ends' own height, n >= 1
    Source: shigley

    >>> round(coil_pitch(2.0656995, 0.037, 10.5, Ends.CLOSED), 6)
    0.186162
    """
    require_between("The number of active coils", coils, 1.0, 100.0)
    require_above("The wire diameter", wire_diameter)
    dead = {Ends.PLAIN: 1.0, Ends.PLAIN_GROUND: 0.0, Ends.CLOSED: 3.0, Ends.CLOSED_GROUND: 2.0}[ends]
    require_above("The free length", free_length, dead * wire_diameter)
    return (free_length - dead * wire_diameter) / (coils + (1.0 if ends is Ends.PLAIN_GROUND else 0.0))


def coil_gap(height: Metre, solid: Metre, coils: Ratio) -> Metre:
    """Gap between neighbouring active coils at a height, shared evenly.

    Equation: g = (L - Ls) / n
    Range: L >= Ls, n >= 1; even pitch
    Source: definition

    >>> round(coil_gap(36e-3, 23.56e-3, 4.2) * 1e3, 4)
    2.9619
    """
    require_between("The number of active coils", coils, 1.0, 100.0)
    require_above("The height over the solid height", height - solid, -1e-12)
    return (height - solid) / coils


def stable_length(mean_diameter: Metre, elastic: Pascal, shear_modulus: Pascal, seating: Ratio) -> Metre:
    """Free length below which a spring never buckles; `seating` 0.5 between flat parallel seats, 1 between pivots, 2 with one end free.

    Equation: L0 < (pi D / alpha) sqrt(2 (E - G) / (2 G + E))
    Range: E > G > 0, 0.5 <= alpha <= 2
    Source: shigley

    >>> round(stable_length(22.6e-3, 206e9, 79.5e9, 0.5) * 1e3, 3)
    118.223
    """
    require_above("The mean coil diameter", mean_diameter)
    require_above("The elastic modulus less the shear modulus", elastic - shear_modulus)
    require_between("How the ends are held", seating, 0.5, 2.0)
    return math.pi * mean_diameter / seating * math.sqrt(2.0 * (elastic - shear_modulus) / (2.0 * shear_modulus + elastic))


def buckling_deflection(free_length: Metre, mean_diameter: Metre, elastic: Pascal, shear_modulus: Pascal, seating: Ratio) -> Metre:
    """Deflection at which a slim spring buckles; as long as the spring itself where it never does.

    Equation: y = L0 C1 (1 - sqrt(1 - C2 / lambda^2)), lambda = alpha L0 / D, C1 = E / (2 (E - G)), C2 = 2 pi^2 (E - G) / (2 G + E)
    Range: L0, D > 0, E > G > 0, 0.5 <= alpha <= 2
    Source: shigley

    >>> round(buckling_deflection(140e-3, 22.6e-3, 206e9, 79.5e9, 0.5) * 1e3, 3)
    52.934
    """
    require_above("The free length", free_length)
    if free_length <= stable_length(mean_diameter, elastic, shear_modulus, seating):
        return free_length
    slim = (seating * free_length / mean_diameter) ** 2
    first, second = (
        elastic / (2.0 * (elastic - shear_modulus)),
        2.0 * math.pi**2 * (elastic - shear_modulus) / (2.0 * shear_modulus + elastic),
    )
    return free_length * first * (1.0 - math.sqrt(1.0 - second / slim))


def surge_mode(spring_rate: NewtonPerMetre, mass: Kilogram, number: int, *, free_end: bool = False) -> Hertz:
    """Own frequency of a spring of `number` 1, 2, ..., held at both ends, or with one end free as when it leaves its retainer.

    Equation: f_j = (j / 2) sqrt(k / m) held at both ends; f_j = ((2 j - 1) / 4) sqrt(k / m) with one end free
    Range: k, m > 0, j >= 1; uniform wire and pitch, m of the active coils
    Source: wahl1963

    >>> round(surge_mode(25565.54, 22.77132e-3, 2), 1)
    1059.6
    """
    require_above("The spring rate", spring_rate)
    require_above("The spring's mass", mass)
    require_above("The number of the mode", number)
    return ((2 * number - 1) / 4.0 if free_end else number / 2.0) * math.sqrt(spring_rate / mass)
