"""What a valve's motion says of a side: where contact goes, valves bounce, springs surge and clash, with how sure that is."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ValveTrainError
from valvetrain.kernels import valve_motion as kernel
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.figure import Basis
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.assessment import Verdict, judge
from valvetrain.studies.motion import MotionCase, Sweep, sweeps
from valvetrain.studies.motion_case import TRUSTED, Draws, draw, motion_case, motion_figures
from valvetrain.studies.side_figures import nominal_float_speed, weakest

Array = NDArray[np.float64]

POINTS = 60  # speeds of the nominal sweep; two more stand at goal and over-rev
ENSEMBLE = 32  # draws for the band; each takes 32 speeds
_DRAW_POINTS = 32
_FROM, _TO = 0.42, 1.12  # of the rigid separation speed or over-rev, whichever is higher
_DRAW_FROM, _DRAW_TO = 0.62, 1.10  # of the rigid separation speed
BOUNCE = 50e-6  # m; below it the seat only gives. Source: judgement
HARD_SEATING = 0.8  # m/s above what mechanical cams are made for. Source: trade
_SURGE_WORTH = 0.018  # amplitude over full lift from which ringing is worth a mark. Source: judgement


@dataclass(frozen=True)
class Onset:
    """A crank speed (rev/s) at which something begins, with the interval that holds it with about 95 %.

    `beyond` tells that it did not begin within the speeds that were tried; then all three are the highest of them.
    """

    value: float
    low: float
    high: float
    beyond: bool = False

    @property
    def spread(self) -> float:
        """Half the interval."""
        return (self.high - self.low) / 2.0


@dataclass(frozen=True)
class SurgeZone:
    """A stretch of crank speed (rev/s) where a spring rings: `order` turns of its own motion in one turn of the cam."""

    spring: int
    order: int
    low: float
    peak: float
    high: float
    amplitude: float


@dataclass(frozen=True, eq=False)
class MotionReview:
    """One valve of one side. `first` and `sustained` loss of contact; `decides` names what their spread comes from, with its share.

    `cannot` says why there is no judgement; then all else is empty.
    """

    place: ValvePosition
    cannot: str = ""
    case: MotionCase | None = None
    sweep: Sweep | None = None
    rigid: float = 0.0
    first: Onset | None = None
    sustained: Onset | None = None
    bounce: Onset | None = None
    seating: Onset | None = None
    clash: Onset | None = None
    surge: tuple[SurgeZone, ...] = ()
    decides: tuple[tuple[str, float], ...] = ()
    estimated: bool = True
    draws: Draws | None = None
    drawn: Array | None = None


def _runs(loses: NDArray[np.bool_]) -> tuple[int | None, int | None]:
    """Index of the first speed with loss, and of the first from which on every speed has it."""
    if not loses.any():
        return None, None
    holds = np.flatnonzero(~loses)
    after = int(holds[-1]) + 1 if len(holds) else 0
    return int(np.argmax(loses)), after if after < len(loses) else None


def _between(speed: Array, index: int | None) -> float:
    """The speed between an index and the one before it; the highest where there is none."""
    if index is None:
        return float(speed[-1])
    return float(speed[index] if index == 0 else (speed[index] + speed[index - 1]) / 2.0)


def onsets(found: Sweep) -> tuple[float, float]:
    """Speeds (rev/s) of the first and of the sustained loss of contact in a sweep."""
    first, sustained = _runs(found.loses)
    return _between(found.speed, first), _between(found.speed, sustained)


def _onset(nominal: float, drawn: Array, top: float) -> Onset:
    """The nominal speed with the interval of the draws, moved onto it: the draws' own grid is coarser than the sweep's."""
    low, middle, high = np.quantile(drawn, [0.025, 0.5, 0.975])
    if nominal >= top * 0.999:
        return Onset(top, min(float(low), top), top, beyond=True)
    return Onset(nominal, nominal - max(float(middle - low), 0.0), nominal + max(float(high - middle), 0.0))


def _plain(found: Sweep, seen: NDArray[np.bool_]) -> Onset | None:
    first, _ = _runs(seen)
    if first is None:
        return None
    half = float(found.speed[first] - found.speed[max(first - 1, 0)]) / 2.0
    at = _between(found.speed, first)
    return Onset(at, at - half, at + half)


def _surge_zones(case: MotionCase, found: Sweep, top: float) -> tuple[SurgeZone, ...]:
    """Peaks of each spring's own motion below `top` that stand out from their neighbours, with the engine order that rouses them."""
    zones = []
    for number, spring in enumerate(case.springs):
        level = found.surge[number]
        own = spring.own / (2.0 * math.pi)
        inside = found.speed <= top
        for order in range(4, 16):
            centre = 2.0 * own / order
            near = inside & (np.abs(found.speed / centre - 1.0) < 0.5 / order)
            if near.sum() < 3 or not inside[np.flatnonzero(near)].all():
                continue
            at = int(np.flatnonzero(near)[np.argmax(level[near])])
            edge = min(level[near][0], level[near][-1])
            worth = _SURGE_WORTH * case.curve.full
            if level[at] < worth or level[at] < 1.25 * edge:
                continue
            above = near & (level > 0.8 * level[at])
            zones.append(
                SurgeZone(
                    number,
                    order,
                    float(found.speed[above].min()),
                    float(found.speed[at]),
                    float(found.speed[above].max()),
                    float(level[at]),
                )
            )
    return tuple(sorted(zones, key=lambda zone: -zone.amplitude))


