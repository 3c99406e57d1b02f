"""Where to stop the crank so that each valve sits safely on its base circle, in the fewest stops, turning forwards only."""

import itertools
import math
import re
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import Side, ValvePosition
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.cams.cam_events import centre_of

_CYCLE = 720.0
_STEP = 5.0  # crank degrees between places that are tried beside the TDC marks
_SAFE = 15.0  # crank degrees to stay away from either ramp. Source: judgement
_TOUCH = 1e-6  # m of lift at which a lobe is taken to have left its base circle
# Firing orders that most engines of a kind have; a twin is taken with a 360 degree crank. Source: trade
USUAL_ORDERS = {1: "1", 2: "1-2", 3: "1-3-2", 4: "1-3-4-2", 5: "1-2-4-5-3", 6: "1-5-3-6-2-4", 8: "1-5-4-8-6-3-7-2"}


@dataclass(frozen=True)
class Firing:
    """Crank angle (degrees, 0 to 720) of each cylinder's TDC of compression, by cylinder; the first to fire stands at 0."""

    at: Mapping[int, float]

    @property
    def order(self) -> tuple[int, ...]:
        """Cylinders as they fire."""
        return tuple(sorted(self.at, key=lambda cylinder: self.at[cylinder]))


def read_firing(text: str, cylinders: int) -> Firing:
    """`1-3-4-2` for even intervals, or `1@0 2@180` with crank degrees of each compression TDC.

    Raises ContradictionError with a sentence when a cylinder is missing, named twice or not there.
    """
    if "@" in text:
        pairs = [part.split("@") for part in re.split(r"[\s,;]+", text.strip()) if part]
        try:
            at = {int(number): float(angle) % _CYCLE for number, angle in pairs}
        except ValueError as error:
            raise ContradictionError(f"“{text}”: write each cylinder with its compression TDC, for example 1@0 2@180.") from error
        named = [int(pair[0]) for pair in pairs]
    else:
        try:
            named = [int(part) for part in re.split(r"[\s,;\-–]+", text.strip()) if part]
        except ValueError as error:
            raise ContradictionError(f"“{text}” is not a firing order: write for example 1-3-4-2.") from error
        at = {number: _CYCLE / max(len(named), 1) * place for place, number in enumerate(named)}
    wanted = set(range(1, cylinders + 1))
    if len(named) != len(set(named)):
        raise ContradictionError(f"“{text}” names a cylinder twice.")
    if set(named) != wanted:
        missing = ", ".join(str(number) for number in sorted(wanted - set(named))) or "none"
        raise ContradictionError(
            f"“{text}” does not fit {cylinders} cylinders: missing {missing}. Each once, for example {USUAL_ORDERS.get(cylinders, '1-2')}."
        )
    first = at[named[0]]
    return Firing({number: (angle - first) % _CYCLE for number, angle in at.items()})


@dataclass(frozen=True)
class Window:
    """Where one valve may be measured: from `start` over `width` crank degrees of the 720, counted from the first cylinder's
    compression TDC."""

    valve: str
    start: float
    width: float

    def holds(self, angle: float) -> bool:
        """Whether the valve sits safely on its base circle there."""
        return (angle - self.start) % _CYCLE <= self.width


@dataclass(frozen=True)
class Stop:
    """One place of the crank: `angle` degrees from the first cylinder's compression TDC, the cylinder whose compression TDC it is (None
    between marks), the valves to measure there, and how far the crank turns on from the stop before."""

    angle: float
    cylinder: int | None
    valves: tuple[str, ...]
    turn: float


@dataclass(frozen=True)
class MeasuringPlan:
    """Stops in running direction, beginning at the first cylinder's compression TDC or the first stop after it."""

    firing: Firing
    stops: tuple[Stop, ...]
    windows: Mapping[str, Window]


def rest_window(train: TrainSide, valve: str, compression: float) -> Window:
    """Where a lobe shows its base circle: all of the cycle but the event with its ramps and a margin."""
    lifted = np.flatnonzero(train.curve.lift > _TOUCH)
    opens, shuts = (2.0 * math.degrees(float(train.curve.angle[n])) for n in (lifted[0], lifted[-1]))
    centre = compression + 360.0 + math.degrees(centre_of(train))  # the event lies about overlap TDC, a turn after compression
    start = centre + shuts + _SAFE
    width = _CYCLE - (shuts - opens) - 2.0 * _SAFE
    return Window(valve, start % _CYCLE, width)


def _candidates(firing: Firing) -> list[tuple[float, int | None]]:
    marks = {angle: cylinder for cylinder, angle in firing.at.items()}
    found: list[tuple[float, int | None]] = [(angle, cylinder) for angle, cylinder in sorted(marks.items())]
    return found + [(angle, None) for angle in np.arange(0.0, _CYCLE, _STEP).tolist() if angle not in marks]


def _covers(windows: Mapping[str, Window], candidates: list[tuple[float, int | None]]) -> list[frozenset[str]]:
    return [frozenset(name for name, window in windows.items() if window.holds(angle)) for angle, _ in candidates]


def plan_stops(
    trains: Mapping[Side, TrainSide], positions: tuple[ValvePosition, ...], firing: Firing
) -> MeasuringPlan:  # fmt: skip
    """The fewest stops that show every valve its base circle; among those the most at TDC marks, then the fewest degrees to turn.

    Raises ContradictionError where a lobe has no base circle to speak of.
    """
    windows = {place.name: rest_window(trains[place.side], place.name, firing.at[place.cylinder]) for place in positions}
    for name, window in windows.items():
        if window.width <= 0.0:
            raise ContradictionError(f"{name}: this lobe leaves no safe stretch of base circle; follow the manual's own method.")
    candidates = _candidates(firing)
    covers = _covers(windows, candidates)
    every = frozenset(windows)
    useful = [n for n, cover in enumerate(covers) if cover]
    best: tuple[int, ...] = ()
    marks = [n for n in useful if candidates[n][1] is not None]
    for count in range(1, len(every) + 1):
        # marks alone first: whoever turns a crank looks for a mark
        for pool in (marks, _undominated(useful, covers)):
            ways = [way for way in itertools.combinations(pool, count) if frozenset().union(*(covers[n] for n in way)) == every]
            if ways:
                best = min(ways, key=lambda way: (sum(candidates[n][1] is None for n in way), max(candidates[n][0] for n in way)))
                break
        if best:
            break
    order = sorted(best, key=lambda n: candidates[n][0])
    left, stops, before = set(every), [], 0.0
    for n in order:
        here = sorted(left & covers[n], key=[place.name for place in positions].index)
        left -= set(here)
        angle, cylinder = candidates[n]
        if here:
            stops.append(Stop(angle, cylinder, tuple(here), angle - before))
            before = angle
    return MeasuringPlan(firing, tuple(stops), windows)


def _undominated(useful: list[int], covers: list[frozenset[str]]) -> list[int]:
    """One candidate for each set of valves that no other set contains: enough for the fewest stops."""
    kept: dict[frozenset[str], int] = {}
    for n in useful:
        kept.setdefault(covers[n], n)
    sets = list(kept)
    return [kept[each] for each in sets if not any(each < other for other in sets)]
