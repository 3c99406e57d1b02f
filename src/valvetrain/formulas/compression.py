"""Compression, and what boost, charge heat and altitude make of it."""

import math
from typing import Annotated

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, Pascal, Ratio

Kelvin = Annotated[float, "K"]
CubicMetre = Annotated[float, "m**3"]

_SEA, _LAPSE, _WARM = 101325.0, 0.0065, 288.15  # Pa, K/m, K (iso2533)


def swept_volume(bore: Metre, stroke: Metre) -> CubicMetre:
    """Swept volume of one cylinder.

    Equation: V = pi / 4 B^2 S
    Range: B, S > 0
    Source: definition

    >>> round(swept_volume(76.8e-3, 53.6e-3) * 1e6, 5)
    248.30022
    """
    require_above("The bore", bore)
    require_above("The stroke", stroke)
    return math.pi / 4.0 * bore**2 * stroke


def chamber_volume(swept: CubicMetre, compression: Ratio) -> CubicMetre:
    """All that is left above the piston at TDC.

    Equation: Vc = Vd / (r - 1)
    Range: r > 1
    Source: definition

    >>> round(chamber_volume(248.30022e-6, 13.5) * 1e6, 6)
    19.864018
    """
    require_above("The compression ratio", compression, 1.0)
    require_above("The swept volume", swept)
    return swept / (compression - 1.0)


def end_pressure(pressure: Pascal, compression: Ratio, exponent: Ratio) -> Pascal:
    """Pressure at the end of compression, without burning.

    Equation: p2 = p1 r^n
    Range: r >= 1, 1 < n <= 1.5; n 1.30 to 1.35 fired, 1.2 to 1.3 cranked cold
    Source: heywood1988

    >>> round(end_pressure(1.8e5, 9.0, 1.33) / 1e5, 6)
    33.451457
    """
    require_between("The compression ratio", compression, 1.0, 40.0)
    require_between("The exponent", exponent, 1.001, 1.5)
    return float(pressure * compression**exponent)


def end_temperature(temperature: Kelvin, compression: Ratio, exponent: Ratio) -> Kelvin:
    """Temperature at the end of compression, without burning.

    Equation: T2 = T1 r^(n-1)
    Range: r >= 1, 1 < n <= 1.5
    Source: heywood1988

    >>> round(end_temperature(300.0, 8.0, 1.4), 5)
    689.21901
    """
    require_between("The compression ratio", compression, 1.0, 40.0)
    require_between("The exponent", exponent, 1.001, 1.5)
    return float(temperature * compression ** (exponent - 1.0))


def ratio_of_equal_pressure(compression: Ratio, pressure_ratio: Ratio, exponent: Ratio) -> Ratio:
    """Compression ratio that would press as high at the end without boost.

    Equation: r_eq = r PR^(1/n)
    Range: r > 1, PR > 0, 1 < n <= 1.5
    Source: heywood1988

    >>> round(ratio_of_equal_pressure(9.0, 1.8, 1.33), 5)
    14.00157
    """
    require_above("The compression ratio", compression, 1.0)
    require_above("The pressure ratio", pressure_ratio)
    require_between("The exponent", exponent, 1.001, 1.5)
    return float(compression * pressure_ratio ** (1.0 / exponent))


def ratio_of_equal_temperature(compression: Ratio, charge: Kelvin, ambient: Kelvin, exponent: Ratio) -> Ratio:
    """Compression ratio that would be as hot at the end with air of ambient temperature.

    Equation: r_eq = r (Tm / T0)^(1/(n-1))
    Range: r > 1, temperatures above zero, 1 < n <= 1.5
    Source: heywood1988

    >>> round(ratio_of_equal_temperature(9.0, 326.13876, 293.15, 1.33), 4)
    12.4332
    """
    require_above("The compression ratio", compression, 1.0)
    require_above("The charge temperature", charge)
    require_above("The ambient temperature", ambient)
    require_between("The exponent", exponent, 1.001, 1.5)
    return float(compression * (charge / ambient) ** (1.0 / (exponent - 1.0)))


def compressor_outlet(ambient: Kelvin, pressure_ratio: Ratio, efficiency: Ratio) -> Kelvin:
    """Temperature of the charge as it leaves a compressor.

    Equation: Tm = T0 [1 + (PR^((g-1)/g) - 1) / eta], g = 1.4
    Range: PR >= 1, 0.3 <= eta <= 1
    Source: heywood1988

    >>> round(compressor_outlet(293.15, 1.8, 0.65), 5)
    375.62189
    """
    require_above("The ambient temperature", ambient)
    require_between("The pressure ratio", pressure_ratio, 1.0, 8.0)
    require_between("The compressor's efficiency", efficiency, 0.3, 1.0)
    return float(ambient * (1.0 + (pressure_ratio ** (0.4 / 1.4) - 1.0) / efficiency))


def cooled_charge(charge: Kelvin, coolant: Kelvin, effectiveness: Ratio) -> Kelvin:
    """Temperature of the charge behind a charge cooler.

    Equation: Tm' = Tm - eps (Tm - Tc)
    Range: 0 <= eps <= 1
    Source: definition

    >>> round(cooled_charge(375.62189, 293.15, 0.6), 5)
    326.13876
    """
    require_between("The charge cooler's effectiveness", effectiveness, 0.0, 1.0)
    return charge - effectiveness * (charge - coolant)


def air_pressure(altitude: Metre) -> Pascal:
    """Pressure of the standard atmosphere.

    Equation: p = 101325 (1 - 0.0065 H / 288.15)^5.25588
    Range: -1000 <= H <= 11000 m, geopotential
    Source: iso2533

    >>> round(air_pressure(1500.0))
    84556
    """
    require_between("The height above the sea", altitude, -1000.0, 11000.0)
    return float(_SEA * (1.0 - _LAPSE * altitude / _WARM) ** 5.25588)
