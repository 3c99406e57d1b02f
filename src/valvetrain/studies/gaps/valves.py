"""Room between the valves: heads against one another over crank angle and phasers, and against the bore."""

import math
import threading
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from cachetools import LRUCache, cached
from numpy.typing import NDArray
from scipy.interpolate import RectBivariateSpline

from valvetrain.formulas.piston_gaps import disc_gap
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure, FigureMap
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.gaps.geometry import RoomGeometry
from valvetrain.studies.gaps.piston import MAP_ANGLES, MAP_POSITIONS, crank_grid, lift_over, phaser_ends

USUAL_SLIP = np.radians(15.0)  # crank rad shown either side of rest where no sprocket's teeth are told. Source: judgement

Array = NDArray[np.float64]

_OVERLAP = np.radians(np.linspace(-80.0, 80.0, 33))
_FINER = np.radians(np.linspace(-5.0, 5.0, 11))
_TABLE, _COARSE = 25, 11  # lifts of each side at which a map's distances are computed, and where only the least is looked for
_LOBES = 0.05e-3  # m, k = 2: what errors of both lobes do to heads that pass one another. Source: judgement
_STEP = 0.25  # share of a spread for its slope
_KEYS = ("angle", "height", "offset", "head_diameter", "margin", "apart")


def _figures(geometry: RoomGeometry) -> dict[str, Figure]:
    found = {"gasket": geometry.chamber.gasket}
    for side, place in geometry.places.items():
        found |= {f"{side}:{key}": getattr(place, key) for key in _KEYS}
    return found


def _head(numbers: Mapping[str, Array], side: Side, lift: Array) -> tuple[Array, Array, Array, Array]:
    """Centre of the face, axis up the stem, diameter, margin of n heads: x across towards the intake, y along the crank, z up the bore."""
    sign = 1.0 if side is Side.INTAKE else -1.0
    angle, diameter = numbers[f"{side}:angle"], numbers[f"{side}:head_diameter"]
    # the stem leans outwards with its upper end, so the head moves inwards as it opens; the outer edge is the lowest
    centre = np.stack(
        [
            sign * (numbers[f"{side}:offset"] - lift * np.sin(angle)),
            numbers[f"{side}:apart"] / 2.0,
            numbers["gasket"] + numbers[f"{side}:height"] + diameter / 2.0 * np.sin(angle) - lift * np.cos(angle),
        ],
        axis=1,
    )
    axis = np.stack([sign * np.sin(angle), np.zeros_like(angle), np.cos(angle)], axis=1)
    return centre, axis, diameter, numbers[f"{side}:margin"]


def heads_apart(numbers: Mapping[str, Array], intake: Array, exhaust: Array) -> Array:
    """Least distance (m) between an intake head and the exhaust head across from it, for n pairs of lifts (m).

    Each head is a disc with a margin: face and upper edge of one against those of the other. Zero where they cut.
    """
    one, two = _head(numbers, Side.INTAKE, intake), _head(numbers, Side.EXHAUST, exhaust)
    count = len(intake)
    edges = [(up_1, up_2) for up_1 in (0.0, 1.0) for up_2 in (0.0, 1.0)]
    first, second = (
        np.concatenate([head[0] + up[number] * head[3][:, None] * head[1] for up in edges]) for number, head in enumerate((one, two))
    )
    tiled = [np.tile(each, (4, 1)) if each.ndim == 2 else np.tile(each, 4) for each in (one[1], one[2], two[1], two[2])]
    return np.asarray(disc_gap(first, tiled[0], tiled[1], second, tiled[2], tiled[3]).reshape(4, count).min(axis=0))


def _spread_out(figures: Mapping[str, Figure], count: int) -> dict[str, Array]:
    return {name: np.full(count, figure.value) for name, figure in figures.items()}


@dataclass(frozen=True)
class HeadsApart:
    """The least distance between two heads, m: crank angle (rad), advances of intake and exhaust there, lifts, spread, what decides."""

    value: float
    at: float
    advance: tuple[float, float]
    lifts: tuple[float, float]
    spread: float
    shares: tuple[tuple[str, float], ...]
    estimated: float


def _advances(engine: FigureMap, side: Side, count: int) -> Array:
    ends = phaser_ends(engine, side)
    return np.linspace(*ends, count) if ends[1] > ends[0] else np.array([ends[1]])


def _table(figures: Mapping[str, Figure], intake: Array, exhaust: Array, count: int) -> RectBivariateSpline:
    """Distances over both lifts, from a grid of `count` each up to the greatest: they change smoothly, so a spline reads between."""
    first, second = (np.linspace(0.0, max(float(lifts.max()), 1e-4), count) for lifts in (intake, exhaust))
    one, two = (grid.ravel() for grid in np.meshgrid(first, second, indexing="ij"))
    return RectBivariateSpline(first, second, heads_apart(_spread_out(figures, len(one)), one, two).reshape(count, count))


