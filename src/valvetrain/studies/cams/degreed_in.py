"""How far a cam stands from where it should, and what would bring it there: teeth and slots."""

import math
from dataclasses import dataclass

from valvetrain.errors import ValveTrainError
from valvetrain.formulas.cam_timing import slot_step, tooth_step
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import FigureMap
from valvetrain.studies.checks.check import Verdict

_AS_GOOD, _FAR = math.radians(1.0), math.radians(4.0)  # crank rad: what a wheel tells, and what is felt. Source: common practice, no source


@dataclass(frozen=True)
class Correction:
    """What an error of the lobe centre asks for: the way, and whatever leaves least, `count` steps of `name` that leave `left` (crank rad).

    `way` is empty within what a wheel tells; `count` is 0 where nothing can be moved, or less than half a step is asked for (`steps` tells which).
    """

    verdict: Verdict
    error: float
    way: str = ""
    name: str = ""
    count: int = 0
    moved: float = 0.0
    left: float = 0.0
    steps: bool = False


def steps_of(engine: FigureMap) -> list[tuple[str, float]]:
    """What can be moved and by how much, crank rad; largest first."""
    found = []
    try:
        if "sprocket_teeth" in engine:
            found.append(("tooth", tooth_step(round(engine["sprocket_teeth"].value))))
        if {"sprocket_holes", "flange_holes"} <= engine.keys():
            found.append(("slot", slot_step(round(engine["sprocket_holes"].value), round(engine["flange_holes"].value))))
    except ValveTrainError:
        return found
    return found


def correction(error: float, side: Side, engine: FigureMap) -> Correction:
    """Judge an error of the lobe centre (crank rad, positive means too far from overlap TDC)."""
    if abs(error) < _AS_GOOD:
        return Correction(Verdict.HOLDS, error)
    verdict = Verdict.SHORT if abs(error) > _FAR else Verdict.SLIM
    # an intake that stands too late must be advanced; an exhaust whose centre lies too far before TDC must be retarded
    way = ("advance" if error > 0 else "retard") if side is Side.INTAKE else ("retard" if error > 0 else "advance")
    moves = [(name, step, round(abs(error) / step)) for name, step in steps_of(engine)]
    helps = [(abs(abs(error) - count * step), name, count, step) for name, step, count in moves if count]
    if not helps:
        return Correction(verdict, error, way, steps=bool(moves))
    left, name, count, step = min(helps)  # whichever leaves the least
    return Correction(verdict, error, way, name, count, count * step, left, steps=True)
