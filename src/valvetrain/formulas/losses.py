"""Friction of a whole engine, heat between gas and wall, delay of knock: published fits, with the share they may be off."""

import math
from typing import Annotated

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, MetrePerSecond, Pascal, Ratio

Kelvin = Annotated[float, "K"]
Seconds = Annotated[float, "s"]
HeatTransfer = Annotated[float, "W/m**2/K"]


def friction_pressure(greatest: Pascal, piston_speed: MetrePerSecond) -> Pascal:
    """Mean pressure that an engine's whole friction takes; off by a third either way for an engine it was not fitted to.

    Equation: FMEP [bar] = 0.137 + pmax [bar] / 200 + 0.162 Sp [m/s]
    Range: 1 <= pmax <= 200 bar, 0 <= Sp <= 35 m/s
    Source: chen_flynn

    >>> round(friction_pressure(75e5, 17.0) / 1e5, 3)
    3.266
    """
    require_between("The greatest pressure", greatest, 1e5, 200e5)
    require_between("The piston speed", piston_speed, 0.0, 35.0)
    return (0.137 + greatest / 1e5 / 200.0 + 0.162 * piston_speed) * 1e5


def wall_heat(bore: Metre, pressure: Pascal, temperature: Kelvin, gas_speed: MetrePerSecond) -> HeatTransfer:
    """Heat transfer between the gas in a cylinder and its walls. `gas_speed` is 6.18 mean piston speeds while a valve is open, 2.28 while both are shut.

    Equation: h = 3.26 B^-0.2 p^0.8 T^-0.55 w^0.8, p in kPa
    Range: all above zero; fitted to engines of 0.1 m bore, off by a quarter
    Source: heywood1988

    >>> round(wall_heat(0.077, 3.2e6, 2100.0, 55.275687), 4)
    1278.9281
    """
    for name, value in (("The bore", bore), ("The pressure", pressure), ("The temperature", temperature), ("The gas speed", gas_speed)):
        require_above(name, value)
    return float(3.26 * bore**-0.2 * (pressure / 1e3) ** 0.8 * temperature**-0.55 * gas_speed**0.8)


def knock_delay(octane: Ratio, pressure: Pascal, temperature: Kelvin) -> Seconds:
    """Time that unburnt charge bears a pressure and a temperature before it lights itself. Only to compare: two charges of equal delay are equally
    hard on the fuel.

    Equation: t [ms] = 17.68 (ON / 100)^3.402 p^-1.7 exp(3800 / T), p in atm
    Range: 40 <= ON <= 140, p > 0, 300 <= T <= 1500 K; fitted to 80 to 100 octane
    Source: douaud_eyzat

    >>> round(knock_delay(100.0, 101325.0, 3800.0 / 3.8) * 1e3, 2)
    790.32
    """
    require_between("The octane number", octane, 40.0, 140.0)
    require_above("The pressure", pressure)
    require_between("The temperature", temperature, 300.0, 1500.0)
    return float(17.68e-3 * (octane / 100.0) ** 3.402 * (pressure / 101325.0) ** -1.7 * math.exp(3800.0 / temperature))
