"""Arithmetic of events, of degreeing in, and of what a tooth, a slot or a clearance moves. Angles in rad of the crankshaft."""

import math
from typing import Annotated

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.limits import require_above
from valvetrain.units import Metre, MetrePerRadian, Radian

Count = Annotated[int, ""]


def duration_from_events(before_tdc: Radian, after_bdc: Radian) -> Radian:
    """Duration of an intake from its events; an exhaust's from opening before BDC and shutting after TDC alike.

    Equation: D = IVO + pi + IVC
    Range: 0 < D < 2 pi; negative events lie on the other side of their dead centre
    Source: heywood1988

    >>> round(math.degrees(duration_from_events(math.radians(22), math.radians(58))), 6)
    260.0
    """
    duration = before_tdc + math.pi + after_bdc
    if not 0.0 < duration < 2.0 * math.pi:
        raise OutOfRangeError(f"Events that lie {math.degrees(duration):.0f}° apart are no duration: it lies between 0° and 360°.")
    return duration


def centre_from_events(before_tdc: Radian, after_bdc: Radian) -> Radian:
    """Lobe centre from overlap TDC of a symmetric lobe.

    Equation: LC = D/2 - IVO = (pi + IVC - IVO)/2
    Range: as duration_from_events; the middle of the events at their height
    Source: heywood1988

    >>> round(math.degrees(centre_from_events(math.radians(22), math.radians(58))), 6)
    108.0
    """
    return duration_from_events(before_tdc, after_bdc) / 2.0 - before_tdc


def equal_lift_centre(first: Radian, second: Radian) -> Radian:
    """Lobe centre by the equal-lift method: the mean of the two wheel readings at the same lift, one on each flank.

    Equation: LC = (theta1 + theta2)/2
    Range: 0 < theta2 - theta1 < 2 pi, readings from overlap TDC, turning forwards
    Source: trade

    >>> round(math.degrees(equal_lift_centre(math.radians(74.5), math.radians(141.0))), 6)
    107.75
    """
    if not 0.0 < second - first < 2.0 * math.pi:
        raise OutOfRangeError(
            f"The second reading ({math.degrees(second):.1f}°) must follow the first ({math.degrees(first):.1f}°) within one turn: "
            "keep turning the engine forwards, and count degrees after TDC as positive."
        )
    return (first + second) / 2.0


def tooth_step(teeth: Count) -> Radian:
    """What one tooth of the camshaft's sprocket moves the cam, in crank angle.

    Equation: 4 pi / n
    Range: n >= 8
    Source: definition

    >>> round(math.degrees(tooth_step(34)), 6)
    21.176471
    """
    require_above("The number of teeth", teeth, 7)
    return 4.0 * math.pi / teeth


def slot_step(first: Count, second: Count) -> Radian:
    """Smallest step of two rings of holes that are paired, in crank angle.

    Equation: 4 pi / lcm(n1, n2)
    Range: n1, n2 >= 1
    Source: definition

    >>> round(math.degrees(slot_step(10, 11)), 6)
    6.545455
    """
    require_above("The number of holes", min(first, second), 0)
    return 4.0 * math.pi / math.lcm(first, second)


def ramp_shift(change: Metre, slope: MetrePerRadian) -> Radian:
    """How far a change of clearance moves each event while both contacts stay on a constant-velocity ramp.

    Equation: 2 dc / q, later opening for more clearance; q at the valve per rad of cam
    Range: q > 0; the duration changes by twice this
    Source: norton_cam

    >>> round(math.degrees(ramp_shift(-0.1e-3, 0.015e-3 * 180 / math.pi)), 5)
    -13.33333
    """
    require_above("The ramp's slope", slope)
    return 2.0 * change / slope
