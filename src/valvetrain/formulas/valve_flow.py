"""The way that gas finds past a valve: curtain, least area, throat, and what flows through them."""

import math
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, Pascal, Radian, Ratio, SquareMetre

Metres = Annotated[NDArray[np.float64], "m"]
SquareMetres = Annotated[NDArray[np.float64], "m**2"]
Kelvin = Annotated[float, "K"]
GasConstant = Annotated[float, "m**2/s**2/K"]
KilogramPerSecond = Annotated[float, "kg/s"]


def curtain_area(head_diameter: Metre, lift: Metres) -> SquareMetres:
    """Curtain between head and seat; at a lift of a quarter of the head it equals the head's area.

    Equation: A = pi D L
    Range: D > 0, L >= 0
    Source: heywood1988

    >>> round(float(curtain_area(32e-3, np.array([8e-3]))[0]) * 1e6, 5)
    804.24772
    """
    require_above("The head's diameter", head_diameter)
    return math.pi * head_diameter * lift


def throat_area(throat: Metre, stem: Metre) -> SquareMetre:
    """Area of the port under the seat, less the stem.

    Equation: A = pi / 4 (Dp^2 - Ds^2)
    Range: 0 <= Ds < Dp
    Source: heywood1988

    >>> round(throat_area(27.5e-3, 5.5e-3) * 1e6, 5)
    570.19907
    """
    require_above("The throat", throat, stem)
    return math.pi / 4.0 * (throat**2 - stem**2)


def lift_of_full_throat(head_diameter: Metre, seat_width: Metre, angle: Radian, throat: Metre, stem: Metre) -> Metre:
    """Lift from which the throat and no longer the valve is the narrowest place. `angle` of the seat from the plane of the head.

    Equation: L = sqrt([(Dp^2 - Ds^2) / (4 Dm)]^2 - w^2) + w tan(b), Dm = Dv - w
    Range: 0 < w < Dv, 20 <= b <= 60 deg, Dp > Ds
    Source: heywood1988

    >>> round(lift_of_full_throat(32e-3, 1.5e-3, math.radians(45), 27.5e-3, 5.5e-3) * 1e3, 6)
    7.258668
    """
    middle = _middle(head_diameter, seat_width, angle)
    slot = throat_area(throat, stem) / (math.pi * middle)
    if slot < seat_width:
        return seat_width * math.tan(angle)
    return math.sqrt(slot**2 - seat_width**2) + seat_width * math.tan(angle)


def _middle(head_diameter: float, seat_width: float, angle: float) -> float:
    require_above("The seat's width", seat_width)
    require_above("The head's diameter", head_diameter, seat_width)
    require_between("The seat's angle (rad)", angle, math.radians(20.0), math.radians(60.0))
    return head_diameter - seat_width


def least_area(head_diameter: Metre, seat_width: Metre, angle: Radian, throat: Metre, stem: Metre, lift: Metres) -> SquareMetres:
    """Least area that gas passes at a lift, in three stages: along the seat, slanting from its edge, and the throat.

    Equation: pi L cos b (Dv - 2 w + L/2 sin 2b); pi Dm sqrt((L - w tan b)^2 + w^2); pi/4 (Dp^2 - Ds^2)
    Range: as `lift_of_full_throat`, L >= 0
    Source: heywood1988

    >>> [round(float(area) * 1e6, 4) for area in least_area(32e-3, 1.5e-3, math.radians(45), 27.5e-3, 5.5e-3, np.array([1e-3, 6e-3, 9e-3]))]
    [65.5325, 454.5074, 570.1991]
    """
    middle, tangent = _middle(head_diameter, seat_width, angle), math.tan(angle)
    if (lift < 0.0).any():
        raise OutOfRangeError("A lift must not be below zero.")
    first = math.pi * lift * math.cos(angle) * (head_diameter - 2.0 * seat_width + lift / 2.0 * math.sin(2.0 * angle))
    second = math.pi * middle * np.sqrt((lift - seat_width * tangent) ** 2 + seat_width**2)
    joint = seat_width / (math.sin(angle) * math.cos(angle))
    return np.asarray(np.minimum(np.where(lift < joint, first, second), throat_area(throat, stem)))


def critical_pressure_ratio(heat_ratio: Ratio) -> Ratio:
    """Pressure ratio below which a restriction chokes.

    Equation: (2 / (g + 1))^(g / (g - 1))
    Range: 1 < g <= 1.67
    Source: heywood1988

    >>> round(critical_pressure_ratio(1.4), 6)
    0.528282
    """
    require_between("The ratio of heats", heat_ratio, 1.01, 1.67)
    return float((2.0 / (heat_ratio + 1.0)) ** (heat_ratio / (heat_ratio - 1.0)))


def flow_through(
    area: SquareMetre, before: Pascal, temperature: Kelvin, behind: Pascal, gas: GasConstant, heat_ratio: Ratio
) -> KilogramPerSecond:  # fmt: skip
    """Gas that flows through an effective area (flow coefficient times area), choked where it must be.

    Equation: m' = A p0 / sqrt(R T0) sqrt(2g/(g-1) [x^(2/g) - x^((g+1)/g)]), x = max(pT/p0, critical)
    Range: A >= 0, p0 >= pT > 0, T0 > 0
    Source: heywood1988

    >>> round(flow_through(0.7 * 500e-6, 100e3, 300.0, 92e3, 287.05, 1.4), 8)
    0.0456175
    """
    require_above("The pressure before it", before)
    require_above("The temperature", temperature)
    require_between("The pressure behind it over that before it", behind / before, 1e-6, 1.0)
    ratio = max(behind / before, critical_pressure_ratio(heat_ratio))
    drive = ratio ** (2.0 / heat_ratio) - ratio ** ((heat_ratio + 1.0) / heat_ratio)
    return area * before / math.sqrt(gas * temperature) * math.sqrt(2.0 * heat_ratio / (heat_ratio - 1.0) * drive)