def _same_heads(geometry: RoomGeometry, trains: Mapping[Side, TrainSide], engine: FigureMap) -> tuple[object, ...]:
    """All that the distance of the heads follows from. Lift curves are kept once by what they are of, and named by themselves."""
    phasers = tuple(tuple(phaser_ends(engine, side)) for side in Side)
    lobes = tuple((trains[side].curve, trains[side].clearance, trains[side].lobe_centre) for side in Side)
    return (tuple(_figures(geometry).items()), phasers, lobes)


@cached(LRUCache(maxsize=128), key=_same_heads, lock=threading.Lock())
def least_apart(geometry: RoomGeometry, trains: Mapping[Side, TrainSide], engine: FigureMap) -> HeadsApart:
    """The least distance of heads across from one another, over the whole range of both phasers."""
    figures = _figures(geometry)
    inlet, outlet = (_advances(engine, side, 7) for side in (Side.INTAKE, Side.EXHAUST))
    pairs = [(float(a), float(b)) for a in inlet for b in outlet]
    intake = np.stack([lift_over(trains[Side.INTAKE], _OVERLAP, a) for a, _ in pairs])
    exhaust = np.stack([lift_over(trains[Side.EXHAUST], _OVERLAP, b) for _, b in pairs])
    row = 0
    if len(pairs) > 1:
        row = int(_table(figures, intake, exhaust, _COARSE).ev(intake, exhaust).min(axis=1).argmin())
    coarse = heads_apart(_spread_out(figures, len(_OVERLAP)), intake[row], exhaust[row])
    about = float(_OVERLAP[int(coarse.argmin())]) + _FINER
    near = [lift_over(trains[side], about, pairs[row][number]) for number, side in enumerate((Side.INTAKE, Side.EXHAUST))]
    found = heads_apart(_spread_out(figures, len(about)), *near)
    pick = int(found.argmin())
    unsure = [name for name, figure in figures.items() if figure.spread > 0.0]
    numbers = _spread_out(figures, 2 * len(unsure))
    for place, name in enumerate(unsure):
        numbers[name][2 * place] += _STEP * figures[name].spread
        numbers[name][2 * place + 1] -= _STEP * figures[name].spread
    lifts = float(near[0][pick]), float(near[1][pick])
    both = heads_apart(numbers, *(np.full(2 * len(unsure), lift) for lift in lifts))
    squares = {name: float((both[2 * n] - both[2 * n + 1]) / (2.0 * _STEP)) ** 2 for n, name in enumerate(unsure)}
    total = sum(squares.values()) + _LOBES**2
    ranked = sorted(((f"room:{name}", square / total) for name, square in squares.items()), key=lambda item: -item[1])
    estimated = sum(square for name, square in squares.items() if figures[name].basis == "estimate") / total
    return HeadsApart(
        float(found[pick]), float(about[pick]), pairs[row], lifts, math.sqrt(total), tuple(ranked[:4]), estimated
    )  # fmt: skip


def apart_map(
    geometry: RoomGeometry, trains: Mapping[Side, TrainSide], engine: FigureMap, side: Side, advances: Array | None = None
) -> tuple[Array, Array, Array]:  # fmt: skip
    """Distance of heads (m) over one side's advance (rows; its phaser's range unless given) and crank angle (columns), the other at rest."""
    advances, angle = _advances(engine, side, MAP_POSITIONS) if advances is None else advances, crank_grid()
    inlet, outlet = (
        np.broadcast_to(lift_over(trains[each], angle[None, :], advances[:, None] if each is side else 0.0), (len(advances), MAP_ANGLES))
        for each in (Side.INTAKE, Side.EXHAUST)
    )
    near = np.abs(angle) < math.radians(90.0)
    return (
        advances,
        angle,
        _table(_figures(geometry), inlet[:, near], outlet[:, near], _TABLE).ev(
            np.minimum(inlet, inlet[:, near].max()), np.minimum(outlet, outlet[:, near].max())
        ),
    )


_TURNS = np.radians(np.arange(0.0, 360.0, 5.0))


def bore_reach(numbers: Mapping[str, float], lift: float, turn: Array = _TURNS) -> tuple[float, float]:
    """Farthest a head's edge stands from the bore's axis where it is below the gasket face, from shut to a lift, m; and at which turn of
    the rim (rad), zero outwards."""
    rise = np.linspace(0.0, lift, 25)[:, None]
    a, r = numbers["angle"], numbers["head_diameter"] / 2.0
    x = numbers["offset"] - rise * math.sin(a) + r * np.cos(turn) * math.cos(a)
    y = numbers["apart"] / 2.0 + r * np.sin(turn)
    z = numbers["height"] + r * math.sin(a) - rise * math.cos(a) - r * np.cos(turn) * math.sin(a)
    reach = np.where(z <= 0.0, np.hypot(x, y), 0.0)
    pick = int(reach.argmax()) % len(turn)
    return float(reach.max()), float(turn[pick])


def bore_gap(numbers: Mapping[str, float], bore: float, lift: float) -> float:
    """Least gap (m) between a head's edge and the bore's wall from shut to a lift, where the edge is below the gasket face."""
    return bore / 2.0 - bore_reach(numbers, lift)[0]
