"""After a failure: marks, what the model says, odds, as view-models."""

import math
from dataclasses import dataclass

from rocklash.answers.results import BuildResult
from rocklash.records.models import Finding, FindingPicture, ProofTest
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.job.knowledge import signs
from valvetrain.studies.proof import evidence
from valvetrain.units import QuantityKind, UnitSystem, amount, told
from valvetrain.wording.checks import title

_GAPS = {GapKind.COIL_BIND: "coil_bind", GapKind.PISTON_VALVE: "piston", GapKind.RETAINER: "coil_bind"}


@dataclass(frozen=True, kw_only=True)
class SuspectView:
    """One scenario."""

    words: str
    odds: str
    share: int
    speaks_for: str
    against: str
    would_leave: str
    model: list[str]


def witnesses_of(answer: BuildResult, reached: float | None, role: str = "proposed") -> list[evidence.ModelWitness]:
    """What the model says of each scenario, with the speed that the log shows (rev/s) where there is one."""
    found: list[evidence.ModelWitness] = []
    if answer.review is None:
        return found
    done = answer.review.completed
    goal, over = done.goal.goal_rpm, done.goal.over_rev
    speed = reached or goal
    what = amount(speed, QuantityKind.SPEED)
    onsets = [motion.sustained for (each, _), motion in answer.motions.items() if each == role and motion.sustained is not None]
    if onsets:
        least = min(onsets, key=lambda onset: onset.value)
        width = max((least.high - least.low) / 4.0, 1e-6)
        chance = 0.5 * (1.0 + math.erf((speed - least.value) / (width * math.sqrt(2.0))))
        band = f"{amount(least.low, QuantityKind.SPEED)} to {amount(least.high, QuantityKind.SPEED)}"
        found.append(
            evidence.ModelWitness(scenario="float", factor=0.25 + 3.0 * chance, why=f"Valves float from {band}; it was turned to {what}.")
        )
    if reached:
        beyond = reached > over * 0.99
        words = f"The log's highest, {what}, lies {'at or above' if beyond else 'below'} the over-rev that was allowed for, {amount(over, QuantityKind.SPEED)}."
        found.append(evidence.ModelWitness(scenario="over_rev", factor=4.0 if beyond else 0.25, why=words))
    for check in answer.review.proposed.checks if role == "proposed" else answer.review.stock.checks:
        key = _GAPS.get(check.code) if isinstance(check.code, GapKind) else None
        if key:
            slim = check.margin < check.spread
            words = f"{title(check)}: {'slim or short' if slim else 'room in hand'}."
            found.append(evidence.ModelWitness(scenario=key, factor=1.8 if slim else 0.6, why=words))
    return found


def suspects_of(test: ProofTest | None, answer: BuildResult, system: UnitSystem) -> list[SuspectView]:
    """Scenarios by odds, from the newest sheet of marks."""
    if test is None:
        return []
    marks = test.readings["marks"]
    seen, absent = ([key for key, state in marks.items() if state == wanted] for wanted in ("seen", "absent"))
    witnesses = witnesses_of(answer, test.conditions.get("reached"))
    return [
        SuspectView(
            words=each.words, odds=f"{100 * each.odds:.0f} in 100", share=max(1, round(100 * each.odds)), speaks_for="; ".join(each.speaks_for),
            against="; ".join(each.against), would_leave="; ".join(each.would_leave), model=[told(why, system) for why in dict.fromkeys(each.model)],
        )
        for each in evidence.weigh(seen, absent, witnesses)
    ]  # fmt: skip


def mark_rows(test: ProofTest | None) -> list[tuple[str, str, str]]:
    """Marks with what was said of them last: key, words, state."""
    said = test.readings["marks"] if test else {}
    return [(mark.key, mark.words, said.get(mark.key, "")) for mark in evidence.marks()]


@dataclass(frozen=True, kw_only=True)
class FoundRow:
    """A finding on a part, for the paper."""

    number: int
    part: str
    where: str
    sees: str
    words: str
    pictures: list[FindingPicture]


def found_rows(rows: list[Finding]) -> list[FoundRow]:
    """Findings on the parts, open ones first."""
    known = signs()
    return [
        FoundRow(
            number=row.number, part=row.part, where=row.position.name if row.position else row.place,
            sees=f"{known[row.sign].sign}." if row.sign in known else "", words=row.words, pictures=list(row.pictures.all()),
        )
        for row in sorted(rows, key=lambda row: (bool(row.settled), row.grade, row.number))
    ]  # fmt: skip
