"""The rigid separation speed with its whole distribution, and what a measurement would narrow it to."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train.float_rows import LOBE, float_rows
from valvetrain.studies.train.priors import ROWS, weighted
from valvetrain.studies.train.side_figures import float_figures

_NOTHING = 1.0  # rev/s; a row below it has springs that do not push
# What a careful measurement leaves open, as a share of the value or outright (m), k = 2. Source: judgement
_MEASURED_SHARE = {"rate": 0.02, "load": 0.02, "mass": 0.005, "shape": 0.03, "active": 0.02, "duration": 0.004, "bend": 0.15}
_MEASURED = {"lift": 0.02e-3, "clearance": 0.01e-3, "installed": 0.1e-3, "spring_shim": 0.02e-3, "step": 0.05e-3, "load_height": 0.05e-3}


@dataclass(frozen=True)
class Narrowing:
    """What measuring one figure with care would do to the spread of the float (k = 2, rev/s)."""

    what: str
    basis: Basis
    before: float
    after: float


@dataclass(frozen=True, eq=False)
class FloatSpread:
    """Separation speeds (crank rev/s) of many draws, sorted; `low`, `high` hold 95 %; `lost` draws in which a spring would not push."""

    speeds: NDArray[np.float64]
    low: float
    middle: float
    high: float
    lost: int
    narrowing: tuple[Narrowing, ...]

    def below(self, speed: float) -> float:
        """Share of draws that separate below a crank speed (rev/s)."""
        return float(np.searchsorted(self.speeds, speed)) / len(self.speeds)


def _after(name: str, figure: Figure) -> float:
    stem = name.split(":", maxsplit=1)[0].rsplit("_", 1)[0] if name[-1].isdigit() else name.split(":", maxsplit=1)[0]
    if stem in _MEASURED_SHARE:
        return min(_MEASURED_SHARE[stem] * abs(figure.value), figure.spread)
    return min(_MEASURED.get(stem if stem != "installed_height" else "installed", 0.0), figure.spread)


def _narrowing(figures: Mapping[str, Figure], shares: tuple[tuple[str, float], ...], spread: float) -> tuple[Narrowing, ...]:
    """Figures whose careful measurement would narrow the float, the most first: a share of the variance goes, but for what measuring leaves."""
    found = []
    for name, share in shares:
        figure = figures[name]
        left = (_after(name, figure) / figure.spread) ** 2 if figure.spread > 0.0 else 0.0
        after = spread * math.sqrt(max(1.0 - min(share, 1.0) * (1.0 - left), 0.0))
        if after < 0.995 * spread:
            found.append(Narrowing(name, Basis.ESTIMATE if name == LOBE else figure.basis, spread, after))
    return tuple(sorted(found, key=lambda item: item.after))


def float_spread(side: TrainSide, position: ValvePosition) -> FloatSpread:
    """The float of every row of what is unsure (source: gum_mc). Raises ContradictionError when the springs do not push at their figures."""
    try:
        rows = float_rows(side, position)
    except OutOfRangeError as error:
        raise ContradictionError(error.sentence) from error
    figures = float_figures(side)
    order = np.argsort(rows.speeds)
    share = np.cumsum(rows.weights[order])
    even = order[np.minimum(np.searchsorted(share / share[-1], (np.arange(ROWS) + 0.5) / ROWS), ROWS - 1)]
    low, middle, high = weighted(rows.speeds, rows.weights)
    found = rows.found(figures)
    lost = int((rows.speeds[even] < _NOTHING).sum())
    return FloatSpread(rows.speeds[even], low, middle, high, lost, _narrowing(figures, found.shares, (high - low) / 2.0))
