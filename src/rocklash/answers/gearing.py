"""The driveline of a build: speeds, and sprockets for the speed wished for."""

from rocklash.answers.results import BuildResult
from valvetrain.studies.running.gearing import Driveline, driveline

MARKS = (("power peak", "peak"), ("stock limiter", "limiter"))


def marks_of(answer: BuildResult) -> list[tuple[str, float]]:
    """The crank speeds (rev/s) that speeds are told at; needs a review."""
    assert answer.review
    done = answer.review.completed
    return [*((name, done.engine[key].value) for name, key in MARKS), ("goal", done.goal.goal_rpm)]


def driveline_of(answer: BuildResult) -> Driveline:
    """What the engine drives; needs a review."""
    assert answer.review
    done = answer.review.completed
    wished = done.goal_figures["road_speed"].value if "road_speed" in done.goal_figures else None
    speeds = tuple(speed for _, speed in marks_of(answer))
    machine = answer.record.facts.get("machine", "")
    return driveline(done.engine, speeds, wished, done.engine["limiter"].value, done.goal.goal_rpm, machine)
