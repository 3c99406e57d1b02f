"""A stock engine runs to its own limiter without giving up: rows of its unknown figures that contradict that lose their weight."""

import hashlib
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from valvetrain.parts.engine import EngineKind, Gear
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.joint import Joint
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train import priors
from valvetrain.studies.train.float_rows import float_rows, is_exact
from valvetrain.studies.train.priors import ROWS
from valvetrain.studies.train.side_figures import float_figures, motion_names, weakest

Array = NDArray[np.float64]

_SURGE, _SURGE_SCATTER = 0.94, 0.03  # what surge leaves of a rigid train's speed, and how that scatters. Source: judgement, tried
_SHARP = 0.015  # how sharply a row is judged about the limiter
_FAR, _FAR_WIDTH = 1.40, 0.10  # makers fit no springs for far more than the limiter: over this, rows lose weight. Source: judgement
_LEAST_NEAR = 0.3
_LEAST_TOLD = 0.004  # share of the rows below which the figures contradict the limiter, and nothing is learnt


def _key(*parts: object) -> str:
    return hashlib.blake2b(repr(parts).encode(), digest_size=8).hexdigest()


def _digest(values: Array) -> str:
    return hashlib.blake2b(np.ascontiguousarray(values).tobytes(), digest_size=8).hexdigest()


def joint_of(columns: Mapping[str, Array], train: TrainSide, before: Joint | None = None) -> Joint:
    """The rows of a side's estimates about the figures that its train holds; weights and order are those of `before`, or even."""
    figures = float_figures(train) | motion_names(train)
    own = {name: figures[name] for name in columns if name in figures and figures[name].basis is Basis.ESTIMATE}
    weights = before.weights if before else np.full(ROWS, 1.0 / ROWS)
    order = before.order if before else np.arange(ROWS)
    away = {name: np.asarray(columns[name] - figure.value) for name, figure in own.items()}
    key = _key(own, _digest(weights), sorted((name, _digest(values)) for name, values in away.items()))
    return Joint(own, away, weights, order, key, before.told if before else None, before.limiter if before else None)


def hold_limiter(train: TrainSide, limiter: Figure, kind: EngineKind, *, asked: bool, guessed: bool) -> Joint:
    """The rows of a stock side, weighted by whether the engine would hold its own limiter (crank rev/s) with them.

    `asked` is whether that counts at all; `guessed` whether the springs' force is an estimate: only then springs for far more than the limiter
    are unlikely. Where hardly a row holds it, nothing is learnt and `told` says so.
    """
    assert train.joint
    joint = train.joint
    if is_exact(train) or not asked:
        return joint
    rows = float_rows(train, weakest(train))
    speed = rows.speeds * _SURGE * np.exp(_SURGE_SCATTER * priors.scores(f"surge {train.side}"))
    # a limiter that is itself an estimate is the one that all else is told against
    doubt = 0.0 if limiter.basis is Basis.ESTIMATE else limiter.spread / 2.0
    aim = limiter.value + priors.scores("limiter") * doubt
    weights = ndtr((speed / aim - 1.0) / _SHARP)
    share = float(weights.mean())
    if guessed and kind.gear not in (Gear.PUSH_ROD, Gear.SIDE_VALVE):
        near = np.exp(-0.5 * (np.maximum(rows.speeds / aim - _FAR, 0.0) / _FAR_WIDTH) ** 2)
        if float((weights * near).sum()) > _LEAST_NEAR * float(weights.sum()):  # else it is an engine held far below what it could turn
            weights = weights * near
    if share < _LEAST_TOLD or float(weights.sum()) < 1e-9:
        return Joint(joint.figures, joint.columns, joint.weights, np.argsort(rows.speeds), joint.key + "-", share)
    weights = weights / weights.sum()
    order = np.argsort(rows.speeds)
    return Joint(joint.figures, joint.columns, weights, order, _key(joint.key, _digest(weights)), share, limiter.value)
