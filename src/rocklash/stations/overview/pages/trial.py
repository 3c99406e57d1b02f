"""A fix that is tried: what every check would say, beside what it says now."""

from dataclasses import dataclass

from rocklash.answers.results import BuildResult
from rocklash.answers.trying import Fix
from rocklash.ui.presenting import remedy_row
from valvetrain import wording
from valvetrain.studies.checks.check import Check
from valvetrain.units import UnitSystem, quantity


@dataclass(frozen=True, kw_only=True)
class TrialRow:
    """One check that would change: figure and verdict now and then."""

    title: str
    now: str
    verdict: str
    then: str
    would: str


@dataclass(frozen=True, kw_only=True)
class Trial:
    """What is tried, the verdict it would lead to, and the checks that would change; `key` and `seen` name it to the command that takes it."""

    key: str
    seen: str
    what: str
    verdict: str
    headline: str
    good_to: str
    rows: list[TrialRow]


def _figure(check: Check | None, system: UnitSystem) -> str:
    return quantity(check.figure, check.kind, system) if check else "\N{EN DASH}"


def trial_of(fix: Fix, answer: BuildResult, then: BuildResult, system: UnitSystem) -> Trial:
    """View-model of a trial; both answers without contradiction."""
    assert answer.review
    assert then.review
    now = {(check.code, check.about): check for check in answer.review.proposed.checks}
    rows = []
    for check in then.review.proposed.checks:
        was = now.get((check.code, check.about))
        figures = _figure(was, system), _figure(check, system)
        if was is None or figures[0] != figures[1] or was.verdict is not check.verdict:
            rows.append(
                TrialRow(
                    title=wording.title(check), now=figures[0], verdict=was.verdict.value if was else "unproven", then=figures[1],
                    would=check.verdict.value,
                )
            )  # fmt: skip
    found = then.review.proposed
    what = remedy_row(fix.remedy, fix.check, system).what
    side = f", {fix.side.value}" if fix.side else ""
    return Trial(
        key=fix.key, seen=fix.seen, what=f"{what}{side}", verdict=found.verdict.value, headline=wording.headline(found),
        good_to=wording.good_to(found, system), rows=rows,
    )  # fmt: skip
