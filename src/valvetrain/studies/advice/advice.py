"""Advice for a build: the rules that speak, on which side, with their reasons; the schools that concern it."""

from collections.abc import Mapping
from dataclasses import dataclass

from valvetrain.parts.engine import Side
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.advice.claims import Claim, claims_of
from valvetrain.studies.advice.rules import TOPICS, Rule, School, rules, schools
from valvetrain.studies.advice.situation import Findings, filled, findings_of, situation_of
from valvetrain.studies.review.build import BuildReview


@dataclass(frozen=True)
class Advised:
    """A rule that speaks: the sides it speaks of, and its reason with the figures of the build in it (amounts in SI until told)."""

    rule: Rule
    sides: tuple[Side, ...]
    advice: str
    because: str


@dataclass(frozen=True)
class Advice:
    """Everything: advice by topic in the order of the topics, schools, common claims answered; `findings` are what it rests on."""

    advised: tuple[Advised, ...]
    schools: tuple[School, ...]
    claims: tuple[Claim, ...]
    findings: Findings


class _Blank(dict[str, str]):
    """A brace nobody fills is left out."""

    def __missing__(self, key: str) -> str:
        return ""


def _fill(text: str, words: Mapping[str, str]) -> str:
    return " ".join(text.format_map(_Blank(words)).split())


def advise(record: BuildRecord, review: BuildReview) -> Advice:
    """Advice for the proposed set-up of a build."""
    found = findings_of(record, review)
    situations = {side: situation_of(record, review, side, found) for side in Side}
    words = {side: filled(record, review, side, found) for side in Side}
    advised = []
    for rule in rules():
        sides = tuple(side for side in Side if rule.speaks(situations[side]))
        if sides:
            advised.append(Advised(rule, sides, _fill(rule.advice, words[sides[0]]), _fill(rule.because, words[sides[0]])))
    order = list(TOPICS)
    advised.sort(key=lambda each: order.index(each.rule.topic))
    spoken = tuple(school for school in schools() if any(school.speaks(situations[side]) for side in Side))
    return Advice(tuple(advised), spoken, claims_of(record, review, found), found)
