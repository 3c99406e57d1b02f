"""The tale of float on a power curve: a gradual loss against a reference run, then ragged.

Gradual loss is consistent with float, fuel, intake or heat. What favours float: ragged afterwards, and back to normal when 300 rpm lower.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float64]
SPEAKS: Final = 15.0  # gain in chi-square from which a loss is spoken of; false alarms stay below 3.3 in 95 of 100
_LEAST: Final = 12
_FITS: Final = 2.0  # chi-square a point up to which a course is taken to fit


@dataclass(frozen=True, kw_only=True)
class LossFound:
    """A loss that begins: speed (rev/s) with its interval, slope (part per rev/s), gain in chi-square, noise of the quotient, and how much
    rougher (times) the quotient is after it than before."""

    onset: float
    low: float
    high: float
    slope: float
    evidence: float
    noise: float
    rougher: float

    @property
    def told(self) -> bool:
        """Whether it may be spoken of at all."""
        return self.evidence >= SPEAKS


def onset_of_loss(speed: Samples, torque: Samples, reference: Samples, noise: float | None = None) -> LossFound | None:
    """Where a run leaves its reference (same grid, N m): constant, then falling; interval where chi-square rises by 4. None for too few points.

    `noise` is the quotient's, one sigma a point; where not known it is taken from its own differences.
    """
    quotient = torque / reference
    if len(speed) < _LEAST:
        return None
    if noise is None:
        noise = float(np.median(np.abs(np.diff(quotient, 2)))) / 0.6745 / np.sqrt(6.0)
    noise = max(noise, 1e-4)
    candidates = np.linspace(speed[2], speed[-3], 8 * len(speed))
    for degree in (
        0,
        1,
        2,
    ):  # runs whose engines differ lie apart in more than a constant: a slow course is taken off before a loss is looked for
        along = (speed - speed.mean()) / float(np.ptp(speed))
        course = np.column_stack([along**power for power in range(degree + 1)])
        without, *_ = np.linalg.lstsq(course, quotient, rcond=None)
        flat = float(np.sum((course @ without - quotient) ** 2)) / noise**2
        found = []
        for onset in candidates:
            base = np.column_stack([course, np.maximum(speed - onset, 0.0)])
            fit, *_ = np.linalg.lstsq(base, quotient, rcond=None)
            if fit[-1] > 0.0:
                found.append((flat, 0.0))
            else:
                found.append((float(np.sum((base @ fit - quotient) ** 2)) / noise**2, float(fit[-1])))
        chi = np.array([each[0] for each in found])
        best = int(chi.argmin())
        if chi[best] < _FITS * len(speed):
            break
    inside = candidates[chi <= chi[best] + 4.0]
    onset = float(candidates[best])
    after = speed > onset
    rest = quotient - (quotient[~after].mean() if (~after).any() else quotient.mean()) - found[best][1] * np.maximum(speed - onset, 0.0)
    before_rough, after_rough = (
        float(np.std(rest[~after])) if (~after).sum() > 2 else noise,
        float(np.std(rest[after])) if after.sum() > 2 else noise,
    )
    return LossFound(
        onset=onset, low=float(inside.min()), high=float(inside.max()), slope=found[best][1], evidence=flat - float(chi[best]), noise=noise,
        rougher=after_rough / max(before_rough, 1e-6),
    )  # fmt: skip
