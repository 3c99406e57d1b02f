"""Laws by which lobes are made: nine kinds of flank, drawn widely within each, from which a card picks those that meet it.

A flank is told from its end (x = 0) to the nose (x = 1) by its acceleration over x: `push`, a shape over u = x/c, then `slowing`, a shape
over w = (x - c)/(1 - c). Shapes are straight between 97 even points, so that their single and double integrals are exact and lift,
velocity and acceleration of one flank belong together. Sources of the laws: norton_cam, stoddart1953; their ranges: judgement.
"""

import math
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline
from scipy.special import ndtri
from scipy.stats import qmc

from valvetrain.formulas.cam_curves import flank_exponents, polynomial_coefficients, unit_lift

Array = NDArray[np.float64]

NODES = 97
GRID: Array = np.linspace(0.0, 1.0, NODES)
_STEP = 1.0 / (NODES - 1)
_DIMENSIONS = 24
PER_KIND = 16  # draws of each kind in the bank: 144 in all, of which a card keeps about a hundred


class LawKind(StrEnum):
    """Kinds of flank that cam makers use or have used."""

    POLYNOMIAL = "2-p-q-r-s polynomial"
    TRAPEZOID = "modified trapezoid"
    SINE = "modified sine"
    CYCLOIDAL = "cycloidal"
    LOW_POLYNOMIAL = "3-4-5 and 4-5-6-7"
    SPLINE = "spline with flat deceleration"
    SPRING_LIKE = "deceleration like the spring"
    ARCS = "arcs"
    CONSTANT = "constant acceleration"


@dataclass(frozen=True, eq=False)
class Laws:
    """Drawn flanks. Shapes (members, NODES), at most 1; the rest one value a member.

    `crossing` is where push ends, as a share of the flank; `push_tilt`, `slowing_tilt` lean the shapes about their middle; `ramp_height`,
    `ramp_slope` are factors on the usual ramp, `run` the share of its height that it takes to come up to speed; `lean` the share by which
    one flank is narrower than the other; `rounding` the seed of each member's own rounding of card figures, -1 to 1, one row a height.
    """

    kind: tuple[LawKind, ...]
    push: Array
    slowing: Array
    crossing: Array
    push_tilt: Array
    slowing_tilt: Array
    ramp_height: Array
    ramp_slope: Array
    run: Array
    lean: Array
    rounding: Array

    def __len__(self) -> int:
        return len(self.kind)

    def one(self, number: int) -> "Laws":
        """One flank alone, symmetrical, with a card's durations and ramp as they stand."""
        cut = slice(number, number + 1)
        return Laws(
            kind=(self.kind[number],), push=self.push[cut], slowing=self.slowing[cut], crossing=self.crossing[cut],
            push_tilt=self.push_tilt[cut], slowing_tilt=self.slowing_tilt[cut], ramp_height=np.ones(1), ramp_slope=np.ones(1),
            run=self.run[cut], lean=np.zeros(1), rounding=np.zeros((len(self.rounding), 1)),
        )  # fmt: skip


def _smooth(x: Array) -> Array:
    x = np.clip(x, 0.0, 1.0)
    return x * x * (3.0 - 2.0 * x)


def _rounded_ends(edge: float) -> Array:
    return _smooth(GRID / edge) * _smooth((1.0 - GRID) / edge)


def _between(share: float, low: float, high: float) -> float:
    return low + (high - low) * share


def _polynomial(p: float) -> tuple[Array, Array, float]:
    """Push, slowing and crossing of 2-p-q-r-s (source: stoddart1953)."""
    terms = polynomial_coefficients(*flank_exponents(p))
    fine = np.linspace(0.0, 1.0, 2001)
    bend = unit_lift(terms, 1.0 - fine, 2)
    crossing = float(fine[int(np.argmax(bend < 0.0))])
    at = lambda x: unit_lift(terms, 1.0 - x, 2)
    return np.maximum(at(crossing * GRID), 0.0), np.maximum(-at(crossing + (1.0 - crossing) * GRID), 0.0), crossing


