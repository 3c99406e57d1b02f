"""Room between valves and piston: over the crank angle, through the phaser's range, from geometry or from what was measured."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valvetrain.formulas.piston_gaps import rim_gap, stem_gap
from valvetrain.formulas.slider_crank import piston_travel
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.parts.gaps import GapKind, GapReading
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.cams.cam_events import centre_of
from valvetrain.studies.gaps.geometry import RoomGeometry, computed_rest, rest_figures
from valvetrain.studies.train.uncertainty import Numbers, propagate
from valvetrain.units import LENGTH, amount

Array = NDArray[np.float64]

MAP_POSITIONS, MAP_ANGLES = 41, 721
_ABOUT_TDC = np.radians(np.linspace(-75.0, 75.0, 301))  # where a piston comes near a valve
# What makers leave between piston and valve, over the whole range of a phaser, m. Source: judgement
_STOCK_GAP, _STOCK_SPREAD = 2.2e-3, 1.2e-3
_SAME = 2e-6  # m; a reading whose rest gap follows from the present cam to this was taken with it


def crank_grid() -> Array:
    """Crank angles (rad) from half a turn before overlap TDC to half a turn after, every half degree."""
    return np.radians(np.linspace(-180.0, 180.0, MAP_ANGLES))


def lift_over(train: TrainSide, angle: Array, advance: float | Array = 0.0, extra: Numbers | None = None) -> Array:
    """Lift of the valve (m, clearance off) over crank angles; `advance` crank rad earlier. `extra` replaces lift, duration, clearance,
    centre by name."""
    given = extra or {}
    curve = train.curve
    width = given.get("duration", train.duration.value) / train.duration.value
    scale = given.get("lift", train.lift.value) / train.lift.value
    sign = 1.0 if train.side is Side.INTAKE else -1.0
    centre = sign * given["lobe_centre"] if "lobe_centre" in given else centre_of(train)
    cam = (angle + advance - centre) / 2.0
    return np.maximum(curve.lift_at(cam / width) * scale - given.get("clearance", train.clearance.value), 0.0)


@lru_cache(maxsize=64)
def _travel_kept(stroke: float, rod: float, offset: float, key: bytes) -> Array:
    return piston_travel(stroke, rod, offset, np.frombuffer(key))


def travel_of(geometry: RoomGeometry, angle: Array) -> Array:
    """Way of the piston down from its top (m) over crank angles from overlap TDC."""
    chamber = geometry.chamber
    return _travel_kept(chamber.stroke.value, chamber.rod.value, chamber.pin_offset.value, np.ascontiguousarray(angle).tobytes())


def phaser_ends(engine: FigureMap, side: Side) -> tuple[float, float]:
    """How far a side's phaser goes, crank rad: most retarded (negative or zero) and most advanced."""
    retard, advance = (engine.get(f"phaser_{side}_{way}") for way in ("retard", "advance"))
    return -(retard.value if retard else 0.0), advance.value if advance else 0.0


def gap_over(geometry: RoomGeometry, train: TrainSide, rest: float, angle: Array, advance: float | Array = 0.0) -> Array:
    """Gap along the stem (m) over crank angles."""
    place = geometry.places[train.side]
    return stem_gap(rest, travel_of(geometry, angle), place.angle.value, place.pocket_angle.value, lift_over(train, angle, advance))


def rest_of_reading(geometry: RoomGeometry, train: TrainSide, gap: float, angle: float | None) -> float:
    """The gap at rest (m) that a piston reading comes to with this cam: at its crank angle, or for clay (None) where it is least."""
    at = _ABOUT_TDC if angle is None else np.array([angle])
    return gap - float(gap_over(geometry, train, 0.0, at).min())


@dataclass(frozen=True)
class RestGap:
    """The gap at rest of one side's tightest valve: value with spread (m, k = 2), how it is known and which valve.

    `same_cam` when the readings were taken with the cam that is in: then errors of its lift are in them already. `by_valve` holds the
    measured ones; `computed` what geometry alone says, where all of it is told.
    """

    figure: Figure
    how: str
    valve: str
    same_cam: bool
    by_valve: Mapping[str, Figure]
    computed: Figure | None
    notes: tuple[str, ...]


def _mean(rows: list[GapReading]) -> Figure:
    rests = np.array([row.rest for row in rows], dtype=float)
    weights = np.array([1.0 / max(row.spread, 1e-6) ** 2 for row in rows])
    value = float((rests * weights).sum() / weights.sum())
    scatter = 2.0 * float(rests.std(ddof=1)) / math.sqrt(len(rows)) if len(rows) > 2 else 0.0
    # readings of one set-up share their zero, so that many of them do not make it much surer than one
    shared = min(row.spread for row in rows) / math.sqrt(2.0)
    return Figure(value, max(scatter, math.hypot(shared, 1.0 / math.sqrt(float(weights.sum())))), Basis.MEASURED)


def _odd_points(valve: str, rows: list[GapReading], mean: Figure) -> list[str]:
    found = []
    for row in rows:
        off = (row.rest or 0.0) - mean.value
        if len(rows) > 2 and abs(off) > 2.0 * row.spread:
            where = "" if row.angle is None else f" at {math.degrees(row.angle):.0f}°"
            found.append(
                f"{valve}: the {row.way.value}{where} is {amount(abs(off), LENGTH)} {'more' if off > 0 else 'less'} than the others say. Read it again."
            )
    return found


