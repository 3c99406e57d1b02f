"""Everything the Room station shows that the core computes: curves, maps, what is left at speed."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rocklash.answers.results import BuildResult
from valvetrain.errors import OutOfRangeError, ValveTrainError
from valvetrain.parts.engine import Gear, Side
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.checks.check import Check
from valvetrain.studies.gaps.at_speed import AtSpeed, at_speed, moving_lift, overshoot_of
from valvetrain.studies.gaps.gaps import RoomReview
from valvetrain.studies.gaps.piston import crank_grid, gap_over, lift_over, phaser_ends, rest_of_reading, travel_of
from valvetrain.studies.gaps.valves import USUAL_SLIP, apart_map
from valvetrain.studies.train.side_figures import nominal_coil_bind, nominal_retainer_gap
from valvetrain.units import UnitSystem, told
from valvetrain.wording.gaps import clay_first, least_gap_words

Array = NDArray[np.float64]

_SHOWN_REACH = 75.0  # crank degrees either side of overlap TDC


@dataclass(frozen=True, eq=False)
class SideCurves:
    """One side over the crank angles of `RoomAnswer`: lift and gap (m) at the advance shown, the gap at the over-rev, if
    swept, and the one that geometry alone gives where another was measured."""

    lift: Array
    gap: Array
    fast: Array | None
    advance: float
    computed: Array | None


@dataclass(frozen=True, eq=False)
class RoomMap:
    """A map of one gap over advance (rad, rows) and crank angle (rad, columns), m; `ends` of the phaser, `tooth` rad or None."""

    side: Side
    what: str
    advances: Array
    angles: Array
    gaps: Array
    ends: tuple[float, float]
    tooth: float | None


@dataclass(frozen=True)
class ValveRoom:
    """The room of one valve, m: valve to piston (None where its side is only guessed), least travel to coil bind with the spring it is on,
    retainer to seal, and coil bind left when the valve overshoots at the over-rev."""

    name: str
    side: Side
    piston: float | None
    read: bool
    bind: float
    retainer: float
    bind_at_speed: float | None


@dataclass(frozen=True, eq=False)
class RoomAnswer:
    """The room of a build's proposed set-up, ready to show. `angle` crank rad."""

    room: RoomReview
    trains: Mapping[Side, TrainSide]
    angle: Array
    travel: Array
    sides: Mapping[Side, SideCurves]
    at_speed: Mapping[Side, AtSpeed]
    pistons: bool
    checks: tuple[Check, ...]
    speed_limit: float
    valves: tuple[ValveRoom, ...]


def _advance_of(answer: BuildResult, side: Side, where: str) -> float:
    assert answer.review
    least = answer.review.room.pistons.get(side)
    return least.advance if where == "worst" and least else 0.0


def _fast(answer: BuildResult, side: Side, angle: Array, advance: float, still: Array) -> Array | None:
    motion = answer.motions.get(("proposed", side))
    if motion is None or motion.sweep is None or answer.review is None:
        return None
    done = answer.review.completed
    lift = moving_lift(motion.sweep, done.proposed.sides[side], done.goal.over_rev, angle, advance)
    return None if lift is None else still + lift_over(done.proposed.sides[side], angle, advance) - lift


def _overshoot(answer: BuildResult, side: Side) -> float | None:
    """How far the valve runs beyond full lift at the over-rev, m; None where it was not swept."""
    motion = answer.motions.get(("proposed", side))
    if motion is None or motion.sweep is None or answer.review is None:
        return None
    return overshoot_of(motion.sweep, answer.review.completed.proposed.sides[side], answer.review.completed.goal.over_rev)


def _valves(answer: BuildResult) -> tuple[ValveRoom, ...]:
    assert answer.review
    listed = []
    for side, train in answer.review.completed.proposed.sides.items():
        least, over = answer.review.room.pistons.get(side), _overshoot(answer, side)
        for place in train.positions:
            bind = min(nominal_coil_bind(train, place, number) for number in range(len(train.springs)))
            piston, own = None, None
            if least and least.rest.how != "estimate":
                own = least.rest.by_valve.get(place.name)
                piston = least.value + ((own.value - least.rest.figure.value) if own else 0.0)
            fast = None if over is None else bind - max(over, 0.0)
            listed.append(ValveRoom(place.name, side, piston, own is not None, bind, nominal_retainer_gap(train, place), fast))
    return tuple(listed)


