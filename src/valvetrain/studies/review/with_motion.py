"""The check that a valve's motion gives: does it hold the speed it must survive, and with how much to spare."""

from collections.abc import Mapping
from dataclasses import replace

from valvetrain.parts.engine import Side
from valvetrain.parts.setup import Goal
from valvetrain.studies.checks.assessment import good_to
from valvetrain.studies.checks.check import Check, CheckCode
from valvetrain.studies.gaps.at_speed import checks_at_speed
from valvetrain.studies.motion.review import MotionReview, judge_motion
from valvetrain.studies.review.build import BuildReview, SetupReview, overall, worst_first
from valvetrain.units import QuantityKind

Motions = Mapping[tuple[str, Side], MotionReview]


def motion_limit(goal: Goal) -> float:
    """Crank speed (rev/s) up to which contact must not be lost for good: no reserve, the vibration is in the figure."""
    return max(goal.goal_rpm, goal.over_rev)


def check_motion(side: Side, found: MotionReview, goal: Goal) -> Check | None:
    """The check of one side; None where the motion cannot be judged."""
    if found.sustained is None or found.first is None:
        return None
    limit, onset = motion_limit(goal), found.sustained
    first = "" if found.first.value > 0.995 * onset.value else f"First skips at {found.first.value * 60:,.0f} rpm; lost "
    why = f"Train and springs swing. {first or 'Lost '}for good at the speed shown: from there on the valve leaves the lobe at every speed."
    estimated = "mostly estimates" if found.estimated else "maker's data, measurements, some estimates"
    return Check(
        code=CheckCode.MOTION,
        about=side.value,
        side=side,
        worst=found.place.name,
        kind=QuantityKind.SPEED,
        figure=onset.value,
        limit=limit,
        at_least=True,
        margin=onset.value - limit,
        spread=onset.value - onset.low if onset.value > limit else onset.high - onset.value,
        basis=estimated,
        dominant=found.decides,
        verdict=judge_motion(found, limit),
        low=onset.low,
        high=onset.high,
        why=why,
        limit_origin="the over-rev it must survive" if goal.over_rev >= goal.goal_rpm else "goal",
    )


def _with(found: SetupReview, role: str, motions: Motions, goal: Goal, more: list[Check] | None = None) -> SetupReview:
    added = [check_motion(side, motions[role, side], goal) for side in Side if (role, side) in motions]
    checks = worst_first([*found.checks, *(check for check in added if check), *(more or [])])
    return replace(found, checks=tuple(checks), verdict=overall(checks), good_to=good_to(checks, goal))


def with_motion(found: BuildReview, motions: Motions, rods: str = "") -> BuildReview:
    """The review with what the motions say among its checks; `motions` by (stock or proposed, side), `rods` of what."""
    done = found.completed
    goal = done.goal
    swept = {side: motion.sweep for (role, side), motion in motions.items() if role == "proposed" and motion.sweep}
    room = checks_at_speed(found.room, done.proposed.sides, swept, done.engine, rods, goal)
    return replace(found, stock=_with(found.stock, "stock", motions, goal), proposed=_with(found.proposed, "proposed", motions, goal, room))
