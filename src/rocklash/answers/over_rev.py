"""Over-revs of a build judged by the core, with motions swept far enough for each."""

from dataclasses import replace

from rocklash.answers.motion import known_motion, motion_of
from rocklash.answers.results import BuildResult
from rocklash.records.models import OverRevCase
from valvetrain.errors import ContradictionError, ValveTrainError
from valvetrain.formulas.driveline import overall_ratio
from valvetrain.parts.engine import Side
from valvetrain.studies.motion.review import MotionReview
from valvetrain.studies.running.gearing import primary_ratio
from valvetrain.studies.running.over_rev import OverRev, ReachedSpeed, judge_over_rev, reached_by_log, reached_by_road, reached_by_shift

_NEEDED = {"front_teeth": "the front sprocket", "rear_teeth": "the rear sprocket", "rolling": "how far the wheel rolls in a turn"}


def reached_of(answer: BuildResult, case: OverRevCase) -> ReachedSpeed:
    """How far it went. Raises ContradictionError for gears that slow the engine, and where the driveline is not known."""
    if case.peak is not None:
        return reached_by_log(case.peak)
    if case.road is not None and case.gear_to is not None:
        engine = answer.review.completed.engine if answer.review else {}
        missing = [words for key, words in _NEEDED.items() if key not in engine]
        if missing:
            raise ContradictionError(f"From a road speed the engine speed follows only with {', '.join(missing)}: give them on Gearing.")
        ratio = overall_ratio(primary_ratio(engine), case.gear_to, engine["front_teeth"].value, engine["rear_teeth"].value)
        return reached_by_road(case.road, engine["rolling"].value, ratio)
    assert case.before is not None
    assert case.gear_from is not None
    assert case.gear_to is not None
    return reached_by_shift(case.before, case.gear_from, case.gear_to)


def trouble_of(answer: BuildResult, case: OverRevCase) -> str:
    """Why a kept case cannot be judged with the figures as they are now, or an empty text."""
    try:
        reached_of(answer, case)
    except ValveTrainError as error:
        return error.sentence
    return ""


def judged(answer: BuildResult, case: OverRevCase, *, compute: bool) -> tuple[OverRev, bool] | None:
    """The judgement, and whether motions are still to be computed for it; None when the figures contradict one another.

    A speed beyond what a build's own sweep covers gets a sweep of its own: with `compute` it is made now.
    """
    if answer.review is None:
        return None
    done, reached = answer.review.completed, reached_of(answer, case)
    goal = done.goal if reached.high <= done.goal.over_rev else replace(done.goal, over_rev=reached.high)
    motions: dict[Side, MotionReview] = {}
    for side, train in done.proposed.sides.items():
        stock = answer.review.completed.stock.sides[side]
        found = motion_of(train, goal, stock=stock) if compute else known_motion(train, goal, stock)
        if found:
            motions[side] = found
    waits = len(motions) < len(done.proposed.sides)
    return judge_over_rev(done, answer.review.room, motions, answer.record.facts.get("rods", ""), reached), waits
