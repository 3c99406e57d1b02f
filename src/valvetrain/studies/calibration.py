"""What an engine did anchors the model of it: draws that would have given up where it did count, the others do not.

An observation and a prediction share what the two set-ups share (stiffness, damping, parts that stay) and differ in what was changed.
Bayes by weighting the draws; source: gum_mc for the draws, closed form for the weights.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion import sweeps
from valvetrain.studies.motion_case import Draws, draw, motion_case, motion_figures
from valvetrain.studies.motion_review import Onset, onsets
from valvetrain.studies.side_figures import nominal_float_speed, weakest

Array = NDArray[np.float64]

DRAWS = 128
_AT_ONCE = 16  # draws between two looks at whether to go on
_POINTS = 32
_FROM, _TO = 0.5, 1.35  # of the rigid separation speed: wide, for the draws of an engine that little is known of
_ENOUGH = 6.0  # draws' worth of weight below which a prediction would rest on a handful of cases
_TAIL = 0.02  # share of draws beyond the observation below which it does not fit


@dataclass(frozen=True)
class Observation:
    """Where an engine gave up: crank speed (rev/s) with its spread (k = 2) by tachometer and by eye, on one set-up of one side."""

    speed: float
    spread: float


@dataclass(frozen=True)
class Learnt:
    """How much an observation moved one figure: its mean and standard deviation before and after, in figures' own SI."""

    name: str
    before: float
    after: float
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


class StoppedError(Exception):
    """Somebody asked to stop."""


def _drawn_onsets(side: TrainSide, drawn: Draws, go_on: Callable[[float], bool], done: float) -> Array:
    """Speeds (rev/s) of sustained loss of contact in each draw; `go_on` hears the share done and may end it."""
    place = weakest(side)
    rigid = nominal_float_speed(side, place)
    grid = np.linspace(_FROM * rigid, _TO * rigid, _POINTS)
    count, found = drawn.values.shape[1], []
    for at in range(0, count, _AT_ONCE):
        if not go_on(done + 0.5 * at / count):
            raise StoppedError
        cases = [(motion_case(side, place, drawn.case(n)), grid) for n in range(at, min(at + _AT_ONCE, count))]
        found += [onsets(each)[1] for each in sweeps(cases)]
    return np.array(found)


def _quantiles(values: Array, weights: Array) -> tuple[float, float, float]:
    order = np.argsort(values)
    share = np.cumsum(weights[order]) - 0.5 * weights[order]
    low, middle, high = np.interp([0.025, 0.5, 0.975], share / weights.sum(), values[order])
    return float(low), float(middle), float(high)


def _onset(values: Array, weights: Array) -> Onset:
    low, middle, high = _quantiles(values, weights)
    return Onset(middle, low, high)


def _weighted(drawn: Draws, values: Array, weights: Array) -> tuple[tuple[str, float], ...]:
    """Squared weighted correlation of each figure's score with the values: those that stand out, or else the strongest alone."""
    total = weights.sum()
    y = values - np.dot(weights, values) / total
    spread = math.sqrt(float(np.dot(weights, y**2)))
    size = total**2 / float(np.dot(weights, weights))
    found = []
    for name, row in zip(drawn.names, drawn.scores, strict=True):
        x = row - np.dot(weights, row) / total
        wide = math.sqrt(float(np.dot(weights, x**2)))
        together = float(np.dot(weights, x * y)) / (wide * spread) if wide > 0.0 and spread > 0.0 else 0.0
        found.append((name, together**2))
    ranked = sorted(found, key=lambda item: -item[1])
    clear = [item for item in ranked if item[1] > 4.0 / size]
    return tuple((clear or ranked[:1])[:5])


def _learnt(drawn: Draws, weights: Array) -> tuple[Learnt, ...]:
    found = []
    for name, row, score in zip(drawn.names, drawn.values, drawn.scores, strict=True):
        mean = float(np.dot(weights, row) / weights.sum())
        middle = float(np.dot(weights, score) / weights.sum())
        wide = math.sqrt(float(np.dot(weights, (score - middle) ** 2) / weights.sum()))
        if abs(middle) > 0.35 or wide < 0.8:
            found.append(Learnt(name, float(np.median(row)), mean, 1.0 - wide))
    return tuple(sorted(found, key=lambda item: -item.narrowed))[:5]


def _joined(one: dict[str, Figure], two: dict[str, Figure]) -> dict[str, Figure]:
    """Figures of both set-ups: what differs in the second stands under its own name."""
    return one | {f"next {name}": figure for name, figure in two.items() if one.get(name) != figure}


def _part_of(joined: Draws, figures: dict[str, Figure], one: dict[str, Figure], *, second: bool) -> Draws:
    """The rows that one set-up needs, under its own names."""
    rows = []
    for name, figure in figures.items():
        if figure.spread > 0.0:
            own = f"next {name}" if second and one.get(name) != figure else name
            rows.append((name, joined.names.index(own)))
    picked = [row for _, row in rows]
    return Draws(tuple(name for name, _ in rows), joined.values[picked], joined.scores[picked])


def calibrate(
    seen: TrainSide, planned: TrainSide, observation: Observation, *, count: int = DRAWS, go_on: Callable[[float], bool] = lambda _: True
) -> Calibration:
    """Predict where `planned` loses contact for good, given where `seen` did.

    `go_on` is told the share done and may return False to stop. Raises StoppedError then, ValveTrainError for figures that cannot move.
    """
    one, two = motion_figures(seen), motion_figures(planned)
    joined = draw(_joined(one, two), count)
    then = _drawn_onsets(seen, _part_of(joined, one, one, second=False), go_on, 0.0)
    mine = _part_of(joined, two, one, second=True)
    after = _drawn_onsets(planned, mine, go_on, 0.5)
    even = np.ones(count)
    below, above = float((then < observation.speed).mean()), float((then > observation.speed).mean())
    # the model's own grid adds to the doubt of the tachometer
    step = (_TO - _FROM) * nominal_float_speed(seen, weakest(seen)) / _POINTS
    doubt = math.hypot(observation.spread / 2.0, step)
    weights = np.exp(-0.5 * ((then - observation.speed) / doubt) ** 2)
    size = float(weights.sum() ** 2 / max(float(np.dot(weights, weights)), 1e-300))
    fits = "early" if below < _TAIL or (size < _ENOUGH and below < 0.5) else "late" if above < _TAIL or size < _ENOUGH else ""
    if fits:
        return Calibration(_onset(then, even), _onset(after, even), _onset(after, even), fits, size, (), _weighted(mine, after, even))
    return Calibration(
        _onset(then, even), _onset(after, even), _onset(after, weights), "", size, _learnt(joined, weights), _weighted(mine, after, weights)
    )


def settles(decides: tuple[tuple[str, float], ...], figures: dict[str, Figure]) -> str:
    """The name of the figure whose measurement would settle a prediction best: the one that decides most and is not measured yet."""
    return next((name for name, _ in decides if figures[name].basis is not Basis.MEASURED), decides[0][0] if decides else "")
