"""What it costs to turn a cam against its springs."""

from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Hertz, Ratio

Newtons = Annotated[NDArray[np.float64], "N"]
MetresPerRadian = Annotated[NDArray[np.float64], "m"]
NewtonMetres = Annotated[NDArray[np.float64], "N*m"]
Watt = Annotated[float, "W"]


def lift_torque(force: Newtons, slope: MetresPerRadian) -> NewtonMetres:
    """Torque on the camshaft that lifts a valve, without friction; over a whole event it is given back.

    Equation: T = F dh/dtheta
    Range: any sign
    Source: norton_cam

    >>> [round(float(t), 2) for t in lift_torque(np.array([650.0]), np.array([11.2e-3]))]
    [7.28]
    """
    torque: NewtonMetres = force * slope
    return torque


def friction_torque(force: Newtons, reach: MetresPerRadian, friction: Ratio) -> NewtonMetres:
    """Torque on the camshaft lost by the lobe that slides on its follower; `reach` from the cam's axis square to the line along which it
    slides: base radius plus lift under a flat face, wherever the contact stands on it.

    Equation: T = mu F r
    Range: 0 <= mu <= 1, F >= 0
    Source: norton_cam

    >>> [round(float(t), 3) for t in friction_torque(np.array([650.0]), np.array([21e-3]), 0.1)]
    [1.365]
    """
    require_between("The coefficient of friction", friction, 0.0, 1.0)
    require_above("The least force", float(np.min(force)), -1e-9)
    torque: NewtonMetres = friction * force * reach
    return torque


def shaft_power(torque: Annotated[float, "N*m"], cam_speed: Hertz) -> Watt:
    """Power of a mean torque; `cam_speed` in rev/s of the camshaft.

    Equation: P = 2 pi n T
    Range: n >= 0
    Source: definition

    >>> round(shaft_power(1.365, 75.0), 1)
    643.2
    """
    require_above("The cam's speed", cam_speed, -1e-30)
    return 2.0 * np.pi * cam_speed * torque
