"""The verdict sheet as view-models."""

from dataclasses import dataclass

from rocklash.answers.goal_line import goal_line
from rocklash.answers.results import BuildResult
from rocklash.records.models import Build, Membership
from rocklash.ui.presenting import CheckRow, MeasureRow, RemedyRow, check_row, measure_rows, remedy_rows, worst_figure
from valvetrain import wording
from valvetrain.units import UnitSystem


@dataclass(frozen=True, kw_only=True)
class OverviewPage:
    """Everything the overview prints."""

    goal: str
    verdict: str
    headline: str
    sentences: list[str]
    good_to: str
    worst: tuple[str, str, str, str] | None
    rows: list[CheckRow]
    remedies: list[RemedyRow]
    measures: list[MeasureRow]


def overview_page(answer: BuildResult, which: str, build: Build, member: Membership) -> OverviewPage | None:
    """View-model of the page; None when the figures contradict one another."""
    if answer.review is None:
        return None
    system = UnitSystem(member.user.unit_system)
    found = answer.review.stock if which == "stock" else answer.review.proposed
    return OverviewPage(
        goal=goal_line(answer, build, system),
        verdict=found.verdict.value,
        headline=wording.headline(found),
        sentences=wording.summary(found, system, answer.review.completed.goal.goal_rpm),
        good_to=wording.good_to(found, system),
        worst=worst_figure(found, system),
        rows=[check_row(check, system) for check in found.checks],
        remedies=remedy_rows(found, system),
        measures=measure_rows(found.measure_next, system),
    )
