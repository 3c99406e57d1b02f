"""The rigid float over many rows of what is not known: figures, lobes, and estimates that belong together; its band is skew where it must be."""

import math
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from valvetrain.parts.cam_source import easing
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train.priors import ROWS, weighted
from valvetrain.studies.train.side_figures import float_figures, nominal_float_speed, nominal_force, slowing, spring_weight
from valvetrain.studies.train.uncertainty import Propagated

Array = NDArray[np.float64]

LOBE = "shape"  # the name under which the lobe's flank stands among what decides; which lobe it is stands beside it as "shape "
_NEAR, _POINTS = 1.6, 48  # points that need this many times the least force cannot become the worst within any spread
_LEAST_FORCE = 1.0  # N; a row whose spring does not push separates at next to nothing instead of at no number


@lru_cache(maxsize=4096)
def scores(name: str, figure: Figure, count: int, seed: int = 1) -> Array:
    """Standard normal scores of a figure: even shares in an order that follows from name and figure alone, so that the same part in two
    set-ups is drawn alike in both (source: gum_mc; the even shares only spread few draws evenly)."""
    own = zlib.crc32(f"{seed} {name} {figure.value:.9g} {figure.spread:.9g}".encode())
    random = np.random.default_rng(own)
    return np.asarray(ndtri((random.permutation(count) + random.random(count)) / count))


def column(side: TrainSide, name: str, figure: Figure) -> Array:
    """Values of one figure over the rows: those that belong together with the others', or its own normal ones (k = 2)."""
    joined = side.joint.column(name, figure) if side.joint else None
    return figure.value + scores(name, figure, ROWS) * figure.spread / 2.0 if joined is None else joined


@dataclass(frozen=True, eq=False)
class FloatRows:
    """Crank speeds (rev/s) of rigid separation row by row, their weights (sum 1), the rows of each unsure figure by name, and which lobe."""

    speeds: Array
    weights: Array
    columns: Mapping[str, Array]
    lobe: Array | None

    def found(self, figures: Mapping[str, Figure]) -> Propagated:
        """Middle of the rows with the interval that holds 95 %, and the squared share of each figure in it.

        A share is the squared correlation with the speed: what knowing that figure would take out of the variance, whatever belongs to it.
        """
        low, middle, high = weighted(self.speeds, self.weights)
        shares = self._shares()
        total = sum(share for _, share in shares) or 1.0
        guessed = sum(share for name, share in shares if (name == LOBE and self.lobe is not None) or figures[name].basis is Basis.ESTIMATE)
        if not shares and any(figure.basis is Basis.ESTIMATE for figure in figures.values()):
            guessed = total  # too few rows hold the limiter for any one figure to stand out: what is known is not what decides
        return Propagated(middle, (high - low) / 2.0, shares, guessed / total, low, high)

    def _shares(self) -> tuple[tuple[str, float], ...]:
        names = [*self.columns]
        table = [self.columns[name] for name in names]
        if self.lobe is not None:
            names, table = [*names, LOBE + " "], [*table, self.lobe]
        x = np.array(table)
        x = x - (x @ self.weights)[:, None]
        y = np.log(self.speeds)
        y = y - y @ self.weights
        with np.errstate(invalid="ignore", divide="ignore"):
            together = (x * y) @ self.weights / np.sqrt((x * x) @ self.weights * (y * y @ self.weights))
        found: dict[str, float] = {}
        for name, value in zip(names, np.nan_to_num(together), strict=True):
            own = name.strip()
            found[own] = min(found.get(own, 0.0) + float(value) ** 2, 1.0)
        size = 1.0 / float(self.weights @ self.weights)
        clear = {name: share for name, share in found.items() if share > 6.0 / size}
        return tuple(sorted(clear.items(), key=lambda item: -item[1]))


def is_exact(side: TrainSide) -> bool:
    """Whether nothing that the float rests on is unsure."""
    return side.cam.lobes is None and side.joint is None and all(figure.spread == 0.0 for figure in float_figures(side).values())


