"""The goal in one line, for overview and build sheet."""

from rocklash.answers.results import Answer
from rocklash.records.models import Build
from valvetrain.quantities import Kind, System, quantity


def goal_line(answer: Answer, build: Build, system: System) -> str:
    """`Goal 8,400 rpm at 0.60 bar, must survive 9,000 rpm, rescue use`; needs a review."""
    assert answer.review
    goal = answer.review.completed.goal
    at = f" at {quantity(goal.boost.value, Kind.PRESSURE, system)}" if goal.boost.value else ""
    survive = quantity(goal.over_rev, Kind.SPEED, system)
    return f"Goal {quantity(goal.goal_rpm, Kind.SPEED, system)}{at}, must survive {survive}, {build.use.replace('_', ' ')} use"
