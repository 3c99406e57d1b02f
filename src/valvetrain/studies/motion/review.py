"""What a valve's motion says of a side: where contact goes, valves bounce, springs surge and clash, with how sure that is."""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from valvetrain.errors import ValveTrainError
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.figure import Basis
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.checks.assessment import judge
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.motion.case import TRUSTED, Draws, draw_side, drawn_case, motion_case, motion_figures
from valvetrain.studies.motion.sweep import LOSS, MotionCase, Sweep, sweeps
from valvetrain.studies.train.float_rows import LOBE
from valvetrain.studies.train.priors import weighted
from valvetrain.studies.train.side_figures import nominal_float_speed, weakest

Array = NDArray[np.float64]

POINTS = 60  # speeds of the nominal sweep; two more stand at goal and over-rev
ENSEMBLE = 48  # draws for the band; each takes 32 speeds
_DRAW_POINTS = 32
_FROM, _TO = 0.42, 1.12  # of the rigid separation speed or over-rev, whichever is higher
_DRAW_FROM, _DRAW_TO = 0.50, 1.08  # of each draw's own rigid separation speed
_GAPS = (0.5, 1.0, 2.0)  # of LOSS: what counts as lost is judgement, so the draws take turns at half and twice it
_STRETCH = 0.025  # of engine speed: contact kept over less than this, beyond where it was lost, does not count as kept. Source: judgement
_HOLDS = 0.015  # how sharply a draw of the stock train is judged about the limiter that the engine is known to hold
_CANDIDATES = 8
_ENOUGH = 5.0  # draws' worth of weight below which that judgement would leave a handful of cases
BOUNCE = 50e-6  # m; below it the seat only gives. Source: judgement
HARD_SEATING = 0.8  # m/s above what mechanical cams are made for. Source: trade
# Ringing of amplitude a swings the force at a spring's ends by pi k a (source: wahl1963): worth a mark from a fifth of the force shut, which
# contact and coils both feel. Source of the fifth: judgement
_SURGE_WORTH = 0.2


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
    weights: Array | None = None


def _runs(speed: Array, loses: NDArray[np.bool_]) -> tuple[int | None, int | None]:
    """Index of the first speed with loss, and of the first from which on it is never kept again over a stretch worth the name.

    A single speed at which surge happens to set the valve down again, between two at which it does not, is no engine speed to live at.
    """
    if not loses.any():
        return None, None
    edges = np.concatenate([[speed[0]], (speed[1:] + speed[:-1]) / 2.0, [speed[-1]]])
    after, start = 0, None
    for number, lost in enumerate(np.append(loses, True)):
        if not lost:
            start = number if start is None else start
            continue
        if start is not None:
            if start == 0 or number == len(loses) or edges[number] > (1.0 + _STRETCH) * edges[start]:
                after = number
            start = None
    return int(np.argmax(loses)), after if after < len(loses) else None


def _between(speed: Array, index: int | None) -> float:
    """The speed between an index and the one before it; the highest where there is none."""
    if index is None:
        return float(speed[-1])
    return float(speed[index] if index == 0 else (speed[index] + speed[index - 1]) / 2.0)


def onsets(found: Sweep, loss: float = LOSS) -> tuple[float, float]:
    """Speeds (rev/s) from which contact is first lost, and from which it is lost for good, in a sweep; `loss` m is the gap that counts."""
    first, sustained = _runs(found.speed, found.gap > loss)
    return _between(found.speed, first), _between(found.speed, sustained)


def _onset(nominal: float, drawn: Array, weights: Array, top: float) -> Onset:
    """The middle of the draws with the interval that holds 95 %; where neither they nor the nominal train let go, beyond the tried."""
    low, middle, high = weighted(drawn, weights)
    if nominal >= top * 0.999 and middle >= top * 0.97:
        return Onset(top, min(low, top), top, beyond=True)
    return Onset(middle, low, high)


def _weights(onset: Array, side: TrainSide, before: "MotionReview | None") -> Array:
    """How much each draw counts: by whether the stock train of the same draw holds the limiter that the engine is known to hold."""
    even = np.full(len(onset), 1.0 / len(onset))
    if before is not None:
        return before.weights if before.weights is not None and len(before.weights) == len(onset) else even
    limiter = side.joint.limiter if side.joint else None
    if limiter is None:
        return even
    found = ndtr((onset / limiter - 1.0) / _HOLDS) + 1e-12
    found = found / found.sum()
    return np.asarray(found) if 1.0 / float(found @ found) > _ENOUGH else even


def _plain(found: Sweep, seen: NDArray[np.bool_]) -> Onset | None:
    first, _ = _runs(found.speed, seen)
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
            worth = _SURGE_WORTH * spring.preload / (math.pi * spring.rate)
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


