"""Verdict-sheet rows, remedies and measurements as strings for templates; pure, in the person's unit system."""

import re
from dataclasses import dataclass

from rocklash.ui.drawings import margin_bar
from rocklash.ui.drawings.margin_bar import MarginBar
from valvetrain import wording
from valvetrain.studies.checks.assessment import is_guess
from valvetrain.studies.checks.check import Check, Remedy
from valvetrain.studies.review.build import MeasureNext, SetupReview
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, unit_symbol
from valvetrain.wording.checks import FORMULA_OF, TERM_OF


@dataclass(frozen=True)
class CheckRow:
    """One row of the verdict sheet."""

    verdict: str
    title: str
    figure: str
    unit: str
    other: str
    sense: str
    limit: str
    margin: str
    spread: str
    bar: MarginBar
    rests_on: str
    why: str
    worst: str
    origin: str
    made_of: str
    anchor: str
    term: str = ""
    formula: str = ""


@dataclass(frozen=True)
class RemedyRow:
    """One way out: what, what it does, and the verdict it leads to."""

    what: str
    effects: str
    verdict: str
    suffices: bool
    about: str
    spoils: str


def signed(value: float, kind: QuantityKind, system: UnitSystem) -> str:
    """A margin with its sign."""
    text = show(value, kind, system, difference=True)
    return text if text.startswith("\N{MINUS SIGN}") or not text.strip("0.") else f"+{text}"


def _spread(check: Check, system: UnitSystem) -> str:
    """`±140`, or where the interval is skew its two ends."""
    if check.low is not None and check.high is not None:
        return f"{show(check.low, check.kind, system)}\N{EN DASH}{show(check.high, check.kind, system)}"
    return f"±{show(check.spread, check.kind, system, difference=True)}"


def gap_words(check: Check, system: UnitSystem) -> str:
    """What a gap may be off by, with every part at its worst and as is likely; empty for other checks and for measured gaps."""
    if check.worst_case is None or check.likely is None:
        return ""
    worst, likely = (show(value, check.kind, system, difference=True) for value in (check.worst_case, check.likely))
    return f" It may be off by {worst} {unit_symbol(check.kind, system)} (worst case), {likely} (likely)."


def check_row(check: Check, system: UnitSystem) -> CheckRow:
    """A check as a row."""
    other_system = UnitSystem.METRIC if system is UnitSystem.INCH else UnitSystem.INCH
    unit, other_unit = unit_symbol(check.kind, system), unit_symbol(check.kind, other_system)
    guess = is_guess(check)
    figure = show(check.figure, check.kind, system)
    if guess:
        places = 1 if system is UnitSystem.METRIC else 3
        figure = "…".join(show(end, check.kind, system, places) for end in (check.figure - check.spread, check.figure + check.spread))
    made_of = " + ".join(f"{name} {quantity(value, check.kind, system)}" for name, value in check.made_of)
    return CheckRow(
        verdict=check.verdict.value,
        title=wording.title(check),
        figure=figure,
        unit=unit,
        other=f"{show(check.figure, check.kind, other_system)} {other_unit}" if unit != other_unit and not guess else "",
        sense="≥" if check.at_least else "≤",
        limit=show(check.limit, check.kind, system),
        margin="" if guess else signed(check.margin, check.kind, system),
        spread=_spread(check, system) if not guess else "",
        bar=margin_bar.draw(check.margin, check.spread, check.verdict.value),
        rests_on="a guess: measure it" if guess else check.basis,
        why=wording.told(check.why, system) + gap_words(check, system),
        worst=check.worst,
        origin=check.limit_origin,
        made_of=made_of,
        anchor=f"check-{check.code.value}-{check.about.replace(' ', '-')}",
        term=TERM_OF.get(check.code, ""),
        formula=FORMULA_OF.get(check.code, ""),
    )


def ranked_remedies(found: SetupReview, most: int = 6) -> list[tuple[Remedy, Check]]:
    """Fixes of the worst checks, those first that suffice and spoil nothing; the same action on one side is told once.

    A lower goal is one for the whole engine: only the lowest of all is told.
    """
    told: dict[tuple[str, str], tuple[Remedy, Check]] = {}
    for check in found.checks:
        for remedy in check.remedies:
            whole = remedy.action == "a lower goal"
            key = (remedy.action, "" if whole or not check.side else check.side.value)
            if key not in told or (whole and remedy.amount < told[key][0].amount):
                told[key] = (remedy, check)
    return sorted(told.values(), key=lambda item: (not item[0].suffices, bool(item[0].spoils)))[:most]


def remedy_rows(found: SetupReview, system: UnitSystem, most: int = 6) -> list[RemedyRow]:
    """The same as rows."""
    return [remedy_row(remedy, check, system) for remedy, check in ranked_remedies(found, most)]


def remedy_row(remedy: Remedy, check: Check, system: UnitSystem) -> RemedyRow:
    """One fix as a row."""
    effects = ", ".join(wording.effect(effect, system) for effect in remedy.effects)
    spoils = " and ".join(f"{wording.NAMES[effect.code]} is {wording.verdict_word(effect.verdict)}" for effect in remedy.spoils)
    return RemedyRow(
        wording.action(remedy, system), effects, remedy.effects[0].verdict.value, remedy.suffices, wording.title(check), spoils
    )


@dataclass(frozen=True)
class MeasureRow:
    """One measurement worth taking."""

    what: str
    about: str
    how: str
    before: str
    after: str


def _half_width(value: float, kind: QuantityKind, system: UnitSystem) -> str:
    """A spread with its unit, never told as nothing while it is something."""
    places = (None, *range(1, 7))
    words = next((text for each in places if re.search("[1-9]", text := show(value, kind, system, each, difference=True))), "0")
    return f"{words} {unit_symbol(kind, system)}".strip()


def measure_rows(items: tuple[MeasureNext, ...], system: UnitSystem) -> list[MeasureRow]:
    """Measurements in the order in which they would narrow the verdict most."""
    return [
        MeasureRow(
            wording.input_name(item.what).capitalize(),
            item.about,
            wording.how_to_measure(item.what),
            f"±{_half_width(item.before, item.kind, system)}",
            f"±{_half_width(item.after, item.kind, system)}",
        )
        for item in items
    ]
