"""What goes together in the proposed set-up and the head, and what the family of engines teaches."""

from dataclasses import dataclass

from rocklash.answers.rows import kind_of
from rocklash.records.models import Build, FamilyNote, SisterEngine
from rocklash.stations.choose.forms import FINDINGS, TOPICS
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.record import BuildRecord, PartRecord
from valvetrain.studies.choose.fit import Fit, findings_of, fit_rules
from valvetrain.units import QuantityKind, UnitSystem, show, told, unit_symbol

_MARK = {Fit.CLASH: "short", Fit.DOUBT: "slim", Fit.FITS: "holds", Fit.UNTOLD: "unproven"}


@dataclass(frozen=True)
class FitLine:
    """What one rule says of a side: verdict, the two dimensions or words by name, and its sentence."""

    verdict: str
    about: str
    sentence: str
    basis: str


@dataclass(frozen=True)
class FitSide:
    """One side: clashes and doubts with sentences, how many fit, what cannot be told."""

    side: str
    lines: list[FitLine]
    fits: int
    untold: list[str]


def fit_sides(build: Build, record: BuildRecord, system: UnitSystem) -> list[FitSide]:
    """Both sides of the proposed set-up against every rule that applies."""
    assert kind_of(build.engine)
    found = []
    for side in Side:
        own = record.proposed[side]
        fit = {**record.stock[side].fit, **own.fit}
        parts: dict[str, PartRecord] = {owner.value: part for owner, part in own.parts.items() if owner is not Owner.SHIM or part.name}
        parts["outer"] = own.springs[0]
        if len(own.springs) > 1:
            parts["inner"] = own.springs[1]
        parts["head"] = PartRecord("the head", fit, dict(record.facts))
        rows = findings_of(parts)
        lines = [
            FitLine(_MARK[each.fit], _about(each.rule.left, each.rule.right), told(each.sentence, system), each.rule.basis)
            for each in rows
            if each.fit in (Fit.CLASH, Fit.DOUBT)
        ]  # fmt: skip
        untold = [_about(each.rule.left, each.rule.right) for each in rows if each.fit is Fit.UNTOLD]
        found.append(FitSide(side.value, lines, sum(each.fit is Fit.FITS for each in rows), untold))
    return found


def rules_count() -> int:
    """How many rules there are."""
    return len(fit_rules())


def _about(left: tuple[str, str], right: tuple[str, str]) -> str:
    words = lambda pair: f"{pair[0]} {pair[1]}".replace("_", " ")
    return f"{words(left)} against {words(right)}"


@dataclass(frozen=True)
class SisterLine:
    """A sister engine with its parts and what it is evidence of."""

    pk: int
    name: str
    told: str
    speaks: str
    evidence: str
    parts: list[tuple[str, str, str, str, str]]


def sister_lines(sisters: list[SisterEngine], limiter: float, system: UnitSystem) -> list[SisterLine]:
    """Sisters; one with the same springs speaks for what they hold."""
    lines = []
    words = dict(FINDINGS)
    for each in sisters:
        said = []
        if each.limiter:
            said.append(f"limiter {show(each.limiter, QuantityKind.SPEED, system)} rpm")
        if each.interval:
            hours = show(each.interval, QuantityKind.DURATION, system)
            said.append(f"valves looked at every {hours} {unit_symbol(QuantityKind.DURATION, system)}")
        speaks = ""
        if each.same_springs and each.limiter:
            more = each.limiter - limiter
            speaks = (
                f"With the same springs it holds {show(abs(more), QuantityKind.SPEED, system)} rpm {'more' if more >= 0 else 'less'} than this engine's "
                "limiter: evidence for the springs, as far as cams and masses are alike."
            )
        parts = [(part.what, part.own_number, part.sister_number, words[part.finding], part.evidence) for part in each.parts.all()]
        lines.append(SisterLine(each.pk, each.name, ", ".join(said), speaks, each.evidence, parts))
    return lines


def note_lines(notes: list[FamilyNote]) -> list[tuple[int, str, str, str]]:
    """Notes of the family: number, topic, text, by whom."""
    words = dict(TOPICS)
    return [(note.pk, words[note.topic], note.text, note.by.username if note.by else "somebody") for note in notes]