def _estimated_rest(geometry: RoomGeometry, stock: TrainSide, ends: tuple[float, float]) -> Figure:
    """From what makers leave with the stock cam, so that the proposed one is judged by what it takes of that."""
    least = min(float(gap_over(geometry, stock, 0.0, _ABOUT_TDC, end).min()) for end in ends)
    return Figure(_STOCK_GAP - least, _STOCK_SPREAD, Basis.ESTIMATE)


def rest_gap(
    geometry: RoomGeometry, train: TrainSide, stock: TrainSide, readings: tuple[GapReading, ...], ends: tuple[float, float]
) -> RestGap:  # fmt: skip
    """The gap at rest: measured where somebody measured, else computed where all geometry is told, else an estimate."""
    side, notes = train.side, []
    own = [row for row in readings if row.gap is GapKind.PISTON_VALVE and row.side is side and row.rest is not None]
    by_valve: dict[str, Figure] = {}
    for valve in dict.fromkeys(row.valve for row in own):
        rows = [row for row in own if row.valve == valve]
        by_valve[valve] = _mean(rows)
        notes += _odd_points(valve, rows, by_valve[valve])
    computed = None
    if geometry.rest_known[side]:
        found = propagate(computed_rest, rest_figures(geometry, side))
        computed = Figure(found.value, found.spread, Basis.MEASURED)
    if by_valve:
        valve = min(by_valve, key=lambda name: by_valve[name].value)
        figure = by_valve[valve]
        rows = [row for row in own if row.valve == valve]
        same = all(abs(rest_of_reading(geometry, train, row.value, row.angle) - (row.rest or 0.0)) < _SAME for row in rows)
        if computed and abs(computed.value - figure.value) > math.hypot(computed.spread, figure.spread):
            notes.append(
                f"Measured and computed disagree on the {side} side by {amount(abs(computed.value - figure.value), LENGTH)}, more than both "
                "leave open. The measured one is used; check deck, gasket, pocket and head height."
            )
        count = f", {len(rows)}" if len(rows) > 1 else ""
        return RestGap(figure, f"{rows[0].way.value}{count}", valve, same, by_valve, computed, tuple(notes))
    if computed:
        return RestGap(computed, "computed", "", False, {}, computed, ())
    return RestGap(_estimated_rest(geometry, stock, ends), "estimate", "", False, {}, None, ())


@dataclass(frozen=True)
class LeastGap:
    """The least gap of a side over the phaser's range, m: where (crank rad), at which advance (crank rad), spread and what decides.

    `early`, `late`: the least gap one tooth early or late of that (None without a sprocket's teeth).
    """

    side: Side
    rest: RestGap
    value: float
    at: float
    advance: float
    spread: float
    shares: tuple[tuple[str, float], ...]
    early: float | None
    late: float | None


def _least(geometry: RoomGeometry, train: TrainSide, rest: float, advances: Array) -> tuple[float, float, float]:
    gaps = gap_over(geometry, train, rest, _ABOUT_TDC[None, :], advances[:, None])
    row, column = np.unravel_index(int(gaps.argmin()), gaps.shape)
    return float(gaps[row, column]), float(_ABOUT_TDC[column]), float(advances[row])


def least_gap(
    geometry: RoomGeometry, train: TrainSide, stock: TrainSide, readings: tuple[GapReading, ...], engine: FigureMap
) -> LeastGap:  # fmt: skip
    """The least gap between piston and the valves of a side, with its spread and what a slipped tooth would leave."""
    ends = phaser_ends(engine, train.side)
    rest = rest_gap(geometry, train, stock, readings, ends)
    advances = np.linspace(*ends, 9) if ends[1] > ends[0] else np.array([ends[1]])
    value, at, advance = _least(geometry, train, rest.figure.value, advances)
    place, window = geometry.places[train.side], np.array([at])
    figures = {"rest": rest.figure}
    if rest.how == "computed":
        figures = rest_figures(geometry, train.side)
    if not rest.same_cam:
        figures |= {"lift": train.lift, "duration": train.duration, "lobe_centre": train.lobe_centre, "clearance": train.clearance}

    def model(x: Numbers) -> float:
        tilt, floor = x.get("angle", place.angle.value), x.get("pocket_angle", place.pocket_angle.value)
        zero = x["rest"] if "rest" in x else computed_rest(x)
        return float(stem_gap(zero, travel_of(geometry, window), tilt, floor, lift_over(train, window, advance, x))[0])

    found = propagate(model, figures)
    early = late = None
    teeth = engine.get("sprocket_teeth")
    if teeth:
        tooth = 4.0 * math.pi / teeth.value
        early, late = (_least(geometry, train, rest.figure.value, advances + sign * tooth)[0] for sign in (1.0, -1.0))
    shares = tuple((f"room:{name}", share) for name, share in found.shares)
    return LeastGap(
        side=train.side, rest=rest, value=value, at=at, advance=advance, spread=found.spread, shares=shares, early=early, late=late
    )


def least_rim(geometry: RoomGeometry, train: TrainSide, rest: float, advance: float) -> float | None:
    """Least gap beside the head while it stands in its pocket, m; None where it never does, or there is no pocket."""
    place = geometry.places[train.side]
    if place.pocket_depth.value <= 0.0:
        return None
    gaps = gap_over(geometry, train, rest, _ABOUT_TDC, advance)
    inside = gaps < place.pocket_depth.value
    if not inside.any():
        return None
    beside = rim_gap(
        place.pocket_diameter.value,
        place.head_diameter.value,
        place.pocket_offset.value,
        travel_of(geometry, _ABOUT_TDC),
        place.angle.value,
    )
    return float(beside[inside].min())
