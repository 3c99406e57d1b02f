"""First-order propagation of spreads through any scalar model (source: gum, section 5, independent inputs)."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.parts.figure import Basis, Figure

Numbers = Mapping[str, float]
Columns = Mapping[str, NDArray[np.float64]]

# A quarter of the spread is far enough to rise above rounding and near enough to stay on the tangent.
_STEP = 0.25


@dataclass(frozen=True)
class Propagated:
    """A figure with its spread (k = 2) and the squared share each input has in it, largest first.

    `low` and `high` hold it with about 95 %; where they are not known they lie a spread to either side.
    """

    value: float
    spread: float
    shares: tuple[tuple[str, float], ...]
    estimated: float
    low: float | None = None
    high: float | None = None

    @property
    def rests_on_estimates(self) -> bool:
        """Whether more than half of the variance comes from estimates."""
        return self.estimated > 0.5


def propagate(model: Callable[[Numbers], float], figures: Mapping[str, Figure]) -> Propagated:
    """Value and spread of `model` at the figures, by central differences over each figure's own spread."""
    centre = {name: figure.value for name, figure in figures.items()}
    slopes = {}
    for name, figure in figures.items():
        if figure.spread > 0.0:
            up, down = (model({**centre, name: figure.value + sign * _STEP * figure.spread}) for sign in (1.0, -1.0))
            slopes[name] = (up - down) / (2.0 * _STEP)
    return _combine(model(centre), slopes, figures)


def propagate_columns(model: Callable[[Columns], NDArray[np.float64]], figures: Mapping[str, Figure]) -> Propagated:
    """Like `propagate` in one call: `model` gets each input as a column of n cases, shape (n, 1), and returns n values."""
    names = list(figures)
    unsure = [number for number, figure in enumerate(figures.values()) if figure.spread > 0.0]
    cases = 2 * len(unsure) + 1
    table = np.empty((len(names), cases, 1))
    table[:] = np.array([figure.value for figure in figures.values()])[:, None, None]
    steps = _STEP * np.array([figures[names[number]].spread for number in unsure])
    table[unsure, np.arange(1, cases, 2), 0] += steps
    table[unsure, np.arange(2, cases, 2), 0] -= steps
    columns = dict(zip(names, table, strict=True))
    values = np.reshape(model(columns), cases)
    differences = (values[1::2] - values[2::2]) / (2.0 * _STEP)
    slopes = {names[number]: float(slope) for number, slope in zip(unsure, differences, strict=True)}
    return _combine(float(values[0]), slopes, figures)


def _combine(value: float, slopes: Mapping[str, float], figures: Mapping[str, Figure]) -> Propagated:
    """`slopes` are changes of the result per full spread of each input."""
    squares = {name: slope**2 for name, slope in slopes.items() if slope}
    total = sum(squares.values())
    if total == 0.0:
        return Propagated(value, 0.0, (), 0.0)
    estimated = sum(square for name, square in squares.items() if figures[name].basis is Basis.ESTIMATE)
    ranked = tuple(sorted(((name, square / total) for name, square in squares.items()), key=lambda item: -item[1]))
    return Propagated(value, math.sqrt(total), ranked, estimated / total)
