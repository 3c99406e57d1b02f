"""What a lobe asks of its follower: curvature, push, width of the face."""

import math
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from valvetrain.formulas.limits import require_above
from valvetrain.units import Metre, Newton, Ratio

Metres = Annotated[NDArray[np.float64], "m"]
Radians = Annotated[NDArray[np.float64], ""]


def flat_face_radius(base: Metre, lift: Metres, acceleration: Metres) -> Metres:
    """Radius of a lobe under a flat face that moves straight; below zero the face bridges the lobe.

    Equation: rho = Rb + s + s''
    Range: Rb > 0; s'' per rad^2 of cam
    Source: norton_cam

    >>> float(np.round(flat_face_radius(15e-3, np.array([4.6945927e-3]), np.array([-0.69459271e-3]))[0] * 1e3, 6))
    19.0
    """
    require_above("The base circle's radius", base)
    return base + lift + acceleration


def least_face_diameter(opening: Metre, shutting: Metre, lobe_width: Metre) -> Metre:
    """Smallest round face that holds the contact of a central lobe of this width; contact travels to either side.

    Equation: d = 2 sqrt(max(e1, e2)^2 + (w/2)^2)
    Range: travels and width >= 0; no margin for the edge's break
    Source: norton_cam

    >>> round(least_face_diameter(12.638775e-3, 12.638775e-3, 12e-3) * 1e3, 4)
    27.9813
    """
    require_above("The contact's travel", min(opening, shutting), -1e-30)
    require_above("The lobe's width", lobe_width, -1e-30)
    return 2.0 * math.hypot(max(opening, shutting), lobe_width / 2.0)


def force_at_lobe(valve_force: Newton, ratio: Ratio) -> Newton:
    """Force between lobe and follower that stands for a force at the valve, behind a lever.

    Equation: F_cam = i F_valve, i = valve motion / motion of the contact along the push
    Range: i > 0; without friction
    Source: norton_cam

    >>> force_at_lobe(620.0, 1.5)
    930.0
    """
    require_above("The ratio", ratio)
    return ratio * valve_force


def pressure_angle(pitch_radius: Metre, offset: Metre, lift: Metres, velocity: Metres) -> Radians:
    """Angle between the push and the path of a straight roller or domed follower whose path passes the cam's axis at an offset.

    Equation: tan(phi) = (s' - e) / (sqrt(Rp^2 - e^2) + s), Rp base radius plus roller radius, s' per rad of cam
    Range: Rp > |e|; e positive towards the side that the lobe pushes from while it lifts
    Source: norton_cam

    >>> round(math.degrees(float(pressure_angle(24e-3, 0.0, np.array([2.3784804e-3]), np.array([3.5734394e-3]))[0])), 4)
    7.7148
    """
    require_above("The pitch circle's radius", pitch_radius, abs(offset))
    return np.asarray(np.arctan2(velocity - offset, math.sqrt(pitch_radius**2 - offset**2) + lift))
