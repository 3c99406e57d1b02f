"""A missed shift or a pump out of the water: how far it went, against every limit, and whether it can be called fine."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.formulas.driveline import engine_speed, speed_in_gear
from valvetrain.formulas.slider_crank import mean_piston_speed, piston_acceleration
from valvetrain.parts.engine import Side
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.check import CheckCode, CheckSubject, Verdict
from valvetrain.studies.gaps.at_speed import at_speed
from valvetrain.studies.gaps.gaps import RoomReview
from valvetrain.studies.motion.review import MotionReview
from valvetrain.studies.train.assembly import CompletedBuild
from valvetrain.studies.train.float_rows import float_speed
from valvetrain.studies.train.side_figures import weakest
from valvetrain.units import LENGTH, QuantityKind, amount

SLIP = 0.10  # share of the computed speed that clutch and tyre may have let slip. Source: judgement
_LOGGED = 0.01  # share of a logged peak that its sampling leaves open, k = 2. Source: judgement


@dataclass(frozen=True)
class ReachedSpeed:
    """Crank speed that was reached, rev/s: least and most. `words` tell how it is known."""

    low: float
    high: float
    words: str


def reached_by_shift(before: float, gear_from: float, gear_to: float) -> ReachedSpeed:
    """What a change from one gear ratio into another drags an engine to from `before` (rev/s); slip may have spared it a tenth.

    Raises ContradictionError for a change that slows the engine.
    """
    if gear_to <= gear_from:
        raise ContradictionError(
            f"From a ratio of {gear_from:.3f} into {gear_to:.3f} the engine slows down. An over-rev comes from a lower gear, with a larger ratio."
        )
    high = speed_in_gear(before, gear_from, gear_to)
    low = max(before, high * (1.0 - SLIP))
    return ReachedSpeed(low, high, f"dragged from {before * 60:,.0f} rpm by {gear_to / gear_from:.3f}, less what clutch and tyre slipped")


def reached_by_road(road: float, circumference: float, ratio: float) -> ReachedSpeed:
    """What a speed over the ground (m/s) drags the engine to through an overall ratio, the wheel rolling `circumference` (m) in a turn."""
    high = engine_speed(road, circumference, ratio)
    return ReachedSpeed(high * (1.0 - SLIP), high, f"dragged by the wheel through {ratio:.2f} in all, less what clutch and tyre slipped")


def reached_by_log(peak: float) -> ReachedSpeed:
    """A peak that was logged, rev/s."""
    return ReachedSpeed(peak * (1.0 - _LOGGED), peak * (1.0 + _LOGGED), "logged peak")


def overlapping(low: float, high: float, least: float, most: float) -> Verdict:
    """Verdict on a reached interval against the interval in which something begins."""
    if high < least:
        return Verdict.HOLDS
    return Verdict.SHORT if low > most else Verdict.SLIM


@dataclass(frozen=True)
class LimitComparison:
    """One limit: what was reached against it, SI of `kind`; `words` say what it means. `missing` names what keeps it from being judged."""

    code: CheckSubject | None
    title: str
    side: Side | None
    kind: QuantityKind
    reached: float
    limit: float
    verdict: Verdict
    words: str
    missing: str = ""


@dataclass(frozen=True)
class OverRev:
    """Everything of one over-rev. `verdict` is never `holds` while something is missing."""

    reached: ReachedSpeed
    against: tuple[LimitComparison, ...]
    verdict: Verdict
    sentence: str
    missing: tuple[str, ...]


def _valves(side: Side, found: MotionReview | None, reached: ReachedSpeed, done: CompletedBuild) -> list[LimitComparison]:
    train = done.proposed.sides[side]
    name = side.value
    rigid = float_speed(train, weakest(train))
    listed = [
        LimitComparison(
            CheckCode.FLOAT, f"{name} float, rigid train", side, QuantityKind.SPEED, reached.high, rigid.value,
            overlapping(reached.low, reached.high, rigid.value - rigid.spread, rigid.value + rigid.spread),
            "Above it the springs cannot keep even a rigid valve on its lobe.",
        )
    ]  # fmt: skip
    if found is None or found.sustained is None or found.sweep is None:
        why = f"how the {name} valves move ({found.cannot})" if found and found.cannot else f"how the {name} valves move"
        listed.append(
            LimitComparison(
                code=CheckCode.MOTION,
                title=f"{name} contact",
                side=side,
                kind=QuantityKind.SPEED,
                reached=reached.high,
                limit=math.nan,
                verdict=Verdict.UNPROVEN,
                words="Not computed.",
                missing=why,
            )
        )
        return listed
    onset = found.sustained
    words = "Beyond it valves leave the lobe and fall back beside it: retainers, keepers, tips and seats take the blow."
    if onset.beyond and reached.high > onset.value:
        listed.append(
            LimitComparison(
                code=CheckCode.MOTION, title=f"{name} contact", side=side, kind=QuantityKind.SPEED, reached=reached.high, limit=onset.value, verdict=Verdict.UNPROVEN, words=words,
                missing=f"the motion of the {name} valves above {onset.value * 60:,.0f} rpm",
            )
        )  # fmt: skip
    else:
        verdict = overlapping(reached.low, reached.high, onset.low, onset.high)
        listed.append(
            LimitComparison(CheckCode.MOTION, f"{name} contact", side, QuantityKind.SPEED, reached.high, onset.value, verdict, words)
        )
    if found.bounce:
        verdict = overlapping(reached.low, reached.high, found.bounce.low, found.bounce.high)
        words = "Valves bounce on their seats: faces, seats and keeper grooves suffer; titanium faces cup."
        listed.append(LimitComparison(None, f"{name} bounce", side, QuantityKind.SPEED, reached.high, found.bounce.value, verdict, words))
    near = (found.sweep.speed >= reached.low * 0.99) & (found.sweep.speed <= reached.high * 1.01)
    if near.any():
        clash = float(np.max(found.sweep.clashing[:, near]))
        # surge closes single coils long before a spring binds: a reason to look, not a proof of damage
        verdict = Verdict.SLIM if clash > 0.0 else Verdict.HOLDS
        words = "Coils that clash as the spring surges break it later, from the mark they leave."
        listed.append(
            LimitComparison(
                GapKind.COIL_BIND, f"{name} coils, pressed together", side, QuantityKind.LENGTH, max(clash, 0.0), 0.0, verdict, words
            )
        )
    return listed


def _pistons(
    room: RoomReview, done: CompletedBuild, motions: Mapping[Side, MotionReview], rods: str, reached: ReachedSpeed
) -> list[LimitComparison]:
    listed = []
    limit = 0.0
    for side, least in room.pistons.items():
        title = f"{side.value} valve to piston"
        sweep = motions[side].sweep if side in motions else None
        if least.rest.how == "estimate":
            missing = f"the gap between piston and {side.value} valve, never measured"
            listed.append(
                LimitComparison(
                    code=CheckCode.AT_SPEED,
                    title=title,
                    side=side,
                    kind=QuantityKind.LENGTH,
                    reached=math.nan,
                    limit=limit,
                    verdict=Verdict.UNPROVEN,
                    words="Nothing is known.",
                    missing=missing,
                )
            )
            continue
        if sweep is None:
            missing = f"how the {side.value} valves move"
            listed.append(
                LimitComparison(
                    code=CheckCode.AT_SPEED,
                    title=title,
                    side=side,
                    kind=QuantityKind.LENGTH,
                    reached=math.nan,
                    limit=limit,
                    verdict=Verdict.UNPROVEN,
                    words="Not computed.",
                    missing=missing,
                )
            )
            continue
        try:
            found = at_speed(room.geometry, done.proposed.sides[side], least, sweep, done.engine, rods, reached.high)
        except OutOfRangeError as error:
            listed.append(
                LimitComparison(
                    code=CheckCode.AT_SPEED, title=title, side=side, kind=QuantityKind.LENGTH, reached=math.nan, limit=limit, verdict=Verdict.UNPROVEN, words=error.sentence,
                    missing=f"the motion of the {side.value} valves at {reached.high * 60:,.0f} rpm",
                )
            )  # fmt: skip
            continue
        verdict = Verdict.SHORT if found.left < -found.spread else Verdict.HOLDS if found.left > found.spread else Verdict.SLIM
        words = (
            f"{amount(found.at_rest, LENGTH)} at rest, less {amount(max(found.overshoot, 0.0), LENGTH)} of overshoot and {amount(found.stretch, LENGTH)} of rod and "
            f"bearings; ±{found.spread * 1e3:.2f}."
        )
        listed.append(LimitComparison(CheckCode.AT_SPEED, title, side, QuantityKind.LENGTH, found.left, limit, verdict, words))
    return listed


def _bottom(done: CompletedBuild, reached: ReachedSpeed) -> list[LimitComparison]:
    engine, goal = done.engine, done.goal
    stroke, rod = engine["stroke"].value, engine["rod_length"].value
    speed, pull = mean_piston_speed(stroke, reached.high), piston_acceleration(stroke, rod, reached.high)
    load = (reached.high / engine["limiter"].value) ** 2
    rows = [
        ("piston speed", QuantityKind.VELOCITY, speed, goal.piston_speed_limit, "Ring lands, skirts and oil film."),
        (
            "piston acceleration", QuantityKind.ACCELERATION, pull, goal.limits["acceleration_limit"],
            "Pin bosses and ring flutter; the piston pulls hardest at overlap TDC, where no gas holds against it.",
        ),
        (
            "rod load over that at the stock limiter", QuantityKind.NUMBER, load, goal.limits["rod_load_limit"],
            "Inertia grows with the square of speed: rod bolts stretch once and stay longer.",
        ),
    ]  # fmt: skip
    return [
        LimitComparison(
            CheckCode.PISTON if kind is QuantityKind.VELOCITY else None, title, None, kind, value, limit, _bar(value, limit), words
        )
        for title, kind, value, limit, words in rows
    ]


def _bar(value: float, limit: float) -> Verdict:
    return Verdict.SHORT if value > limit * 1.02 else Verdict.SLIM if value > limit * 0.97 else Verdict.HOLDS


def judge_over_rev(
    done: CompletedBuild, room: RoomReview, motions: Mapping[Side, MotionReview], rods: str, reached: ReachedSpeed
) -> OverRev:  # fmt: skip
    """Hold an over-rev against every limit of the build as it stands now."""
    listed: list[LimitComparison] = []
    for side in done.proposed.sides:
        listed += _valves(side, motions.get(side), reached, done)
    listed += [*_pistons(room, done, motions, rods, reached), *_bottom(done, reached)]
    missing = tuple(dict.fromkeys(row.missing for row in listed if row.missing))
    hurt = [row for row in listed if row.verdict is Verdict.SHORT]
    close = [row for row in listed if row.verdict is Verdict.SLIM]
    speed = f"{reached.high * 60:,.0f} rpm"
    if hurt:
        names = ", ".join(dict.fromkeys(row.title for row in hurt))
        verdict, sentence = (
            Verdict.SHORT,
            f"It went past its limits: {names}, at up to {speed}. Do not start it before the inspection is done.",
        )
    elif missing:
        verdict = Verdict.UNPROVEN
        sentence = (
            f"It cannot be called fine: {'; '.join(missing)} {'is' if len(missing) == 1 else 'are'} not known. Inspect before it runs."
        )
    elif close:
        names = ", ".join(dict.fromkeys(row.title for row in close))
        verdict, sentence = Verdict.SLIM, f"It came near a limit: {names}, at up to {speed}. Inspect before it runs."
    else:
        verdict = Verdict.HOLDS
        sentence = f"Up to {speed} stays inside every limit that is known of this build. Clearances and a leak-down would confirm it."
    return OverRev(reached, tuple(listed), verdict, sentence, missing)
