"""Which cam caps to draw down first: where the shaft lies best before a cap is on, what each lobe pushes, what each cap must bear."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import Side
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.cams.cam_events import centre_of
from valvetrain.studies.clearance.measuring_plan import Firing
from valvetrain.studies.train.side_figures import nominal_force

Array = NDArray[np.float64]

_STEP = 5.0  # degrees of crank between the positions that are tried
_PUSHES = 0.02e-3  # m of lift beyond the clearance from which a lobe pushes. Source: judgement
_HALF = 0.5  # turns of a bolt at a time. Source: trade
_APART = 0.3  # bore pitches between the two lobes of a cylinder and its cap in the middle. Source: judgement


class Layout(StrEnum):
    """Where the caps of a camshaft stand."""

    MIDDLE = "middle"
    BETWEEN = "between"


@dataclass(frozen=True)
class Lobe:
    """One lobe of a shaft at a station (bore pitches from cylinder 1): lift (m) towards the follower at a position, and push (N) up on the shaft."""

    name: str
    station: float
    lift: float
    push: float


@dataclass(frozen=True)
class Cap:
    """One cap: its number from the drive end, station, load (N, what the lobes push it up with), height (m) at which the shaft lies under it, the place in
    the order in which it is drawn down, and whether it takes the thrust."""

    number: int
    station: float
    load: float
    height: float
    turn: int
    thrust: bool


@dataclass(frozen=True)
class CapPlan:
    """How to lay a shaft in and draw its caps down. `angle` degrees of crank after the first cylinder's TDC of compression; `rests` when no lobe pushes there;
    `tilt` is the slope (m per bore pitch) with which the shaft lies on its lobes; `rounds` how many rounds of half a turn until all caps touch."""

    angle: float
    rests: bool
    tilt: float
    lobes: tuple[Lobe, ...]
    caps: tuple[Cap, ...]
    rounds: int


def lie_of(stations: Sequence[float], lifts: Sequence[float], middle: float) -> tuple[float, float]:
    """Height at zero and slope of a stiff shaft that lies on its lobes by its own weight: the lowest line over all points, at its middle.

    A line over points is lowest at the middle on that edge of their upper hull which stands over it (a linear programme; source: statics).
    """
    x, y = np.asarray(stations, dtype=float), np.asarray(lifts, dtype=float)
    best = (math.inf, 0.0, 0.0)
    for one in range(x.size):
        for two in range(one, x.size):
            slope = 0.0 if abs(x[two] - x[one]) < 1e-9 else float((y[two] - y[one]) / (x[two] - x[one]))
            zero = float(y[one]) - slope * float(x[one])
            over = zero + slope * x
            height = zero + slope * middle
            if np.all(over >= y - 1e-12) and (height, abs(slope)) < (best[0] - 1e-15, math.inf):
                best = (height, zero, slope)
    return best[1], best[2]


def shares(station: float, supports: Sequence[float]) -> list[float]:
    """What part of a force at a station each support takes: by the lever between its two neighbours, beyond the last one by the lever of the last two
    (then one of them is pulled down). Source: statics. Raises ContradictionError with no support."""
    if not supports:
        raise ContradictionError("A shaft without a cap lies on nothing.")
    found = [0.0] * len(supports)
    if len(supports) == 1:
        return [1.0]
    right = next((n for n, each in enumerate(supports) if each >= station), len(supports) - 1)
    right = max(right, 1)
    left = right - 1
    part = (station - supports[left]) / (supports[right] - supports[left])
    found[left], found[right] = 1.0 - part, part
    return found


def _stations(train: TrainSide, layout: Layout) -> dict[str, float]:
    by_cylinder: dict[int, list[str]] = {}
    for place in train.positions:
        by_cylinder.setdefault(place.cylinder, []).append(place.name)
    apart = _APART if layout is Layout.MIDDLE else _APART / 2.0
    found = {}
    for cylinder, names in by_cylinder.items():
        lobes = names[:1] if train.on_a_lobe > 1 else names
        for number, name in enumerate(lobes):
            found[name] = cylinder + (0.0 if len(lobes) == 1 else apart * (2.0 * number / (len(lobes) - 1) - 1.0))
    return found


def cap_stations(cylinders: int, layout: Layout) -> list[float]:
    """Where the caps stand, in bore pitches; cylinder 1 stands at 1. In the middle: one over each cylinder, and one at the drive end; between: one on each
    side of every cylinder."""
    if layout is Layout.MIDDLE:
        return [0.45, *(float(number) for number in range(1, cylinders + 1))]
    return [number + 0.5 for number in range(cylinders + 1)]


def lobes_at(train: TrainSide, firing: Firing, angle: float, ratio: float, layout: Layout) -> list[Lobe]:
    """The lobes of one shaft at a crank angle (degrees): how far each stands over its follower, and what its springs push. `ratio` is valve lift over lobe lift."""
    stations = _stations(train, layout)
    found = []
    for place in train.positions:
        if place.name not in stations:
            continue
        past = (angle - firing.at[place.cylinder] - 360.0 - math.degrees(centre_of(train)) + 360.0) % 720.0 - 360.0
        lift = float(train.curve.lift_at(np.array([math.radians(past) / 2.0]))[0]) - train.clearance.value
        push = float(nominal_force(train, place, np.array([lift]))[0]) * ratio * train.on_a_lobe if lift > _PUSHES else 0.0
        found.append(Lobe(place.name, stations[place.name], max(lift, 0.0) / ratio, push))
    return found


def _weighed(lobes: Sequence[Lobe], supports: Sequence[float]) -> list[float]:
    loads = [0.0] * len(supports)
    for lobe in lobes:
        for number, part in enumerate(shares(lobe.station, supports)):
            loads[number] += part * lobe.push
    return loads


def _order(loads: Sequence[float], thrust: int, *, evenly: bool) -> list[int]:
    count = len(loads)
    middle = (count - 1) / 2.0
    inward = sorted(range(count), key=lambda n: (abs(n - middle), n))
    first = inward if evenly else sorted(inward, key=lambda n: -round(loads[n], 3))
    return [n for n in first if n != thrust] + [thrust]


def plan_caps(
    train: TrainSide, firing: Firing, *, ratio: float = 1.0, layout: Layout = Layout.MIDDLE, thrust_last: bool = False, evenly: bool = False,
    angle: float | None = None, pitch: float = 1e-3,
) -> CapPlan:  # fmt: skip
    """Where the shaft lies best, and its caps in the order to draw them down: over pushing lobes first, or evenly from the middle, the thrust cap always last.

    The thrust cap is the one at the drive end, or at the far end with `thrust_last`. Among all crank positions one where no lobe pushes is taken, nearest to a TDC mark;
    where there is none, the one at which the shaft lies most level, then with the least load on its worst cap. `pitch` (m) of the bolts.
    Raises ContradictionError for a side without a lobe.
    """
    cylinders = max((place.cylinder for place in train.positions), default=0)
    if not cylinders:
        raise ContradictionError("This side has no valve: there is no cam to lay in.")
    supports = cap_stations(cylinders, layout)
    middle = (supports[0] + supports[-1]) / 2.0
    marks = sorted(firing.at.values())

    def judged(at: float) -> tuple[float, float, float, float]:
        lobes = lobes_at(train, firing, at, ratio, layout)
        _, slope = lie_of([lobe.station for lobe in lobes], [lobe.lift for lobe in lobes], middle)
        near = min(abs((at - mark + 360.0) % 720.0 - 360.0) for mark in marks)
        pushing = sum(lobe.push for lobe in lobes)
        return (
            0.0 if pushing == 0.0 else 1.0,
            round(abs(slope) * 1e4) if pushing else 0.0,
            max(_weighed(lobes, supports), default=0.0),
            near,
        )

    at = angle if angle is not None else min((float(a) for a in np.arange(0.0, 720.0, _STEP)), key=judged)
    lobes = lobes_at(train, firing, at, ratio, layout)
    zero, slope = lie_of([lobe.station for lobe in lobes], [lobe.lift for lobe in lobes], middle)
    loads = _weighed(lobes, supports)
    thrust = len(supports) - 1 if thrust_last else 0
    order = _order(loads, thrust, evenly=evenly)
    heights = [max(zero + slope * each, 0.0) for each in supports]
    caps = tuple(
        Cap(number + 1, station, loads[number], heights[number], order.index(number) + 1, number == thrust)
        for number, station in enumerate(supports)
    )
    rounds = math.ceil(max(heights) / (pitch * _HALF)) if max(heights) > 0.0 else 0
    return CapPlan(at, not any(lobe.push for lobe in lobes), slope, tuple(lobes), caps, rounds)


def lobes_push_up(follower: str) -> bool:
    """Whether the lobes push the shaft out of its bed: over buckets and fingers they do; a rocker lies over the shaft and presses it down."""
    return follower in ("bucket", "finger")


def plans_of(trains: Mapping[Side, TrainSide], firing: Firing, **how: float | bool | Layout | None) -> dict[Side, CapPlan]:
    """The plan of each shaft of a head with a camshaft to each side."""
    return {side: plan_caps(train, firing, **how) for side, train in trains.items()}  # type: ignore[arg-type]
