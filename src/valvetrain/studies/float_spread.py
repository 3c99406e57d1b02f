"""The rigid separation speed with its whole distribution, by Monte Carlo, and what a measurement would narrow it to."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.side_figures import float_figures, float_model

SAMPLES = 10_000
_BLOCK = 1_000  # samples at once: small enough for the cache, large enough for the vector unit
# What a careful measurement leaves open, as a share of the value or outright (m), k = 2. Source: judgement
_MEASURED_SHARE = {"rate": 0.02, "load": 0.02, "mass": 0.005, "shape": 0.03, "duration": 0.004, "bend": 0.15}
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


def narrowing(side: TrainSide, position: ValvePosition, figures: Mapping[str, Figure], spread: float) -> tuple[Narrowing, ...]:
    """Figures whose careful measurement would narrow the float, the most first; slopes to first order (source: gum)."""
    model, found = float_model(side, position), []
    centre = {name: np.full((1, 1), figure.value) for name, figure in figures.items()}
    middle = float(model(centre)[0])
    for name, figure in figures.items():
        if figure.spread == 0.0:
            continue
        step = 0.25 * figure.spread
        slope = (float(model({**centre, name: np.full((1, 1), figure.value + step)})[0]) - middle) / step
        gained = slope**2 * (figure.spread**2 - _after(name, figure) ** 2)
        after = math.sqrt(max(spread**2 - gained, 0.0))
        if after < 0.995 * spread:
            found.append(Narrowing(name, figure.basis, spread, after))
    return tuple(sorted(found, key=lambda item: item.after))


def float_spread(side: TrainSide, position: ValvePosition, samples: int = SAMPLES, seed: int = 1) -> FloatSpread:
    """Draw every figure from its normal distribution (k = 2) and separate each draw (source: gum_mc).

    Raises ContradictionError when the springs do not push at their figures, or in no draw.
    """
    try:
        figures, model = float_figures(side), float_model(side, position)
    except OutOfRangeError as error:
        raise ContradictionError(str(error)) from error
    random, found, lost = np.random.default_rng(seed), [], 0
    fixed = {name: np.full((1, 1), figure.value) for name, figure in figures.items() if figure.spread == 0.0}
    unsure = {name: figure for name, figure in figures.items() if figure.spread > 0.0}
    for at in range(0, samples, _BLOCK):
        count = min(_BLOCK, samples - at)
        x = dict(fixed)
        for name, figure in unsure.items():
            x[name] = random.normal(figure.value, figure.spread / 2.0, (count, 1))
        try:
            found.append(np.broadcast_to(model(x), (count,)))
        except OutOfRangeError:  # at least one draw of the block has a spring that does not push: go through them one by one
            for n in range(count):
                try:
                    found.append(
                        model({name: column[min(n, len(column) - 1) : n + 1 if len(column) > 1 else 1] for name, column in x.items()})
                    )
                except OutOfRangeError:
                    lost += 1
    if not found:
        raise ContradictionError("In no case drawn from these figures do the springs push: they are longer than their space.")
    speeds = np.sort(np.concatenate(found))
    low, middle, high = (float(value) for value in np.quantile(speeds, [0.025, 0.5, 0.975]))
    return FloatSpread(speeds, low, middle, high, lost, narrowing(side, position, figures, (high - low) / 2.0))