def _decides(draws: Draws, drawn: Array) -> tuple[tuple[str, float], ...]:
    """Squared rank correlation of each figure with the onset, as shares; below what chance alone would give nothing is said."""
    if drawn.std() == 0.0:
        return ()
    ranks = np.argsort(np.argsort(drawn)).astype(float)
    found = {}
    for name, row in zip(draws.names, draws.scores, strict=True):
        own = np.argsort(np.argsort(row)).astype(float)
        together = float(np.corrcoef(own, ranks)[0, 1])
        if abs(together) > 2.5 / math.sqrt(len(drawn)):
            found[name] = together**2
    total = max(sum(found.values()), 1.0)
    return tuple(sorted(((name, share / total) for name, share in found.items()), key=lambda item: -item[1]))


def why_not(side: TrainSide) -> str:
    """Why the motion of a side cannot be judged, or an empty text."""
    if side.shape.spread > TRUSTED:
        return (
            "the lobe's acceleration is not known well enough "
            f"(±{side.shape.spread:.0%}): a cam card with two durations, or a degree-wheel log every 2°, would settle it"
        )
    if side.springs[0].spring.rate.basis is Basis.ESTIMATE and side.springs[0].spring.mass.basis is Basis.ESTIMATE:
        return "rate and mass of the spring are both estimates, and surge lives on their ratio: weigh one and press it at two heights"
    return ""


def review_motion(side: TrainSide, goal: Goal, position: ValvePosition | None = None, draws: int = ENSEMBLE) -> MotionReview:
    """Sweep the weakest valve of a side (or the one named) and find where each trouble begins, with its band."""
    place = position or weakest(side)
    cannot = why_not(side)
    if cannot:
        return MotionReview(place, cannot)
    try:
        return _review(side, goal, place, draws)
    except ValveTrainError as error:
        return MotionReview(place, str(error).rstrip("."))


def _review(side: TrainSide, goal: Goal, place: ValvePosition, count: int) -> MotionReview:
    case, rigid = motion_case(side, place), nominal_float_speed(side, place)
    top = _TO * max(rigid, goal.over_rev)
    speeds = np.sort(np.concatenate([np.linspace(_FROM * rigid, top, POINTS), [goal.goal_rpm, goal.over_rev]]))
    figures = motion_figures(side)
    drawn = draw(figures, count)
    grid = np.linspace(_DRAW_FROM * rigid, _DRAW_TO * rigid, _DRAW_POINTS)
    work = [(case, speeds)] + [(motion_case(side, place, drawn.case(n)), grid) for n in range(count)]
    found, *rest = sweeps(work)
    pairs = np.array([onsets(each) for each in rest])
    near = sweeps([(case, _around(found, which)) for which in _runs(found.loses) if which is not None])
    exact = list(onsets(found))
    for slot, each in zip([n for n, which in enumerate(_runs(found.loses)) if which is not None], near, strict=True):
        exact[slot] = onsets(each)[slot]
    first, sustained = (_onset(value, pairs[:, n], top) for n, value in enumerate(exact))
    decides = _decides(drawn, pairs[:, 1])
    estimated = sum(share for name, share in decides if figures[name].basis is Basis.ESTIMATE)
    settled = found.speed <= max(sustained.value, goal.over_rev)
    return MotionReview(
        place=place,
        case=case,
        sweep=found,
        rigid=rigid,
        first=first,
        sustained=sustained,
        bounce=_plain(found, found.bounce > BOUNCE),
        seating=_plain(found, found.seating > HARD_SEATING),
        clash=_plain(found, np.asarray(found.clashing.max(axis=0) > 0.0)),
        surge=_surge_zones(case, found, float(found.speed[settled].max())),
        decides=decides[:5],
        estimated=not decides or estimated > 0.5 * sum(share for _, share in decides),
        draws=drawn,
        drawn=pairs,
    )


def _around(found: Sweep, index: int) -> Array:
    """Speeds between the neighbours of an index, one block of them."""
    low = found.speed[max(index - 1, 0)]
    return np.linspace(float(low), float(found.speed[index]), kernel.LANES)


def judge_motion(found: MotionReview, limit: float) -> Verdict:
    """Verdict of the sustained loss of contact against a crank speed (rev/s) that must hold."""
    if found.sustained is None:
        return Verdict.UNPROVEN
    if found.sustained.beyond and found.sustained.low > limit:
        return Verdict.HOLDS
    margin = found.sustained.value - limit
    reach = found.sustained.value - found.sustained.low if margin > 0 else found.sustained.high - found.sustained.value
    return judge(margin, reach, on_estimates=found.estimated)