def decides_of(draws: Draws, drawn: Array, weights: Array) -> tuple[tuple[str, float], ...]:
    """Squared rank correlation of each figure with the onset, as shares; below what chance alone would give nothing is said."""
    if drawn.std() == 0.0:
        return ()
    ranks = np.argsort(np.argsort(drawn)).astype(float)
    size = 1.0 / float(weights @ weights)
    found: dict[str, float] = {}
    for name, row in zip(draws.names, draws.scores, strict=True):
        own = np.argsort(np.argsort(row)).astype(float)
        x, y = own - weights @ own, ranks - weights @ ranks
        wide = math.sqrt(float(weights @ (x * x)) * float(weights @ (y * y)))
        together = float(weights @ (x * y)) / wide if wide > 0.0 else 0.0
        if abs(together) > 2.5 / math.sqrt(size):
            found[name.strip()] = min(found.get(name.strip(), 0.0) + together**2, 1.0)
    total = max(sum(found.values()), 1.0)
    return tuple(sorted(((name, share / total) for name, share in found.items()), key=lambda item: -item[1]))


def why_not(side: TrainSide) -> str:
    """Why the motion of a side cannot be judged, or an empty text."""
    if side.cam.lobes is None and side.shape.spread > TRUSTED:
        return (
            "the lobe's acceleration is not known well enough "
            f"(±{side.shape.spread:.0%}): a cam card with two durations, or a degree-wheel log every 2°, would settle it"
        )
    if side.springs[0].spring.rate.basis is Basis.ESTIMATE and side.springs[0].spring.mass.basis is Basis.ESTIMATE:
        return "rate and mass of the spring are both estimates, and surge lives on their ratio: weigh one and press it at two heights"
    return ""


def review_motion(
    side: TrainSide, goal: Goal, position: ValvePosition | None = None, draws: int = ENSEMBLE, before: MotionReview | None = None
) -> MotionReview:  # fmt: skip
    """Sweep the weakest valve of a side (or the one named) and find where each trouble begins, with its band.

    `before` is the review of the stock side of a proposed one: draws in which the stock engine would not hold its own limiter count little.
    """
    place = position or weakest(side)
    cannot = why_not(side)
    if cannot:
        return MotionReview(place, cannot)
    try:
        return _review(side, goal, place, draws, before)
    except ValveTrainError as error:
        return MotionReview(place, error.sentence.rstrip("."))


def drawn_onsets(side: TrainSide, place: ValvePosition, drawn: Draws, numbers: range) -> Array:
    """First and lasting loss of contact (rev/s) of some of the drawn cases, one row each; every third draw takes half, or twice, the gap that
    counts as lost."""
    assert drawn.rigid is not None
    grids = [np.linspace(_DRAW_FROM, _DRAW_TO, _DRAW_POINTS) * max(float(drawn.rigid[n]), 1.0) for n in numbers]
    found = sweeps([(drawn_case(side, place, drawn, n), grid) for n, grid in zip(numbers, grids, strict=True)])
    return np.array([onsets(each, LOSS * _GAPS[n % 3]) for n, each in zip(numbers, found, strict=True)])


def _shown(case: MotionCase, side: TrainSide, drawn: Draws, onset: Array, weights: Array, rigid: float) -> MotionCase:
    """The case that is drawn on the pages: every figure at its middle, on the lobe with which contact is lost where the draws say it is."""
    lobes = side.cam.lobes
    if drawn.lobes is None or lobes is None:
        return case
    _, middle, _ = weighted(onset, weights)
    near = np.argsort(np.abs(onset - middle) - 0.05 * middle * weights / weights.max())[:_CANDIDATES]
    curves = [lobes.curve(int(number)) for number in dict.fromkeys(int(drawn.lobes[n]) for n in near)]
    grid = np.linspace(0.55, 1.15, _DRAW_POINTS) * rigid
    tried = [replace(case, curve=curve) for curve in curves]
    gone = [onsets(each)[1] for each in sweeps([(each, grid) for each in tried])]
    return tried[int(np.argmin(np.abs(np.array(gone) - middle)))]


def _review(side: TrainSide, goal: Goal, place: ValvePosition, count: int, before: MotionReview | None) -> MotionReview:
    case, rigid = motion_case(side, place), nominal_float_speed(side, place)
    top = _TO * max(rigid, goal.over_rev)
    speeds = np.sort(np.concatenate([np.linspace(_FROM * rigid, top, POINTS), [goal.goal_rpm, goal.over_rev]]))
    figures = motion_figures(side)
    drawn = draw_side(side, place, count)
    pairs = drawn_onsets(side, place, drawn, range(count))
    weights = _weights(pairs[:, 1], side, before)
    case = _shown(case, side, drawn, pairs[:, 1], weights, rigid)
    found = sweeps([(case, speeds)])[0]
    exact = onsets(found)
    first, sustained = (_onset(value, pairs[:, n], weights, top) for n, value in enumerate(exact))
    decides = decides_of(drawn, pairs[:, 1], weights)
    estimated = sum(share for name, share in decides if name == LOBE or figures[name].basis is Basis.ESTIMATE)
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
        weights=weights,
    )


def judge_motion(found: MotionReview, limit: float) -> Verdict:
    """Verdict of the sustained loss of contact against a crank speed (rev/s) that must hold."""
    if found.sustained is None:
        return Verdict.UNPROVEN
    if found.sustained.beyond and found.sustained.low > limit:
        return Verdict.HOLDS
    margin = found.sustained.value - limit
    reach = found.sustained.value - found.sustained.low if margin > 0 else found.sustained.high - found.sustained.value
    return judge(margin, reach, on_estimates=found.estimated)
