"""An over-rev and its inspection as view-models."""

import math
from dataclasses import dataclass

from django.utils.timezone import localtime

from rocklash.answers.results import BuildResult
from rocklash.answers.rows import kind_of, positions_of
from rocklash.records.models import Build, OverRevCase
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.running.gearing import gears_of
from valvetrain.studies.running.inspection import inspection, outcome
from valvetrain.studies.running.over_rev import OverRev
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol
from valvetrain.wording import told

_WORST = (Verdict.SHORT, Verdict.UNPROVEN, Verdict.SLIM, Verdict.HOLDS)


@dataclass(frozen=True, kw_only=True)
class LimitRow:
    """One limit: what was reached, the limit, and what it means."""

    title: str
    reached: str
    limit: str
    unit: str
    verdict: str
    words: str


@dataclass(frozen=True, kw_only=True)
class StepView:
    """One step of the inspection with what may be found; `on` is what was found."""

    key: str
    place: str
    title: str
    how: str
    seen: str
    options: list[tuple[str, str, bool]]
    meaning: str
    grave: bool


@dataclass(frozen=True, kw_only=True)
class CaseLink:
    """An over-rev in the list."""

    pk: int
    words: str
    current: bool


@dataclass(frozen=True, kw_only=True)
class OverRevPage:
    """Everything the page prints."""

    case: OverRevCase | None
    reached: str
    how: str
    verdict: str
    sentence: str
    rows: list[LimitRow]
    waits: bool
    steps: list[StepView]
    looked: str
    state: str
    outcome: str
    cases: list[CaseLink]
    gears: list[tuple[str, str]]
    signed: str


def _row(found: OverRev, system: UnitSystem) -> list[LimitRow]:
    rows = []
    for each in sorted(found.against, key=lambda row: _WORST.index(row.verdict)):
        unit = unit_symbol(each.kind, system)
        reached = "\N{EN DASH}" if math.isnan(each.reached) else show(each.reached, each.kind, system)
        limit = "\N{EN DASH}" if math.isnan(each.limit) else show(each.limit, each.kind, system)
        rows.append(
            LimitRow(
                title=each.title.capitalize(),
                reached=reached,
                limit=limit,
                unit=unit,
                verdict=each.verdict.value,
                words=told(each.words, system),
            )
        )
    return rows


def _words(case: OverRevCase) -> str:
    if case.peak is not None:
        return f"{localtime(case.at):%d %b %Y}, logged {case.peak * 60:,.0f} rpm"
    if case.road is not None:
        return f"{localtime(case.at):%d %b %Y}, {case.road * 3.6:.0f} km/h into {case.gear_to or 0:.3f}"
    return f"{localtime(case.at):%d %b %Y}, {(case.before or 0) * 60:,.0f} rpm, {case.gear_from:.3f} into {case.gear_to:.3f}"


def _steps(build: Build, case: OverRevCase) -> tuple[list[StepView], str, str, str]:
    steps = inspection(kind_of(build.engine), positions_of(build.engine))
    rows = {row.step: row for row in case.findings.all()}
    found = {key: row.finding for key, row in rows.items()}
    views = []
    for step in steps:
        now = found.get(step.key, "")
        hit = next((each for each in step.findings if each.key == now), None)
        options = [("", "not looked at", not now)] + [(each.key, each.words, each.key == now) for each in step.findings]
        views.append(
            StepView(
                key=step.key,
                place=step.place,
                title=step.title,
                how=step.how,
                seen=now,
                options=options,
                meaning=hit.meaning if hit else "",
                grave=bool(hit and hit.grave),
            )
        )
    state, words = outcome(steps, found)
    return views, f"{len(found)} of {len(steps)}", state, words


def over_rev_page(
    answer: BuildResult, build: Build, case: OverRevCase | None, cases: list[OverRevCase], judgement: tuple[OverRev, bool] | None, system: UnitSystem
) -> OverRevPage:  # fmt: skip
    """View-model of the page."""
    engine = answer.review.completed.engine if answer.review else {}
    gears = [(f"{ratio:.3f}", f"gear {number}, {ratio:.3f}") for number, ratio in gears_of(engine).items()]
    links = [CaseLink(pk=each.pk, words=_words(each), current=case is not None and each.pk == case.pk) for each in cases]
    found, waits = judgement or (None, False)
    steps, looked, state, words = _steps(build, case) if case else ([], "", "open", "")
    reached = ""
    if found:
        low, high = show(found.reached.low, QuantityKind.SPEED), show(found.reached.high, QuantityKind.SPEED)
        reached = f"{low} to {high}"
    return OverRevPage(
        case=case,
        reached=reached,
        how=found.reached.words if found else "",
        verdict=found.verdict.value if found else "unproven",
        sentence=told(found.sentence if found else answer.contradiction, system),
        rows=_row(found, system) if found else [],
        waits=waits,
        steps=steps,
        looked=looked,
        state=state,
        outcome=words,
        cases=links,
        gears=gears,
        signed=f"Signed by {case.closed_by}, {localtime(case.closed_at):%d %b %Y %H:%M}" if case and case.closed_at else "",
    )
