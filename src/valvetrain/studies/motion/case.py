"""From one valve of a side to the case its motion is computed of, at its figures or at a draw of them."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from valvetrain.parts.cam_card import CamCard
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.figure import Basis, Figure, estimate
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion.sweep import MotionCase, MovingSpring
from valvetrain.studies.train.float_rows import LOBE, float_rows, scores
from valvetrain.studies.train.priors import ROWS
from valvetrain.studies.train.side_figures import float_figures, motion_names

TRUSTED = 0.30  # greatest spread of the lobe's acceleration with which a motion is worth computing. Source: judgement


# A card tells heights, not how the corners between ramp and flank are ground: half width of the rounding, rad of cam. Source: judgement
_ROUNDING = estimate(math.radians(6.0), 0.5)


@dataclass(frozen=True, eq=False)
class Draws:
    """`count` cases drawn from figures: one row a name, one column a case. `scores` are the standard normal scores behind them; `lobes` the
    number of each case's lobe among those that the card may be, None where the lobe is known; `rigid` each case's rigid float, rev/s."""

    names: tuple[str, ...]
    values: np.ndarray
    scores: np.ndarray
    lobes: np.ndarray | None = None
    rigid: np.ndarray | None = None

    def case(self, number: int) -> dict[str, float]:
        """One case as numbers by name."""
        return dict(zip(self.names, self.values[:, number].tolist(), strict=True))


def motion_figures(side: TrainSide) -> dict[str, Figure]:
    """Every figure that the motion of a valve rests on, by name; those of `float_figures`, solid heights, and how the train shakes."""
    figures = float_figures(side) | {f"shake:{key}": figure for key, figure in side.vibration.items()} | motion_names(side)
    if isinstance(side.cam.shape, CamCard) and side.cam.lobes is None:
        figures["shake:rounding"] = _ROUNDING
    return figures


def draw(figures: Mapping[str, Figure], count: int, seed: int = 1) -> Draws:
    """Latin hypercube of `count` cases: each figure normal with half its spread (k = 2), those that shake by a factor (log-normal).

    The scores of a name follow from the name and its figure alone: the same part in two set-ups is drawn alike in both.
    Source: gum_mc for drawing from the stated distributions; the hypercube only spreads few draws evenly.
    """
    names = tuple(name for name, figure in figures.items() if figure.spread > 0.0)
    table = np.array([scores(name, figures[name], count, seed) for name in names]).reshape(len(names), count)
    values = np.empty_like(table)
    for row, name in enumerate(names):
        figure = figures[name]
        if name.startswith("shake:"):
            values[row] = figure.value * np.exp(table[row] * math.log1p(figure.spread / figure.value) / 2.0)
        else:
            values[row] = figure.value + table[row] * figure.spread / 2.0
    return Draws(names, values, table)


def draw_side(side: TrainSide, position: ValvePosition, count: int, like: TrainSide | None = None) -> Draws:
    """Cases of one valve: rows of its float that stand for all of them, with the lobe of each; what only shakes is drawn by `draw`.

    `like` is the side whose rows are taken, so that two set-ups are drawn alike: the stock one, or the one that was seen.
    """
    figures = motion_figures(side)
    own = side if like is None else like
    picks = own.joint.picks(count) if own.joint else np.linspace(0, ROWS - 1, count).astype(int)
    rows = float_rows(side, position)
    apart = draw({name: figure for name, figure in figures.items() if name not in rows.columns}, count)
    names, values, table = list(rows.columns), [], []
    for column in rows.columns.values():
        picked = column[picks]
        values.append(picked)
        table.append((picked - column.mean()) / max(float(column.std()), 1e-30))
    for name, value, score in zip(apart.names, apart.values, apart.scores, strict=True):
        joined = side.joint.column(name, figures[name]) if side.joint else None
        names.append(name)
        values.append(value if joined is None else joined[picks])
        table.append(score if joined is None else (joined[picks] - joined.mean()) / max(float(joined.std()), 1e-30))
    lobes = side.cam.lobes
    member = None if lobes is None else lobes.rows(ROWS)[picks]
    if rows.lobe is not None:
        names.append(LOBE + " ")
        values.append(np.ones(count))
        table.append((rows.lobe[picks] - rows.lobe.mean()) / max(float(rows.lobe.std()), 1e-30))
    return Draws(
        tuple(names), np.array(values).reshape(len(names), count), np.array(table).reshape(len(names), count), member, rows.speeds[picks]
    )


def drawn_case(side: TrainSide, position: ValvePosition, drawn: Draws, number: int) -> MotionCase:
    """One of the drawn cases, on its own lobe."""
    case = motion_case(side, position, drawn.case(number))
    if drawn.lobes is None or side.cam.lobes is None:
        return case
    return replace(case, curve=side.cam.lobes.curve(int(drawn.lobes[number])))


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
        whole, active = max(x[f"mass:spring {number}"], 1e-4), min(max(x[f"active_{number}"], 0.3), 1.0)
        springs.append(
            MovingSpring(
                rate=rate + 2.0 * bend * squeeze,
                preload=max(preload, 1.0) if drawn else preload,
                mass=whole * active,
                end=whole * (1.0 - active) / 2.0,
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
