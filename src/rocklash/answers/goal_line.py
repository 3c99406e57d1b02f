"""The goal in one line, for overview and build sheet."""

from rocklash.answers.results import BuildResult
from rocklash.records.models import Build
from valvetrain.units import QuantityKind, UnitSystem, quantity


def goal_line(answer: BuildResult, build: Build, system: UnitSystem) -> str:
    """`Goal 8,400 rpm at 0.60 bar, must survive 9,000 rpm, rescue use`; needs a review."""
    assert answer.review
    goal = answer.review.completed.goal
    at = f" at {quantity(goal.boost.value, QuantityKind.PRESSURE, system)}" if goal.boost.value else ""
    survive = quantity(goal.over_rev, QuantityKind.SPEED, system)
    return f"Goal {quantity(goal.goal_rpm, QuantityKind.SPEED, system)}{at}, over-rev it must survive {survive}, {build.use.replace('_', ' ')} use"
