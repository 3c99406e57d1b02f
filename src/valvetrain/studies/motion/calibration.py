"""What an engine did anchors the model of it: draws that would have given up where it did count, the others do not.

An observation and a prediction share what the two set-ups share (stiffness, damping, parts that stay) and differ in what was changed.
Bayes by weighting the draws; source: gum_mc for the draws, closed form for the weights.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import StoppedError
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion.case import Draws, draw_side
from valvetrain.studies.motion.review import Onset, drawn_onsets
from valvetrain.studies.train.lobe_bands import mixed
from valvetrain.studies.train.priors import weighted
from valvetrain.studies.train.side_figures import weakest

USUAL_DOUBT = 0.02  # share of the speed that a tachometer and an eye leave open, k = 2. Source: judgement

Array = NDArray[np.float64]

DRAWS = 128
_AT_ONCE = 16  # draws between two looks at whether to go on
# Shares of the observed speed within which draws count: wider than a tachometer's doubt, for few draws lie that near, and wider still until
# there are enough of them
_NEAR, _PLENTY = (0.035, 0.05, 0.07, 0.10), 10.0
_GRID_OF_TWO = 0.030  # standard deviation, as a share, of two grids of speeds and of what few draws leave open. Source: the coverage study
_GRID = 0.006  # standard deviation that the grid of speeds leaves open, as a share
_ENOUGH = 4.0  # draws' worth of weight below which a prediction would rest on a handful of cases
_TAIL = 0.02  # share of draws beyond the observation below which it does not fit


@dataclass(frozen=True)
class Observation:
    """Where an engine gave up: crank speed (rev/s) with its spread (k = 2) by tachometer and by eye, on one set-up of one side."""

    speed: float
    spread: float


@dataclass(frozen=True)
class Learnt:
    """How much an observation moved one figure: its mean before and after, in figures' own SI, by how many of its standard deviations
    (`score`), and by what part the doubt narrowed."""

    name: str
    before: float
    after: float
    score: float
    narrowed: float


@dataclass(frozen=True)
class Calibration:
    """The observation's set-up and the next one's, before and after learning. `fits` is "", "early" (the engine gave up far below what
    its valves should) or "late"; then nothing was learnt. `decides` names the figures that the remaining spread comes from."""

    observed: Onset
    before: Onset
    after: Onset
    fits: str
    weight: float
    learnt: tuple[Learnt, ...]
    decides: tuple[tuple[str, float], ...]


def _onsets_of(side: TrainSide, drawn: Draws, go_on: Callable[[float], bool], done: float) -> Array:
    """Speeds (rev/s) of lasting loss of contact in each draw; `go_on` hears the share done and may end it."""
    place, count, found = weakest(side), drawn.values.shape[1], []
    for at in range(0, count, _AT_ONCE):
        if not go_on(done + 0.5 * at / count):
            raise StoppedError
        found.append(drawn_onsets(side, place, drawn, range(at, min(at + _AT_ONCE, count)))[:, 1])
    return np.concatenate(found)


def _onset(values: Array, weights: Array) -> Onset:
    low, middle, high = weighted(values, weights)
    return Onset(middle, low, high)


def _predicted(then: Array, after: Array, seen: float, weights: Array, doubt: float) -> Onset:
    """Where the next set-up gives up: draws near the observation, each brought onto it by the line that the two set-ups share.

    A draw that gave up a little late says as much of the next springs as one that hit the observation, once that little is taken off:
    `after` is regressed on `then` (logarithms, weighted), and the residuals stand about the line at what was seen, widened by the
    observation's own doubt. Source: closed form (weighted least squares).
    """
    x, y = np.log(then / seen), np.log(after)
    share = weights / weights.sum()
    middle = share @ x
    spread = float(share @ (x - middle) ** 2)
    slope = float(share @ ((x - middle) * y)) / spread if spread > 1e-12 else 1.0
    slope = min(max(slope, 0.0), 1.5)
    rest = y - slope * x
    found = mixed(np.exp(rest), share, math.hypot(slope * doubt / seen, _GRID_OF_TWO))
    return Onset(found.value, found.low, found.high)


def _weighted(drawn: Draws, values: Array, weights: Array) -> tuple[tuple[str, float], ...]:
    """Squared weighted correlation of each figure's score with the values: those that stand out, or else the strongest alone."""
    total = weights.sum()
    y = values - np.dot(weights, values) / total
    spread = math.sqrt(float(np.dot(weights, y**2)))
    size = total**2 / float(np.dot(weights, weights))
    found: dict[str, float] = {}
    for name, row in zip(drawn.names, drawn.scores, strict=True):
        x = row - np.dot(weights, row) / total
        wide = math.sqrt(float(np.dot(weights, x**2)))
        together = float(np.dot(weights, x * y)) / (wide * spread) if wide > 0.0 and spread > 0.0 else 0.0
        found[name.strip()] = min(found.get(name.strip(), 0.0) + together**2, 1.0)
    ranked = sorted(found.items(), key=lambda item: -item[1])
    clear = [item for item in ranked if item[1] > 4.0 / size]
    return tuple((clear or ranked[:1])[:5])