def gap_words(answer: BuildResult, side: Side, system: UnitSystem) -> list[str]:
    """Where the piston comes nearest to the valves of a side with the proposed cam, as a sentence; none for a side-valve engine."""
    least = answer.review.room.pistons.get(side) if answer.review else None
    if least is None or answer.review is None:
        return []
    limit = answer.review.completed.goal.limits[f"piston_gap_limit_{side}"]
    return [told(least_gap_words(side.value, least.value, least.spread, least.at, limit, least.rest.how), system)]


def clay_words(answer: BuildResult, system: UnitSystem) -> str:
    """Where the clay goes first: the side with least in hand, at its crank angle; empty where no piston meets a valve."""
    pistons = answer.review.room.pistons if answer.review else {}
    if not pistons or answer.review is None:
        return ""
    limits = answer.review.completed.goal.limits
    order = sorted(pistons.values(), key=lambda each: each.value - each.spread - limits[f"piston_gap_limit_{each.side}"])
    return told(clay_first([(each.side.value, each.value, each.spread, each.at, each.rest.valve) for each in order]), system)


def room_answer(answer: BuildResult, where: str = "worst") -> RoomAnswer | None:
    """Curves and checks with the phasers at their worst or at rest; None when the figures contradict one another."""
    if answer.review is None:
        return None
    room, done = answer.review.room, answer.review.completed
    angle = crank_grid()
    angle = angle[np.abs(np.degrees(angle)) <= _SHOWN_REACH]
    sides: dict[Side, SideCurves] = {}
    speeds: dict[Side, AtSpeed] = {}
    for side, least in room.pistons.items():
        train, advance = done.proposed.sides[side], _advance_of(answer, side, where)
        gap = gap_over(room.geometry, train, least.rest.figure.value, angle, advance)
        computed = None
        if least.rest.computed and least.rest.how != "computed":
            computed = gap_over(room.geometry, train, least.rest.computed.value, angle, advance)
        sides[side] = SideCurves(lift_over(train, angle, advance), gap, _fast(answer, side, angle, advance, gap), advance, computed)
        motion = answer.motions.get(("proposed", side))
        if motion and motion.sweep:
            try:
                speeds[side] = at_speed(
                    room.geometry, train, least, motion.sweep, done.engine, answer.record.facts.get("rods", ""), done.goal.over_rev
                )
            except OutOfRangeError:
                continue
    spring_gaps = [check for check in answer.review.proposed.checks if check.code in (GapKind.COIL_BIND, GapKind.RETAINER)]
    return RoomAnswer(
        room=room, trains=done.proposed.sides, angle=angle, travel=travel_of(room.geometry, angle), sides=sides, at_speed=speeds,
        pistons=answer.record.kind.gear is not Gear.SIDE_VALVE, checks=(*room.checks, *spring_gaps), speed_limit=done.goal.limits["gap_at_speed_limit"],
        valves=_valves(answer),
    )  # fmt: skip


def room_map(answer: BuildResult, side: Side, what: str) -> RoomMap | None:
    """The map of a side's piston gap, or of the heads' distance (`what` is piston or valve), a tooth beyond the phaser's ends."""
    if answer.review is None or side not in answer.review.room.pistons:
        return None
    room, done = answer.review.room, answer.review.completed
    ends = phaser_ends(done.engine, side)
    teeth = done.engine.get("sprocket_teeth")
    tooth = 4.0 * float(np.pi) / teeth.value if teeth else None
    reach = tooth or float(USUAL_SLIP)
    advances = np.linspace(ends[0] - reach, ends[1] + reach, 41)
    angle = crank_grid()
    if what == "valve":
        _, _, gaps = apart_map(room.geometry, done.proposed.sides, done.engine, side, advances)
    else:
        rest = room.pistons[side].rest.figure.value
        gaps = gap_over(room.geometry, done.proposed.sides[side], rest, angle[None, :], advances[:, None])
    near = np.abs(np.degrees(angle)) <= 60.0
    return RoomMap(side, what, advances, angle[near][::2], gaps[:, near][:, ::2], ends, tooth)


def rest_from(answer: BuildResult, side: Side, gap: float, angle: float | None) -> float:
    """The gap at rest (m) of a piston reading, with the cam that is in now. Raises ValveTrainError without a review."""
    if answer.review is None:
        raise ValveTrainError(answer.contradiction)
    return rest_of_reading(answer.review.room.geometry, answer.review.completed.proposed.sides[side], gap, angle)
