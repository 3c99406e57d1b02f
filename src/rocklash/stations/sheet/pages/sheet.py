"""The build sheet as view-models: goal, verdicts, parts, heights, clearances."""

from dataclasses import dataclass

from django.utils.timezone import localtime

from rocklash.answers.clearances import ValveStatus, card_notes, feel_words, stale_words, statuses
from rocklash.answers.job_facts import JobFacts, job_facts
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import keyhole_of, side_rows
from rocklash.answers.shim_plan import fits_of
from rocklash.answers.side_numbers import completed_side
from rocklash.desk.words import SLOT_WORDS
from rocklash.records.models import Build, ClearanceSession, Membership, SetupRole, ShimStock
from rocklash.ui.presenting import CheckRow, check_row
from valvetrain import wording
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import SHIMMED, Side
from valvetrain.parts.figure import Basis
from valvetrain.studies.clearance.shim_plan import Act
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, unit_symbol
from valvetrain.wording.inputs import basis_words


@dataclass(frozen=True, kw_only=True)
class SheetValve:
    """One valve's line: limits, reading, shim, re-check."""

    name: str
    limits: str
    read: str
    shim: str
    fit: str
    again: str
    state: str


@dataclass(frozen=True, kw_only=True)
class SheetSide:
    """Parts and fit of one side."""

    name: str
    parts: list[tuple[str, str]]
    fit: list[tuple[str, str, str]]


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """Everything on the sheet."""

    goal: str
    headline: str
    verdict: str
    good_to: str
    checks: list[CheckRow]
    sides: list[SheetSide]
    valves: list[SheetValve]
    unit: str
    signed: str
    note: str
    method: str
    shims: bool
    terms: str
    warnings: list[str]
    job: JobFacts


def _terms(session: ClearanceSession | None, rows: list[ValveStatus], system: UnitSystem) -> str:
    """How the sheet was kept: aim with its reason, engine hours and temperature, new valves."""
    if session is None:
        return ""
    length = [f"{side} {quantity(value, QuantityKind.LENGTH, system)}" for side, value in sorted(session.aims.items())]
    aim = f"aim {', '.join(length)}" if session.aim == "own" and length else f"aim {session.aim}"
    words = [f"{aim}, because {session.reason}" if session.reason else aim]
    if session.hours is not None:
        words.append(f"engine {session.hours:g} h")
    if session.temperature is not None:
        words.append(f"at {quantity(session.temperature, QuantityKind.TEMPERATURE, system)}")
    new = [row.position.name for row in rows if row.again and row.again.renewed]
    return " · ".join([*words, f"new valve: {', '.join(new)}"] if new else words)


def _side(answer: BuildResult, build: Build, side: Side, system: UnitSystem) -> SheetSide:
    row = side_rows(build)[SetupRole.PROPOSED, side.value]
    slots = [slot for slot in SLOT_WORDS if getattr(row, slot) and not (slot == "keepers" and keyhole_of(row))]
    parts = [(SLOT_WORDS[slot], getattr(row, slot).name) for slot in slots]
    done = completed_side(answer, "proposed", side)
    fit = []
    for key in ("installed_height", "spring_shim", "retainer_to_seal", "clearance"):
        figure, kind = done.fit[key], FIGURES[Owner.FIT, key]
        source = "estimate: measure" if figure.basis is Basis.ESTIMATE else basis_words(figure.basis)
        fit.append((kind.label, quantity(figure.value, kind.kind, system), source))
    return SheetSide(name=side.value.capitalize(), parts=parts, fit=fit)


def _valves(rows: list[ValveStatus], fits: dict[int, float], system: UnitSystem) -> list[SheetValve]:
    def gap(low: float, high: float) -> str:
        decimals = 4 if system is UnitSystem.INCH else 3
        low_text, high_text = show(low, QuantityKind.LENGTH, system, decimals), show(high, QuantityKind.LENGTH, system, decimals)
        return low_text if low_text == high_text else f"{low_text}–{high_text}"

    def size(value: float | None) -> str:
        return show(value, QuantityKind.LENGTH, system, 4 if system is UnitSystem.INCH else 3) if value else ""

    def done(row: ValveStatus) -> str:
        plan = row.plan
        if plan and plan.act is Act.TURN and plan.amount:
            return wording.turn(plan.amount)
        if plan and plan.act is Act.GRIND and plan.amount:
            return f"grind {size(plan.amount)}"
        if row.again:
            return size(row.again.shim)
        return size(fits.get(row.position.pk) or (plan.amount if plan and plan.act is Act.SHIM else row.first.shim if row.first else None))

    return [
        SheetValve(
            name=row.position.name,
            limits=gap(row.limits.least, row.limits.most),
            read=gap(row.found.low, row.found.high) if row.found else "",
            shim=size(row.first.shim) if row.first else "",
            fit=done(row),
            again=gap(row.found_again.low, row.found_again.high) if row.found_again else "",
            state=row.state,
        )
        for row in rows
    ]


def sheet_of(
    answer: BuildResult, build: Build, member: Membership, session: ClearanceSession | None, goal: str, shelf: list[ShimStock]
) -> Sheet | None:
    """View-model of the sheet; None when the figures contradict one another."""
    if answer.review is None:
        return None
    system, found = UnitSystem(member.user.unit_system), answer.review.proposed
    rows = statuses(build, session, answer)
    fits = fits_of(rows, session, shelf) if build.engine.adjuster in SHIMMED else {}
    return Sheet(
        goal=goal,
        headline=wording.headline(found),
        verdict=found.verdict.value,
        good_to=wording.good_to(found, system),
        checks=[check_row(check, system) for check in found.checks],
        sides=[_side(answer, build, side, system) for side in (Side.EXHAUST, Side.INTAKE)],
        valves=_valves(rows, fits, system),
        unit=unit_symbol(QuantityKind.LENGTH, system),
        signed=f"Signed by {session.signed_by}, {localtime(session.signed_at):%d %b %Y %H:%M}"
        if session and session.signed_at
        else "Not signed yet",
        note=session.note if session else "",
        method=f"best blade, ±{feel_words(session, system)}" if session and session.method == "blade" else "go / no-go",
        shims=build.engine.adjuster in SHIMMED,
        terms=_terms(session, rows, system),
        job=job_facts(answer, build, system),
        warnings=[*stale_words(build, session), *card_notes(build, answer, system)],
    )
