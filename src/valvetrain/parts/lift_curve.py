"""A cam as a lift curve over the cam angle, both flanks, however it became known."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicHermiteSpline, make_interp_spline

from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.units import LENGTH, amount

Array = NDArray[np.float64]

_CENTRE_SHARE = 0.95  # the lobe centre is the middle between the two angles of this share of full lift. Source: trade
_DEGREE = 5  # of the spline through a table: its third derivative, jerk, is still smooth


@dataclass(frozen=True, eq=False)
class LiftCurve:
    """A whole lobe: arrays of equal shape over the cam angle (rad, increasing), zero at the lobe centre.

    `lift` m, `velocity` m/rad (positive while opening), `acceleration` m/rad^2, `jerk` m/rad^3, all per rad of cam.
    """

    angle: Array
    lift: Array
    velocity: Array
    acceleration: Array
    jerk: Array

    @cached_property
    def nose(self) -> int:
        """Index of the highest point."""
        return int(np.argmax(self.lift))

    @property
    def full(self) -> float:
        """Full lift, m."""
        return float(self.lift[self.nose])

    def flanks(self, height: float) -> tuple[float, float]:
        """Cam angles (rad) at which the lobe passes a lift (m), opening and shutting.

        Raises ContradictionError above full lift, and where a flank does not come down to the height.
        """
        if not 0.0 < height < self.full:
            raise ContradictionError(f"There is no duration at {amount(height, LENGTH)}: full lift is {amount(self.full, LENGTH)}.")
        rising, falling = self.lift[: self.nose + 1], self.lift[self.nose :]
        if rising.min() > height or falling.min() > height:
            raise ContradictionError(f"The lobe is not known down to {amount(height, LENGTH)} on both flanks.")
        left = self.nose - int(np.argmax(rising[::-1] < height))
        right = self.nose + int(np.argmax(falling < height))
        opens = np.interp(height, self.lift[left : left + 2], self.angle[left : left + 2])
        shuts = np.interp(-height, -self.lift[right - 1 : right + 1], self.angle[right - 1 : right + 1])
        return float(opens), float(shuts)

    def duration_at(self, height: float) -> float:
        """Crank angle (rad) between the two flanks at a lift (m). Raises ContradictionError as `flanks` does."""
        opens, shuts = self.flanks(height)
        return 2.0 * (shuts - opens)

    def area(self) -> float:
        """Lift summed over the whole event, m rad of cam."""
        return float(np.trapezoid(self.lift, self.angle))

    def lift_at(self, angle: Array) -> Array:
        """Lift (m) at cam angles (rad from the lobe centre); zero beyond the lobe."""
        return np.interp(angle, self.angle, self.lift, left=0.0, right=0.0)

    @cached_property
    def _hermite(self) -> CubicHermiteSpline:
        return CubicHermiteSpline(self.angle, self.lift, self.velocity)

    def smooth_lift_at(self, angle: Array) -> Array:
        """Like `lift_at`, with the velocity kept between the points: for what feels every corner."""
        inside = (angle > self.angle[0]) & (angle < self.angle[-1])
        lift = np.zeros_like(angle)
        lift[inside] = self._hermite(angle[inside])
        return lift

    def times(self, ratio: float) -> "LiftCurve":
        """The curve behind a lever of constant ratio."""
        return LiftCurve(self.angle, *(ratio * part for part in (self.lift, self.velocity, self.acceleration, self.jerk)))

    def centred(self) -> "LiftCurve":
        """The same lobe with its zero put where the lobe centre is taken to be."""
        opens, shuts = self.flanks(_CENTRE_SHARE * self.full)
        return replace(self, angle=self.angle - (opens + shuts) / 2.0)


def both_flanks(angle: Array, parts: tuple[Array, Array, Array, Array]) -> LiftCurve:
    """A symmetric lobe from its shutting flank: `angle` from zero at the nose; `parts` lift and its three derivatives there."""
    signs = (1.0, -1.0, 1.0, -1.0)
    whole = [np.concatenate([sign * part[:0:-1], part]) for sign, part in zip(signs, parts, strict=True)]
    return LiftCurve(np.concatenate([-angle[:0:-1], angle]), *whole)


def through(angle: Array, lift: Array, points: int) -> LiftCurve:
    """The smooth curve through exact points (cam rad increasing, m), read at `points` even angles, as it lies.

    Raises OutOfRangeError for fewer than eight points or angles that do not increase.
    """
    if len(angle) < 8 or angle.shape != lift.shape:
        raise OutOfRangeError(f"A lift table needs eight rows or more, and {len(angle)} are given.")
    if not (np.diff(angle) > 0.0).all():
        raise OutOfRangeError(f"The angle does not increase at row {int(np.argmax(np.diff(angle) <= 0.0)) + 2} of the table.")
    spline = make_interp_spline(angle, lift, k=_DEGREE)
    fine = np.linspace(float(angle[0]), float(angle[-1]), points)
    return LiftCurve(fine, *(np.asarray(spline(fine, nu=order)) for order in range(4)))
