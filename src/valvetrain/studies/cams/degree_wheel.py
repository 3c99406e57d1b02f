"""A lobe from a degree-wheel log: lift, velocity and acceleration over the cam angle, with a band, outliers named.

A penalised B-spline of degree five; how smooth it is follows from the log itself (restricted maximum likelihood), and so does the
noise. The band is the posterior spread of the spline (k = 2), wider by what smoothing may have rounded off: how far the peaks of a far less
smooth curve through the same log stand away.
"""

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import BSpline, make_interp_spline
from scipy.linalg import cho_factor, cho_solve

from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.lobe import Lobe, Origin, StatedAt

Array = NDArray[np.float64]

_DEGREE, _ORDER = 5, 4
_LEAST_SAMPLES = 24
_OUTLIER = 4.5  # readings this many noise levels off the curve are slips, not noise; source: judgement
_FINE = 721
_KNOTS = math.radians(2.8)  # cam; fine enough for a flank, coarse enough that noise does not pass for acceleration
# Decades less smooth, weight of what that moves, and a floor: tried, see the study of coverage
_ROUGHER, _ROUNDED, _LEAST_DOUBT = 2.0, 1.4, 0.06
_PASSES = 8  # of leaving out slips
_TURN = 2.0 * math.pi  # a log goes once round the cam at most


@dataclass(frozen=True)
class DegreeWheelFit:
    """A fitted log. Angles are cam radians as logged, shifted so that the nose is at zero; lift in m, derivatives per rad of cam.

    `acceleration_spread` is the half width of the band (k = 2). `noise` is the standard deviation of one reading, m. `dropped` are the
    indices of readings left out as slips. `coarse` says that the log is too coarse or too noisy for acceleration.
    """

    angle: Array
    lift: Array
    lift_spread: Array
    velocity: Array
    acceleration: Array
    acceleration_spread: Array
    noise: float
    nose: float
    dropped: tuple[int, ...]
    residuals: Array
    coarse: bool

    @cached_property
    def peak_lift(self) -> float:
        """Largest lift, m."""
        return float(self.lift.max())

    @cached_property
    def peak_acceleration(self) -> tuple[float, float]:
        """Largest acceleration and the half width of its band, m/rad^2."""
        place = int(np.argmax(self.acceleration))
        return float(self.acceleration[place]), float(self.acceleration_spread[place])

    def duration_at(self, height: float) -> float:
        """Cam angle (rad) between the flanks at a lift (m). Raises ContradictionError when a flank was not logged that far down."""
        return self._curve.duration_at(height) / 2.0

    @cached_property
    def _curve(self) -> LiftCurve:
        return LiftCurve(self.angle, self.lift, self.velocity, self.acceleration, np.gradient(self.acceleration, self.angle))


class _Spline:
    """The penalised spline of one log: basis, penalty, and the solution for a given smoothness."""

    def __init__(self, angle: Array, lift: Array, knots: int) -> None:
        low, high = float(angle[0]), float(angle[-1])
        inner = np.linspace(low, high, knots)
        step = inner[1] - inner[0]
        outer = step * np.arange(1, _DEGREE + 1)
        self.t = np.concatenate([low - outer[::-1], inner, high + outer])
        self.basis = BSpline.design_matrix(angle, self.t, _DEGREE).toarray()
        self.count = self.basis.shape[1]
        differences = np.diff(np.eye(self.count), _ORDER, axis=0)
        self.penalty = differences.T @ differences
        self.square, self.right, self.length = self.basis.T @ self.basis, self.basis.T @ lift, float(lift @ lift)
        self.freedom = len(lift) - _ORDER

    def _factor(self, smoothness: float) -> tuple[Array, bool]:
        found: tuple[Array, bool] = cho_factor(self.square + smoothness * self.penalty + 1e-12 * np.eye(self.count))
        return found

    def solve(self, smoothness: float) -> tuple[Array, float, float]:
        """Coefficients, noise variance and the criterion to be made least."""
        factor = self._factor(smoothness)
        coefficients = cho_solve(factor, self.right)
        # at the solution rest and penalty together are what the right side leaves of the readings
        variance = max((self.length - float(self.right @ coefficients)) / self.freedom, 1e-20)
        log_determinant = 2.0 * float(np.sum(np.log(np.diag(factor[0]))))
        criterion = self.freedom * math.log(variance) + log_determinant - (self.count - _ORDER) * math.log(smoothness)
        return coefficients, variance, criterion

    def best(self) -> tuple[float, Array, float]:
        """The smoothness that the readings themselves make most likely, its coefficients, and the noise variance."""
        tried = {exponent: self.solve(10.0**exponent) for exponent in np.arange(-6.0, 6.1, 0.5)}
        rough = min(tried, key=lambda exponent: tried[exponent][2])
        fine = {exponent: self.solve(10.0**exponent) for exponent in np.linspace(rough - 0.4, rough + 0.4, 9)}
        best = min(fine, key=lambda exponent: fine[exponent][2])
        return 10.0**best, fine[best][0], fine[best][1]

    def inverse(self, smoothness: float) -> Array:
        """Inverse of the normal matrix at a smoothness."""
        return np.asarray(cho_solve(self._factor(smoothness), np.eye(self.count)))