def _shapes(kind: LawKind, d: Array) -> tuple[Array, Array, float]:
    """Push, slowing and crossing of one draw; `d` are even shares from 0 to 1, one for each free number of the law."""
    u = w = GRID
    if kind is LawKind.POLYNOMIAL:
        return _polynomial(4.0 * 4.0 ** float(d[0]))
    entry = lambda low, high: _smooth(w / _between(d[5], low, high))
    if kind is LawKind.TRAPEZOID:
        return _rounded_ends(_between(d[0], 0.10, 0.40)), np.ones(NODES) * entry(0.08, 0.45), _between(d[1], 0.20, 0.42)
    if kind is LawKind.SINE:
        e, f, q = _between(d[0], 0.25, 0.6), _between(d[2], 0.12, 0.75), _between(d[3], -0.7, 0.35)
        push = np.where(u < e, np.sin(math.pi / 2 * u / e), np.cos(math.pi / 2 * (u - e) / (1.0 - e)))
        rest = 1.0 - q * np.sin(math.pi / 2 * np.clip((w - f) / (1.0 - f), 0.0, 1.0)) ** 2
        return push, np.where(w < f, np.sin(math.pi / 2 * w / f), rest), _between(d[1], 0.22, 0.45)
    if kind is LawKind.CYCLOIDAL:
        return np.sin(math.pi * u), np.cos(_between(d[0], 0.3, 1.45) * (1.0 - w)) * entry(0.06, 0.4), _between(d[1], 0.22, 0.46)
    if kind is LawKind.LOW_POLYNOMIAL:
        push = u * (1.0 - u / 2.0) * (1.0 - u) if d[0] < 0.5 else u**2 * (1.0 - u / 2.0) ** 2 * (1.0 - u)
        slowing = (1.0 - (1.0 - w) ** _between(d[2], 2.2, 9.0)) * (1.0 + _between(d[3], -0.35, 0.45) * w**2)
        return push, slowing, _between(d[1], 0.26, 0.56)
    if kind is LawKind.SPLINE:
        heights = np.exp(0.35 * ndtri(np.clip(d[6:11], 1e-4, 1.0 - 1e-4)))
        push = CubicSpline(np.linspace(0.0, 1.0, 7), np.concatenate([[0.0], heights, [0.0]]))(u)
        walk = np.concatenate([[0.0], np.cumsum(0.07 * ndtri(np.clip(d[11:16], 1e-4, 1.0 - 1e-4)))])
        slowing = np.exp(CubicSpline(np.linspace(0.0, 1.0, 6), walk)(w)) * entry(0.06, 0.3)
        return np.maximum(push, 0.0), slowing, _between(d[1], 0.22, 0.45)
    if kind is LawKind.SPRING_LIKE:
        a, b = _between(d[0], 0.5, 3.2), _between(d[2], 0.5, 1.6)
        slowing = 1.0 + _between(d[3], 0.2, 2.0) * np.sin(math.pi * w / 2.0)
        return u**a * (1.0 - u) ** b, slowing, _between(d[1], 0.22, 0.42) + 0.05 * (a - 0.5)
    if kind is LawKind.ARCS:
        push = (1.0 + _between(d[0], -0.5, 2.0) * u) * _rounded_ends(_between(d[2], 0.10, 0.30))
        return push, np.cos(_between(d[3], 0.4, 1.15) * (1.0 - w)) * entry(0.05, 0.22), _between(d[1], 0.18, 0.38)
    push = _rounded_ends(_between(d[0], 0.15, 0.5))
    return push, (1.0 + _between(d[3], -0.35, 0.7) * w) * entry(0.10, 0.45), _between(d[1], 0.22, 0.42)


def _waves(scores: Array, sd: float) -> Array:
    return np.asarray(np.exp(sum(sd / k * scores[k - 2] * np.cos(k * math.pi * GRID) for k in (2, 3, 4))))


