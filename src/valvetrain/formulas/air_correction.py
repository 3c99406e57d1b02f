"""What a day's air does to measured power, and the published factors that bring it to a reference day.

Naturally aspirated spark ignition at full throttle only. The clauses of the standards are told from memory.
"""

import math
from typing import Annotated

from valvetrain.formulas.limits import require_between
from valvetrain.units import Pascal, Ratio

Kelvin = Annotated[float, "K"]

_ZERO = 273.15
_LOST = 0.18  # share of the indicated power that the engine keeps, at the supposed mechanical efficiency of 0.85


def saturation_pressure(temperature: Kelvin) -> Pascal:
    """Pressure of water vapour over water.

    Equation: p = 610.94 exp(17.625 t / (t + 243.04)), t in degrees C
    Range: -40 <= t <= 60 C; 0.4 % at most off the steam tables from 20 to 40 C
    Source: magnus1996

    >>> round(saturation_pressure(293.15))
    2333
    """
    require_between("The air's temperature (K)", temperature, _ZERO - 40.0, _ZERO + 60.0)
    warm = temperature - _ZERO
    return 610.94 * math.exp(17.625 * warm / (warm + 243.04))


def dry_pressure(pressure: Pascal, temperature: Kelvin, humidity: Ratio) -> Pascal:
    """Pressure of the air without its vapour; `humidity` 0 to 1.

    Equation: p_d = p - RH p_sat(t)
    Range: 50 <= p <= 115 kPa, 0 <= RH <= 1
    Source: magnus1996

    >>> round(dry_pressure(96500.0, 305.15, 0.55))
    93888
    """
    require_between("The air's pressure (Pa)", pressure, 50e3, 115e3)
    require_between("The humidity", humidity, 0.0, 1.0)
    return pressure - humidity * saturation_pressure(temperature)


def sae_j1349(dry: Pascal, temperature: Kelvin) -> Ratio:
    """Factor on measured power after SAE J1349: 99 kPa dry, 25 C.

    Equation: 1.18 (99000 / p_d) sqrt(T / 298.15) - 0.18
    Range: 80 <= p_d <= 110 kPa, 250 <= T <= 330 K; 1 within 7 %
    Source: sae_j1349

    >>> round(sae_j1349(93888.258, 305.15), 4)
    1.0788
    """
    _ranges(dry, temperature)
    return (1.0 + _LOST) * 99000.0 / dry * math.sqrt((temperature - _ZERO + 273.0) / 298.0) - _LOST


def sae_j607(dry: Pascal, temperature: Kelvin) -> Ratio:
    """Factor on measured power after the older SAE J607: 29.92 inches of mercury dry, 60 F.

    Equation: 1.18 (101320 / p_d) sqrt(T / 288.71) - 0.18
    Range: as `sae_j1349`
    Source: sae_j607

    >>> round(sae_j607(93888.258, 305.15), 4)
    1.1292
    """
    _ranges(dry, temperature)
    sixty = (60.0 - 32.0) / 1.8 + _ZERO
    return (1.0 + _LOST) * 29.92 * 3386.389 / dry * math.sqrt(temperature / sixty) - _LOST


def iso_1585(dry: Pascal, temperature: Kelvin) -> Ratio:
    """Factor on measured power after ISO 1585 and 80/1269/EEC: 99 kPa dry, 25 C.

    Equation: (99000 / p_d)^1.2 (T / 298)^0.6
    Range: as `sae_j1349`; the standard takes it between 0.93 and 1.07 only
    Source: iso1585

    >>> round(iso_1585(93888.258, 305.15), 4)
    1.0806
    """
    _ranges(dry, temperature)
    return float((99000.0 / dry) ** 1.2 * ((temperature - _ZERO + 273.0) / 298.0) ** 0.6)


def din_70020(pressure: Pascal, temperature: Kelvin) -> Ratio:
    """Factor on measured power after DIN 70020: 1013 hPa, moist as it is, 20 C.

    Equation: (101300 / p) sqrt(T / 293)
    Range: 80 <= p <= 110 kPa, 250 <= T <= 330 K
    Source: din70020

    >>> round(din_70020(96500.0, 305.15), 4)
    1.071
    """
    _ranges(pressure, temperature)
    return 101300.0 / pressure * math.sqrt((temperature - _ZERO + 273.0) / 293.0)


def _ranges(pressure: float, temperature: float) -> None:
    require_between("The air's pressure (Pa)", pressure, 50e3, 115e3)
    require_between("The air's temperature (K)", temperature, 233.0, 333.0)