def fit(angle: Array, lift: Array) -> DegreeWheelFit:
    """Fit a log of cam angles (rad, increasing) and lifts (m); spacing may be uneven and samples may be missing.

    Raises OutOfRangeError for fewer than 24 samples, angles that do not increase, or no lift.
    """
    angle, lift = np.asarray(angle, dtype=float), np.asarray(lift, dtype=float)
    if angle.shape != lift.shape or angle.ndim != 1 or len(angle) < _LEAST_SAMPLES:
        raise OutOfRangeError(f"A lobe needs {_LEAST_SAMPLES} readings or more, and {len(angle)} are given.")
    if not (np.isfinite(angle).all() and np.isfinite(lift).all()):
        raise OutOfRangeError("Every angle and every reading must be a number.")
    if not (np.diff(angle) > 0.0).all():
        place = int(np.argmax(np.diff(angle) <= 0.0)) + 2
        raise OutOfRangeError(f"The angle does not increase at reading {place}: turn in one direction, and sort the log.")
    if angle[-1] - angle[0] > _TURN + 1e-9:
        place = int(np.argmax(angle - angle[0] > _TURN)) + 1
        raise OutOfRangeError(
            f"Reading {place} lies more than one turn of the cam (720 crank degrees) beyond the first: a log goes once round. "
            "Cut it there, or log each pass on its own."
        )
    if lift.max() - lift.min() < 0.5e-3:
        raise OutOfRangeError("The readings hardly move: this is no lobe, or the indicator stuck.")
    keep = np.ones(len(angle), dtype=bool)
    for _ in range(_PASSES):
        spacing = float(np.median(np.diff(angle[keep])))
        knots = int(min(max((angle[-1] - angle[0]) / max(_KNOTS, 2.0 * spacing), 16), 110))
        spline = _Spline(angle[keep], lift[keep], knots)
        smoothness, coefficients, variance = spline.best()
        everywhere = BSpline.design_matrix(np.clip(angle, spline.t[_DEGREE], spline.t[-_DEGREE - 1]), spline.t, _DEGREE).toarray()
        residuals = lift - everywhere @ coefficients
        noise = math.sqrt(variance)
        robust = max(1.4826 * float(np.median(np.abs(residuals[keep]))), 0.3e-6)
        off = np.where(keep, np.abs(residuals), 0.0)
        # a slip drags its neighbours along: those that stand out most go first, half of the worst at a time
        slips = (off > _OUTLIER * robust) & (off > 0.5 * off.max())
        if not slips.any() or keep.sum() - slips.sum() <= max(_LEAST_SAMPLES, 0.9 * len(angle)):
            break
        keep &= ~slips
    fine = np.linspace(angle[keep][0], angle[keep][-1], _FINE)
    parts = [_rows(spline.t, fine, order) for order in range(3)]
    curves = [rows @ coefficients for rows in parts]
    inverse = spline.inverse(smoothness)
    spreads = [2.0 * noise * np.sqrt(np.einsum("ij,ij->i", rows @ inverse, rows)) for rows in (parts[0], parts[2])]
    nose = float(fine[int(np.argmax(curves[0]))])
    peak = int(np.argmax(curves[2]))
    coarse = bool(spreads[1][peak] > 0.15 * abs(curves[2][peak]) or spacing > math.radians(3.0))
    rougher = parts[2] @ spline.solve(smoothness / 10.0**_ROUGHER)[0]
    ends = ((float(curves[2].max()), float(rougher.max())), (float(curves[2].min()), float(rougher.min())))
    # the slowing part is long and flat: there a rougher curve mostly shows noise
    pushed, slowed = (
        math.hypot(weight * (rough - own), _LEAST_DOUBT * own)
        for weight, (own, rough) in zip((_ROUNDED, _ROUNDED / 3.0), ends, strict=True)
    )
    # corners that smoothing rounded off stand where the lobe pushes or slows most: told there, and as a share elsewhere
    spreads[1] = np.hypot(spreads[1], np.where(curves[2] > 0.0, pushed, slowed))
    return DegreeWheelFit(
        angle=fine - nose,
        lift=curves[0],
        lift_spread=spreads[0],
        velocity=curves[1],
        acceleration=curves[2],
        acceleration_spread=spreads[1],
        noise=noise,
        nose=nose,
        dropped=tuple(np.flatnonzero(~keep).tolist()),
        residuals=residuals,
        coarse=coarse,
    )


