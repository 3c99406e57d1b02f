"""A head that was surfaced, or another gasket: what comes nearer, what the ratio becomes, and how far a chain lets the cams fall back."""

import math
from dataclasses import dataclass

from valvetrain.errors import ContradictionError
from valvetrain.formulas.driveline import cam_retard
from valvetrain.parts.engine import EngineKind, Gear
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.units import LENGTH, amount

_MM = 1e-3
_SHARE = estimate(0.85, 0.18)  # chamber opening at the face over the bore's area. Source: judgement
_GASKET = estimate(0.8 * _MM, 0.5)
_PITCH, _TEETH = 6.35 * _MM, 34.0  # of a small roller or silent chain, and of its cam sprocket. Source: judgement


@dataclass(frozen=True)
class HeadChange:
    """What surfacing and a new gasket do: compression ratio before and after, what piston and valves come nearer by (m), what the gasket alone
    leaves of the squish (m nearer), and how far each cam is retarded (crank rad; 0 where gears or push-rods drive it)."""

    ratio_before: Figure
    ratio: Figure
    nearer: float
    squish: float
    retard: float
    guessed: bool


def _ratio(engine: FigureMap, face: float, gasket: float, share: float, ratio: float) -> float:
    area = math.pi / 4.0 * engine["bore"].value ** 2
    swept = area * engine["stroke"].value
    left = swept / (ratio - 1.0) - area * (share * face + gasket)
    if left <= 0.05 * swept / (ratio - 1.0):
        raise ContradictionError(
            f"With {amount(face, LENGTH)} off the face and the gasket {amount(gasket, LENGTH)} thinner hardly any chamber is left: one figure is wrong."
        )
    return 1.0 + swept / left


def head_change(kind: EngineKind, engine: FigureMap) -> HeadChange | None:
    """What was changed, from completed engine figures; None where neither face nor gasket is. Raises ContradictionError when no chamber would be left."""
    face = engine["face_off"].value if "face_off" in engine else 0.0
    before = engine.get("gasket", _GASKET)
    thinner = before.value - engine["gasket_new"].value if "gasket_new" in engine else 0.0
    if not face and not thinner:
        return None
    share, told = engine.get("chamber_share", _SHARE), engine["compression"]
    middle = _ratio(engine, face, thinner, share.value, told.value)
    doubts = [
        _ratio(engine, face, thinner, share.value + share.spread, told.value) - middle,
        _ratio(engine, face, thinner, share.value, told.value + told.spread) - middle,
    ]
    return HeadChange(
        ratio_before=told,
        ratio=Figure(middle, math.hypot(*doubts), told.basis),
        nearer=face + thinner,
        squish=thinner + (face if share.value > 0.97 else 0.0),
        retard=_retard(kind, engine, face + thinner),
        guessed="cam_chain_pitch" not in engine or "sprocket_teeth" not in engine,
    )


def _retard(kind: EngineKind, engine: FigureMap, nearer: float) -> float:
    if kind.gear not in (Gear.DOHC, Gear.OHC):
        return 0.0
    pitch = engine["cam_chain_pitch"].value if "cam_chain_pitch" in engine else _PITCH
    teeth = engine["sprocket_teeth"].value if "sprocket_teeth" in engine else _TEETH
    distance = engine["cam_distance"].value if "cam_distance" in engine else engine["rod_length"].value * 1.8 + engine["stroke"].value
    # a gasket that is thicker than before turns the cams the other way
    sign = 1.0 if nearer >= 0.0 else -1.0
    return sign * 2.0 * cam_retard(abs(nearer), distance, pitch, teeth, teeth / 2.0)


def changed_engine(engine: FigureMap, change: HeadChange | None) -> FigureMap:
    """Engine figures of the proposed set-up: ratio, gasket, and heads that stand nearer the gasket face."""
    if change is None:
        return engine
    found = {**engine, "compression": change.ratio}
    if "gasket_new" in engine:
        found["gasket"] = engine["gasket_new"]
    face = engine["face_off"].value if "face_off" in engine else 0.0
    for side in ("intake", "exhaust"):
        key = f"head_height_{side}"
        if key in engine and face:
            found[key] = engine[key].plus(-face)
    return found


def later(centre: Figure, change: HeadChange | None, *, intake: bool) -> Figure:
    """A lobe centre (crank rad from overlap TDC) as the chain leaves it: a cam that was degreed in stands where it was measured."""
    if change is None or not change.retard or centre.basis is Basis.MEASURED:
        return centre
    return centre.plus(change.retard if intake else -change.retard)
