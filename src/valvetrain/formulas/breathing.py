"""How an engine breathes: when its intake valves choke."""

import math
from typing import Annotated

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Hertz, Metre, MetrePerSecond, Ratio

Kelvin = Annotated[float, "K"]

CHOKING = 0.6  # index above which volumetric efficiency falls quickly (taylor)
_AIR = 287.05  # J/(kg K)


def sound_speed(temperature: Kelvin) -> MetrePerSecond:
    """Speed of sound in dry air.

    Equation: a = sqrt(1.4 R T), R = 287.05 J/(kg K)
    Range: 200 <= T <= 500 K; ideal gas
    Source: heywood1988

    >>> round(sound_speed(298.15), 2)
    346.15
    """
    require_between("The temperature", temperature, 200.0, 500.0)
    return math.sqrt(1.4 * _AIR * temperature)


def mach_index(bore: Metre, piston_speed: MetrePerSecond, head_diameter: Metre, valves: Ratio, flow: Ratio, sound: MetrePerSecond) -> Ratio:
    """Inlet Mach index: mean gas speed through the intake valves over the speed of sound; above 0.6 the engine chokes.

    Equation: Z = B^2 Sp / (C n Dv^2 a), C mean flow coefficient on the head area over the intake event
    Range: all above zero; C usually 0.30 to 0.45
    Source: taylor

    >>> round(mach_index(77e-3, 16.973333, 31e-3, 2, 0.38, 346.1467), 5)
    0.39806
    """
    for name, value in (("The bore", bore), ("The piston speed", piston_speed), ("The head", head_diameter), ("The valves", valves)):
        require_above(name, value)
    require_above("The flow coefficient", flow)
    require_above("The speed of sound", sound)
    return bore**2 * piston_speed / (flow * valves * head_diameter**2 * sound)


def speed_at_mach_index(
    bore: Metre, stroke: Metre, head_diameter: Metre, valves: Ratio, flow: Ratio, sound: MetrePerSecond, index: Ratio
) -> Hertz:  # fmt: skip
    """Crank speed (rev/s) at which the inlet Mach index is reached.

    Equation: N = Z C n Dv^2 a / (2 S B^2)
    Range: all above zero
    Source: taylor

    >>> round(speed_at_mach_index(77e-3, 53.6e-3, 31e-3, 2, 0.38, 346.1467, 0.6) * 60, 1)
    14319.4
    """
    require_above("The stroke", stroke)
    return index / mach_index(bore, 1.0, head_diameter, valves, flow, sound) / (2.0 * stroke)