def _rows(knots: Array, at: Array, order: int) -> Array:
    """Rows that turn coefficients into the derivative of that order at the angles `at`."""
    count = len(knots) - _DEGREE - 1
    spline = BSpline(knots, np.eye(count), _DEGREE)
    return np.asarray(spline(at, nu=order))


_REST = 0.2e-3  # m/rad; slower than this at the end of a log is the base circle, and its reading the indicator's zero. Source: judgement
_READ = 361


def lobe_of(found: DegreeWheelFit, at: StatedAt) -> tuple[Lobe, bool]:
    """The fitted lobe, and whether only one flank was logged and the other is its mirror image.

    The indicator's zero is set to the base circle where the log reaches it. Raises ContradictionError for a log without a nose.
    """
    angle, lift = found.angle, found.lift
    ends = [(lift[place], abs(found.velocity[place])) for place in (0, -1)]
    zero = min((value for value, speed in ends if speed < _REST), default=0.0)
    lift = lift - zero
    peak = int(np.argmax(lift))
    reached = [lift[0] < 0.1 * lift[peak], lift[-1] < 0.1 * lift[peak]]
    if not any(reached) or (peak in (0, len(lift) - 1) and abs(found.velocity[peak]) > 1e-3):
        raise ContradictionError("The log holds no whole flank: turn on from the base circle over the nose, at least to full lift.")
    mirrored = not all(reached)
    if mirrored:
        keep = angle <= angle[peak] if reached[0] else angle >= angle[peak]
        own, level = np.abs(angle[keep] - angle[peak]), lift[keep]
        order = np.argsort(own)
        own, level = own[order], level[order]
        angle, lift = np.concatenate([-own[:0:-1], own]), np.concatenate([level[:0:-1], level])
    read = np.linspace(angle[0], angle[-1], _READ)
    lift = np.asarray(make_interp_spline(angle, lift, k=_DEGREE)(read))
    least = int(np.argmin(found.acceleration))
    share = found.acceleration_spread[least] / abs(found.acceleration[least])  # of what slows the valve: float goes by it
    lobe = Lobe(
        tuple(np.round(read, 12).tolist()),
        tuple(np.round(lift, 12).tolist()),
        at,
        Origin.LOG,
        2.0 * found.noise / math.sqrt(5.0) + float(found.lift_spread.max()),
        math.radians(1.0) if not mirrored else math.radians(3.0),
        float(share) * (2.0 if mirrored else 1.0),
    )
    return lobe, mirrored