def draw_laws(kinds: tuple[LawKind, ...], per_kind: int, seed: int) -> Laws:
    """`per_kind` flanks of each kind, kinds in turn, from one Latin hypercube a kind; the same for the same seed."""
    rows = {}
    for kind in kinds:
        own = seed * 100 + list(LawKind).index(kind)
        rows[kind] = qmc.LatinHypercube(_DIMENSIONS, rng=np.random.default_rng(own)).random(per_kind)
    names: list[LawKind] = []
    push, slowing, numbers = [], [], []
    random = np.random.default_rng(seed)
    for number in range(per_kind):
        for kind in kinds:
            d = rows[kind][number]
            score = ndtri(np.clip(d, 1e-4, 1.0 - 1e-4))
            p, n, crossing = _shapes(kind, d)
            if kind is not LawKind.SPLINE:
                p, n = p * _waves(random.normal(size=3), 0.20), n * _waves(random.normal(size=3), 0.16)
            names.append(kind)
            push.append(p / p.max())
            slowing.append(n / n.max())
            run = 1.0 if d[20] < 0.3 else _between((d[20] - 0.3) / 0.7, 0.15, 0.6)
            lean = 0.02 * abs(float(ndtri(0.5 + 2.0 * min(d[21], 0.2499)))) if d[21] < 0.25 else 0.0
            numbers.append(
                (crossing, 0.32 * score[16], 0.32 * score[17], math.exp(0.30 * score[18]), math.exp(0.25 * score[19]), run, lean)
            )
    crossing, push_tilt, slowing_tilt, ramp_height, ramp_slope, runs, leans = np.array(numbers).T
    return Laws(
        kind=tuple(names), push=np.array(push), slowing=np.array(slowing), crossing=crossing, push_tilt=push_tilt, slowing_tilt=slowing_tilt,
        ramp_height=ramp_height, ramp_slope=ramp_slope, run=runs, lean=leans, rounding=2.0 * random.random((8, len(names))) - 1.0,
    )  # fmt: skip


@lru_cache(maxsize=16)
def bank(without: LawKind | None = None, *, large: bool = False) -> Laws:
    """The fixed bank of flanks that every card is met from; `large` for cards that few flanks meet. `without` leaves one kind out."""
    return draw_laws(tuple(kind for kind in LawKind if kind is not without), PER_KIND * (6 if large else 1), 7)


@dataclass(frozen=True, eq=False)
class Integrals:
    """A tilted shape with its exact single and double integrals at the nodes; arrays (members, NODES)."""

    shape: Array
    once: Array
    twice: Array

    def at(self, place: Array) -> tuple[Array, Array, Array]:
        """Shape and both integrals at places (members, n) from 0 to 1."""
        at = np.clip(place, 0.0, 1.0) * (NODES - 1)
        left = np.minimum(at.astype(np.intp), NODES - 2)
        s = (at - left) * _STEP
        flat = left + NODES * np.arange(len(self.shape))[:, None]  # several times as quick as taking along an axis
        p = self.shape.ravel()[flat]
        slope = (self.shape.ravel()[flat + 1] - p) / _STEP
        once, twice = self.once.ravel()[flat], self.twice.ravel()[flat]
        return p + slope * s, once + s * (p + slope * s / 2.0), twice + s * (once + s * (p / 2.0 + slope * s / 6.0))


def integrals(shape: Array) -> Integrals:
    """Exact integrals of shapes (members, NODES) that are straight between their nodes."""
    p, q = shape[:, :-1], shape[:, 1:]
    once = np.zeros_like(shape)
    np.cumsum(_STEP * (p + q) / 2.0, axis=1, out=once[:, 1:])
    twice = np.zeros_like(shape)
    np.cumsum(once[:, :-1] * _STEP + _STEP**2 * (2.0 * p + q) / 6.0, axis=1, out=twice[:, 1:])
    return Integrals(shape, once, twice)
