"""A lobe known point by point: from a degree-wheel log or from a lift table."""

from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np

from valvetrain.errors import OutOfRangeError
from valvetrain.parts.lift_curve import LiftCurve, through

_POINTS = 481


class Origin(StrEnum):
    """How the points were come by."""

    LOG = "degree wheel"
    TABLE = "lift table"


class StatedAt(StrEnum):
    """Where the lifts of a card, log or table are told."""

    VALVE = "valve"  # at the retainer, before clearance
    FOLLOWER = "follower"  # the lobe's own lift, as its follower moves on its path
    RADIUS = "radius"  # the bare lobe's radius over the base circle, read with a point


@dataclass(frozen=True)
class Lobe:
    """Points of a smooth lobe: `angles` cam rad increasing, zero at the lobe centre; `lifts` m where `at` says.

    `lift_spread` m, `duration_spread` crank rad and `acceleration_share` (of the acceleration) are half widths, k = 2.
    """

    angles: tuple[float, ...]
    lifts: tuple[float, ...]
    at: StatedAt
    origin: Origin
    lift_spread: float
    duration_spread: float
    acceleration_share: float

    def __post_init__(self) -> None:
        if len(self.angles) != len(self.lifts) or len(self.angles) < 8:
            raise OutOfRangeError("A lobe needs eight points or more, each an angle and a lift.")


@lru_cache(maxsize=256)
def from_lobe(lobe: Lobe) -> LiftCurve:
    """Lift curve through the points. Raises OutOfRangeError when the angles do not increase."""
    curve = through(np.array(lobe.angles), np.array(lobe.lifts), _POINTS)
    return curve.centred()
