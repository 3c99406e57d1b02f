"""After a failure: marks, what the model says, odds, as view-models."""

from dataclasses import dataclass

from rocklash.records.models import Finding, FindingPicture, ProofTest
from valvetrain.studies.job.knowledge import signs
from valvetrain.studies.proof import evidence
from valvetrain.units import UnitSystem, told


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


def suspects_of(test: ProofTest | None, witnesses: tuple[evidence.ModelWitness, ...], system: UnitSystem) -> list[SuspectView]:
    """Scenarios by odds, from the newest sheet of marks and from what the model and the records say."""
    if test is None:
        return []
    marks = test.readings["marks"]
    seen, absent = ([key for key, state in marks.items() if state == wanted] for wanted in ("seen", "absent"))
    return [
        SuspectView(
            words=each.words, odds=f"{100 * each.odds:.0f} in 100" if each.odds >= 0.01 else "under 1 in 100", share=max(1, round(100 * each.odds)), speaks_for="; ".join(each.speaks_for),
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
