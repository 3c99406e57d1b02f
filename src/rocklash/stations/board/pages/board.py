"""The board's rows: verdict and next step of each build."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.utils.safestring import SafeString

from rocklash.answers.clearances import lash_state
from rocklash.answers.results import BuildResult
from rocklash.records.models import Build, ClearanceSession, DueState, ProofKind
from rocklash.ui.drawings.small_head import small_head
from rocklash.ui.presenting import signed
from valvetrain import wording
from valvetrain.studies.checks.assessment import is_guess
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.job.facts import KIND_WORDS, JobKind
from valvetrain.units import QuantityKind, UnitSystem, quantity, unit_symbol

BESIDE = 12


@dataclass(frozen=True, kw_only=True)
class BoardRow:
    """One build on the board."""

    build: Build
    verdict: str
    headline: str
    sentence: str
    goal: str
    lash: str
    next_step: str
    next_station: str
    owner: str
    open_job: str
    promised: str
    waits: tuple[str, ...]
    due: tuple[str, ...]
    last: str
    head: SafeString
    worst: str
    margin: str


def next_step(answer: BuildResult, session: ClearanceSession | None, goal_known: bool) -> tuple[str, str]:  # noqa: FBT001
    """What to do next and on which station, from what is known."""
    if answer.review is None:
        return "Settle the figures that contradict one another", "engine"
    if not goal_known:
        return "Set the working maximum", "goal"
    found = answer.review.proposed
    if found.verdict is Verdict.SHORT:
        return "Fix what falls short", "springs"
    if found.verdict is Verdict.UNPROVEN and found.measure_next:
        return f"Measure: {wording.input_name(found.measure_next[0].what)}", "springs"
    if session is None or session.signed_at is None:
        return "Set the clearances", "lash"
    return "Print the build sheet", "sheet"


def _day(text: str | None) -> str:
    return f"{date.fromisoformat(text):%d %b}" if text else ""


def _last(told: dict[str, Any]) -> str:
    """The newest result: a test, or else what it ran last."""
    test, ran = told.get("test"), told.get("ran")
    if test:
        name = f", {test['name']}" if test["name"] else ""
        return f"{ProofKind(test['kind']).label} {test['phase']}{name}, {_day(test['on'])}"
    return f"ran {ran['seconds'] / 3600.0:.1f} h on {_day(ran['on'])}" if ran and ran["seconds"] else ""


def _worst(answer: BuildResult, system: UnitSystem) -> tuple[str, str]:
    """The check that decides the verdict, and what is in hand or short there with its doubt."""
    if answer.review is None or not answer.review.proposed.checks:
        return "", ""
    worst = answer.review.proposed.checks[0]
    margin = f"{signed(worst.margin, worst.kind, system)} {unit_symbol(worst.kind, system)}"
    return wording.title(worst), "not known" if is_guess(worst) else margin


@dataclass(frozen=True, kw_only=True)
class DueHere:
    """One thing due on one engine, for the list beside the board."""

    number: int
    name: str
    what: str
    state: str


def due_beside(states: Iterable[DueState]) -> list[DueHere]:
    """What is past its time first, then what is due; the first dozen."""
    found = [
        DueHere(number=state.build_id, name=state.build.name, what=line["what"], state=line["state"])
        for state in states
        for line in state.lines
        if line["state"] in ("over", "due")
    ]
    return sorted(found, key=lambda each: each.state != "over")[:BESIDE]


def board_row(
    build: Build, answer: BuildResult, session: ClearanceSession | None, valves: int, system: UnitSystem, told: dict[str, Any]
) -> BoardRow:
    """Row of one build; `told` is what selectors.board.laid_out found of it."""
    goal = answer.review.completed.goal if answer.review else None
    step, station = next_step(answer, session, "goal_rpm" in build.figures)
    job = told.get("job")
    if job:
        step, station = f"Go on with: {KIND_WORDS[JobKind(job['kind'])].lower()}", "job"
    due = list(dict.fromkeys((told.get("due") or {}).get("lines") or []))
    if due and not job:
        step, station = f"Due: {due[0]}", "logbook-due"
    worst, margin = _worst(answer, system)
    boost = f", {quantity(goal.boost.value, QuantityKind.PRESSURE, system)}" if goal and goal.boost.value else ""
    return BoardRow(
        build=build,
        verdict=answer.review.proposed.verdict.value if answer.review else "unproven",
        headline=wording.headline(answer.review.proposed) if answer.review else "Figures disagree.",
        sentence=(wording.summary(answer.review.proposed, system, answer.review.completed.goal.goal_rpm) or [""])[0]
        if answer.review
        else answer.contradiction,
        goal=f"{quantity(goal.goal_rpm, QuantityKind.SPEED, system)}{boost}" if goal else "",
        lash=lash_state(session, valves)[1],
        next_step=step,
        next_station=station,
        owner=build.engine.owner,
        open_job=KIND_WORDS[JobKind(job["kind"])].lower() if job else "",
        promised=_day(job["promised"]) if job else "",
        waits=tuple(f"{wait['what']}, by {_day(wait['last'])}" for wait in job["waits"]) if job else (),
        due=tuple(due),
        last=_last(told),
        head=small_head(build.engine.cylinders, build.engine.valves_per_side, lash_state(session, valves)[0] == "done"),
        worst=worst,
        margin=margin,
    )
