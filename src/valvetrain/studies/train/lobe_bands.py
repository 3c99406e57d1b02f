"""What a card leaves open of its lobe: peak acceleration, seating velocity and the radius at the nose as bands over every lobe that meets it."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from valvetrain.errors import ValveTrainError
from valvetrain.parts.cam_source import CamSource
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train.priors import weighted

Array = NDArray[np.float64]

# What the laws still lack on the greatest acceleration, by the number of durations told (standard deviation of the logarithm), and on the
# velocity near the seat. Source: the study of their coverage
_LACKS = {1: 0.25, 2: 0.20, 3: 0.12}
_LACKS_MORE = 0.12
MEMBERS = 64  # lobes of a card that anything else is read off
# Half widths, as shares, that a degree wheel usually leaves of float and of peak acceleration: smooth lobes, and lobes with corners. Source: the
# same study
WHEEL_FLOAT, WHEEL_PEAK = (0.03, 0.06), (0.09, 0.24)


@dataclass(frozen=True)
class Band:
    """A figure with the interval that holds it with about 95 %, SI. `known` where the lobe itself was measured."""

    low: float
    value: float
    high: float
    known: bool = False


def mixed(values: Array, weights: Array, sd: float) -> Band:
    """Band of a mixture of log-normals: values with weights, each with a standard deviation `sd` of its logarithm."""
    logs = np.log(values)
    grid = np.linspace(logs.min() - 4.0 * sd, logs.max() + 4.0 * sd, 400)
    below = (weights[:, None] * ndtr((grid - logs[:, None]) / sd)).sum(axis=0)
    low, middle, high = np.exp(np.interp([0.025, 0.5, 0.975], below, grid))
    return Band(float(low), float(middle), float(high))


def _card(train: TrainSide) -> int:
    return len(getattr(train.cam.shape, "heights", ()))


def peak_acceleration(train: TrainSide) -> Band:
    """Greatest acceleration of the lobe at the valve, m/rad^2."""
    lobes = train.cam.lobes
    width = 2.0 * train.duration.spread / train.duration.value
    if lobes is None:
        peak = float(train.curve.acceleration.max())
        wide = peak * math.hypot(train.shape.spread, width)
        return Band(peak - wide, peak, peak + wide, known=True)
    keep = lobes.weights > 0.0
    found = mixed(lobes.peak[keep], lobes.weights[keep], math.hypot(_LACKS.get(_card(train), _LACKS_MORE), width / 2.0))
    return Band(found.low, found.value, found.high)


def over_members(values: list[float | None]) -> Band | None:
    """Band of anything read off the members of a card, one a row; None where too few could be measured."""
    read = [value for value in values if value is not None]
    if not read or len(read) < len(values) // 2:
        return None
    return Band(*weighted(np.array(read), np.full(len(read), 1.0 / len(read))))


def acceleration_band(train: TrainSide, angle: Array, count: int = 48) -> Array | None:
    """Half the width that holds 95 % of the accelerations (m/rad^2) at cam angles (rad), over the lobes that the card may be."""
    lobes = train.cam.lobes
    if lobes is None:
        return None
    curves = [lobes.curve(int(number)) for number in lobes.rows(count)]
    table = np.array([np.interp(angle, each.angle, each.acceleration, left=0.0, right=0.0) for each in curves])
    low, middle, high = np.quantile(table, [0.025, 0.5, 0.975], axis=0)
    # what no law at hand covers: of the push as for its peak, of the slowing part as for the float
    lacks = np.where(middle > 0.0, 2.0 * _LACKS.get(_card(train), _LACKS_MORE), train.shape.spread)
    return np.asarray(np.hypot((high - low) / 2.0, lacks * np.abs(middle)))


@lru_cache(maxsize=64)
def _setting_down(source: CamSource, clearance: float) -> list[float | None]:
    lobes = source.lobes
    assert lobes
    found: list[float | None] = []
    for number in lobes.rows(MEMBERS):
        try:
            curve = lobes.curve(int(number))
            _, shuts = curve.flanks(clearance)
        except ValveTrainError:
            found.append(None)
            continue
        found.append(abs(float(np.interp(shuts, curve.angle, curve.velocity))))
    return found


def seating_velocity(train: TrainSide, cam_speed: float) -> Band | None:
    """Velocity (m/s) at which the lobe sets the valve down at a camshaft speed (rev/s), over every lobe that the card may be."""
    if train.cam.lobes is None:
        return None
    slopes = _setting_down(train.cam, max(train.clearance.value, 2e-6))
    return over_members([None if slope is None else 2.0 * math.pi * cam_speed * slope for slope in slopes])