def float_rows(side: TrainSide, position: ValvePosition) -> FloatRows:
    """Separate every row of one valve. Raises OutOfRangeError when at its figures the springs do not push."""
    nominal_float_speed(side, position)
    figures, lobes = float_figures(side), side.cam.lobes
    unsure = {name: column(side, name, figure)[:, None] for name, figure in figures.items() if figure.spread > 0.0}
    x: dict[str, Array | float] = {name: unsure.get(name, figure.value) for name, figure in figures.items()}
    if lobes is None:
        lift, slows = _binding(side, position)
        eased, own = easing(slows), None
    else:
        lift, eased = lobes.table(ROWS)
        own = lobes_alone(side, position, lobes.lift, lobes.slows)[lobes.rows(ROWS)]
    scale = x["lift"] / side.lift.value
    raised = lift * scale - x["clearance"]
    # every spring's force is a parabola over the rise of its valve; so is their sum
    level: Array | float = 0.0
    slope: Array | float = 0.0
    bend: Array | float = 0.0
    for n in range(len(side.springs)):
        drop = x[f"drop_{n}"] if f"drop_{n}" in x else x[f"load_height_{n}"] - (x["installed_height"] - x[f"step_{n}"])
        shut, own_bend = drop - position.deviation + x["spring_shim"], x.get(f"bend_{n}", 0.0)
        level = level + (x[f"load_{n}"] + shut * (x[f"rate_{n}"] + own_bend * shut))
        slope, bend = slope + (x[f"rate_{n}"] + 2.0 * own_bend * shut), bend + own_bend
    mass: Array | float = 0.0
    for name, value in x.items():
        if name.startswith("mass:"):
            counts_for = spring_weight(x[f"active_{name.rsplit(' ', 1)[1]}"]) if name.startswith("mass:spring") else 1.0
            mass = mass + value * counts_for
    force = raised * (slope + raised * bend if np.any(bend) else slope) + level
    # below the clearance the valve sits: what the lobe does there cannot throw it off
    ratio = np.where(raised > 0.0, np.maximum(force, _LEAST_FORCE) * eased, np.inf)
    factor = mass * scale * x["shape"] * (side.duration.value / x["duration"]) ** 2
    speeds = np.sqrt(ratio.min(axis=1) / np.maximum(np.ravel(factor * np.ones((ROWS, 1))), 1e-9)) / math.pi
    weights = side.joint.weights if side.joint else np.full(ROWS, 1.0 / ROWS)
    return FloatRows(speeds, weights, {name: values[:, 0] for name, values in unsure.items()}, own)


def _binding(side: TrainSide, position: ValvePosition) -> tuple[Array, Array]:
    """Lift and deceleration of the one known lobe where it may bind within any spread, (1, points)."""
    _, lift, bend = slowing(side.curve, side.clearance.value)
    margins = nominal_force(side, position, lift - side.clearance.value) / -bend
    near = np.flatnonzero(margins <= _NEAR * margins.min())
    if len(near) > _POINTS:
        near = near[np.linspace(0, len(near) - 1, _POINTS).astype(int)]
        near = np.union1d(near, [int(np.argmin(margins))])
    return lift[None, near], -bend[None, near]


def float_near() -> tuple[float, int]:
    """How much more than the least force over deceleration a point of a known lobe may stand at to be looked at, and the most points."""
    return _NEAR, _POINTS


def lobes_alone(side: TrainSide, position: ValvePosition, lift: Array, slows: Array) -> Array:
    """What each lobe would give with every figure at its middle (logarithm, of the force over deceleration that binds)."""
    height = side.installed_height.value + position.deviation - side.spring_shim.value
    raised = np.maximum(lift - side.clearance.value, 0.0)
    force = np.zeros_like(lift)
    for packed in side.springs:
        squeeze = packed.spring.load_height.value - (height - packed.step.value) + raised
        force += packed.spring.load.value + squeeze * (packed.spring.rate.value + packed.spring.bend.value * squeeze)
    counts = (lift > side.clearance.value) & (slows > 0.0)
    return np.asarray(np.log(np.divide(np.maximum(force, _LEAST_FORCE), slows, out=np.full(lift.shape, 1e9), where=counts).min(axis=1)))


def float_speed(side: TrainSide, position: ValvePosition) -> Propagated:
    """Crankshaft speed (rev/s) at which a rigid train first separates anywhere on the profile of one valve, with its band."""
    if is_exact(side):
        return Propagated(nominal_float_speed(side, position), 0.0, (), 0.0)
    return float_rows(side, position).found(float_figures(side))
