"""Vacuum behind a throttle at full opening: how narrow the way is, and what size cures it."""

import math
from typing import Annotated

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import KilogramPerCubicMetre, Metre, Pascal, Ratio, SquareMetre

CubicMetrePerSecond = Annotated[float, "m**3/s"]


def area_of_vacuum(flow: CubicMetrePerSecond, density: KilogramPerCubicMetre, vacuum: Pascal) -> SquareMetre:
    """Effective area (flow coefficient times area) that leaves a vacuum at a flow.

    Equation: A = Q / sqrt(2 dp / rho)
    Range: all above zero; incompressible, 1 % off at 60 mbar
    Source: heywood1988

    >>> round(area_of_vacuum(0.0475, 1.18, 4000.0) * 1e6, 2)
    576.89
    """
    require_above("The flow", flow)
    require_above("The air's density", density)
    require_above("The vacuum", vacuum)
    return flow / math.sqrt(2.0 * vacuum / density)


def curing_diameter(diameter: Metre, vacuum: Pascal, wanted: Pascal) -> Metre:
    """Size that would leave only the wanted vacuum at the same flow.

    Equation: D (dp1 / dp2)^(1/4)
    Range: all above zero
    Source: heywood1988

    >>> round(curing_diameter(36e-3, 6200.0, 1500.0) * 1e3, 3)
    51.331
    """
    require_above("The vacuum", vacuum)
    require_above("The vacuum wanted", wanted)
    require_above("The diameter", diameter)
    return float(diameter * (vacuum / wanted) ** 0.25)


def most_gained(pressure: Pascal, vacuum: Pascal, left: Pascal) -> Ratio:
    """The most that filling can gain when the vacuum falls: the ratio of densities, less one.

    Equation: (p - dp2) / (p - dp1) - 1
    Range: 0 <= dp2 <= dp1 < p
    Source: heywood1988

    >>> round(most_gained(101300.0, 6200.0, 1500.0) * 100, 3)
    4.942
    """
    require_between("The vacuum over the pressure", vacuum / pressure, 0.0, 0.9)
    return (pressure - left) / (pressure - vacuum) - 1.0


def pulsation_factor(sharing: int, open_for: Ratio) -> Ratio:
    """Mean vacuum of pulsating flow over that of its mean, for evenly spaced cylinders that share one throttle.

    Equation: mean q^2 / (mean q)^2, q the sum of half sines, each open for `open_for` of 720 degrees
    Range: 1 <= n <= 16, 0 < open <= 1
    Source: definition

    >>> round(pulsation_factor(1, 1 / 3), 3)
    3.701
    """
    require_between("The cylinders on one throttle", float(sharing), 1.0, 16.0)
    require_between("The part of the cycle that it is open", open_for, 0.05, 1.0)
    steps = 2880
    total = [0.0] * steps
    for cylinder in range(sharing):
        first = cylinder * steps // sharing
        for step in range(round(open_for * steps)):
            total[(first + step) % steps] += math.sin(math.pi * (step + 0.5) / (open_for * steps))
    mean = sum(total) / steps
    return sum(each * each for each in total) / steps / mean**2
