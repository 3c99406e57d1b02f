"""From one valve of a side to the case its motion is computed of, at its figures or at a draw of them."""

import math
import zlib
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from valvetrain.parts.cam_card import CamCard
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.figure import Basis, Figure, estimate
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion import MotionCase, MovingSpring
from valvetrain.studies.side_figures import float_figures

TRUSTED = 0.15  # greatest spread of the lobe's acceleration with which a motion is worth computing (the wheel fit's own limit)


# A card tells heights, not how the corners between ramp and flank are ground: half width of the rounding, rad of cam. Source: judgement
_ROUNDING = estimate(math.radians(6.0), 0.5)


@dataclass(frozen=True)
class Draws:
    """`count` cases drawn from figures: one row a name, one column a case. `scores` are the standard normal scores behind them."""

    names: tuple[str, ...]
    values: np.ndarray
    scores: np.ndarray

    def case(self, number: int) -> dict[str, float]:
        """One case as numbers by name."""
        return dict(zip(self.names, self.values[:, number].tolist(), strict=True))


def motion_figures(side: TrainSide) -> dict[str, Figure]:
    """Every figure that the motion of a valve rests on, by name; those of `float_figures`, solid heights, and how the train shakes."""
    figures = float_figures(side) | {f"shake:{key}": figure for key, figure in side.vibration.items()}
    for number, packed in enumerate(side.springs):
        figures[f"solid_{number}"] = packed.spring.solid_height
    if isinstance(side.cam.shape, CamCard):
        figures["shake:rounding"] = _ROUNDING
    return figures


def draw(figures: Mapping[str, Figure], count: int, seed: int = 1) -> Draws:
    """Latin hypercube of `count` cases: each figure normal with half its spread (k = 2), those that shake by a factor (log-normal).

    The scores of a name follow from the name and its figure alone: the same part in two set-ups is drawn alike in both.
    Source: gum_mc for drawing from the stated distributions; the hypercube only spreads few draws evenly.
    """
    names = tuple(name for name, figure in figures.items() if figure.spread > 0.0)
    scores = np.array([_scores(name, figures[name], count, seed) for name in names]).reshape(len(names), count)
    values = np.empty_like(scores)
    for row, name in enumerate(names):
        figure = figures[name]
        if name.startswith("shake:"):
            values[row] = figure.value * np.exp(scores[row] * math.log1p(figure.spread / figure.value) / 2.0)
        else:
            values[row] = figure.value + scores[row] * figure.spread / 2.0
    return Draws(names, values, scores)


def _scores(name: str, figure: Figure, count: int, seed: int) -> np.ndarray:
    own = zlib.crc32(f"{seed} {name} {figure.value:.9g} {figure.spread:.9g}".encode())
    random = np.random.default_rng(own)
    return np.asarray(ndtri((random.permutation(count) + random.random(count)) / count))


def motion_case(side: TrainSide, position: ValvePosition, drawn: Mapping[str, float] | None = None) -> MotionCase:
    """The motion of one valve; `drawn` takes the place of the figures it names.

    `shape`, how well the flank is known, scales the inertia of the moving parts: what it does to acceleration, it does to force.
    """
    figures = motion_figures(side)
    x = {name: figure.value for name, figure in figures.items()} | dict(drawn or {})
    lift = x["lift"] - x["clearance"]
    height = x["installed_height"] + position.deviation - x["spring_shim"]
    springs = []
    for number, packed in enumerate(side.springs):
        if f"drop_{number}" in x:
            squeeze = x[f"drop_{number}"] - position.deviation + x["spring_shim"]
        else:
            squeeze = x[f"load_height_{number}"] - (height - x[f"step_{number}"])
        rate, bend = x[f"rate_{number}"], x.get(f"bend_{number}", packed.spring.bend.value)
        step = x.get(f"step_{number}", packed.step.value)
        room = height - step - x[f"solid_{number}"]
        if drawn and (packed.spring.solid_height.basis is Basis.ESTIMATE or room < lift):
            # an estimated solid height was drawn from lift and height; one draw that binds is the business of the coil-bind check
            room = max(room, lift + 0.2e-3)
        preload = x[f"load_{number}"] + squeeze * (rate + bend * squeeze)
        springs.append(
            MovingSpring(
                rate=rate + 2.0 * bend * squeeze,
                preload=max(preload, 1.0) if drawn else preload,
                mass=x[f"mass:spring {number}"],
                room=room,
                damping=x["shake:spring_damping"],
                bend=bend,
            )
        )
    mass = sum(value for name, value in x.items() if name.startswith("mass:") and not name.startswith("mass:spring"))
    return MotionCase(
        curve=side.curve,
        clearance=x["clearance"],
        mass=mass * x["shape"],
        springs=tuple(springs),
        train_stiffness=x["shake:train_stiffness"],
        train_damping=x["shake:train_damping"],
        seat_stiffness=x["shake:seat_stiffness"],
        seat_damping=x["shake:seat_damping"],
        clash=x["shake:clash"],
        lift_scale=x["lift"] / side.lift.value,
        width_scale=x["duration"] / side.duration.value,
        rounding=x.get("shake:rounding", 0.0),
    )