def _learnt(drawn: Draws, weights: Array) -> tuple[Learnt, ...]:
    found = []
    for name, row, score in zip(drawn.names, drawn.values, drawn.scores, strict=True):
        if name != name.strip():
            continue  # which lobe it is has no figure of its own to tell
        mean = float(np.dot(weights, row) / weights.sum())
        middle = float(np.dot(weights, score) / weights.sum())
        wide = math.sqrt(float(np.dot(weights, (score - middle) ** 2) / weights.sum()))
        if abs(middle) > 0.35 or wide < 0.8:
            found.append(Learnt(name, float(np.median(row)), mean, middle, 1.0 - wide))
    return tuple(sorted(found, key=lambda item: -item.narrowed))[:5]


def calibrate(
    seen: TrainSide, planned: TrainSide, observation: Observation, *, count: int = DRAWS, go_on: Callable[[float], bool] = lambda _: True
) -> Calibration:
    """Predict where `planned` loses contact for good, given where `seen` did.

    `go_on` is told the share done and may return False to stop. Raises StoppedError then, ValveTrainError for figures that cannot move.
    """
    one = draw_side(seen, weakest(seen), count)
    two = draw_side(planned, weakest(planned), count, like=seen)
    then = _onsets_of(seen, one, go_on, 0.0)
    after = _onsets_of(planned, two, go_on, 0.5)
    even = np.ones(count)
    below, above = float((then < observation.speed).mean()), float((then > observation.speed).mean())
    # the model's own grid adds to the doubt of the tachometer
    doubt = math.hypot(observation.spread / 2.0, _GRID * observation.speed)
    for near in _NEAR:
        weights = np.exp(-0.5 * ((then - observation.speed) / max(doubt, near * observation.speed)) ** 2)
        size = float(weights.sum() ** 2 / max(float(np.dot(weights, weights)), 1e-300))
        if size >= _PLENTY:
            break
    fits = "early" if below < _TAIL or (size < _ENOUGH and below < 0.5) else "late" if above < _TAIL or size < _ENOUGH else ""
    if fits:
        return Calibration(_onset(then, even), _onset(after, even), _onset(after, even), fits, size, (), _weighted(two, after, even))
    return Calibration(
        _onset(then, even),
        _onset(after, even),
        _predicted(then, after, observation.speed, weights, doubt),
        "",
        size,
        _learnt(one, weights),
        _weighted(two, after, weights),
    )


def settles(decides: tuple[tuple[str, float], ...], figures: dict[str, Figure]) -> str:
    """The name of the figure whose measurement would settle a prediction best: the one that decides most and is not measured yet."""
    return next((name for name, _ in decides if figures[name].basis is not Basis.MEASURED), decides[0][0] if decides else "")
