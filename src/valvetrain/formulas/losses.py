"""Friction of a whole engine, and heat between gas and wall: published fits, with the share they may be off."""

from typing import Annotated

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, MetrePerSecond, Pascal

Kelvin = Annotated[float, "K"]
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
