"""Advice for a build: the rules that speak, on which side, with their reasons; the schools that concern it."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace

from valvetrain.parts.engine import Side
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.advice.claims import Claim, claims_of
from valvetrain.studies.advice.rules import TOPICS, Rule, School, rules, schools
from valvetrain.studies.advice.situation import Findings, filled, findings_of, situation_of
from valvetrain.studies.review.build import BuildReview
from valvetrain.units import LENGTH, QuantityKind, amount


@dataclass(frozen=True)
class Advised:
    """A rule that speaks: the sides it speaks of, and its words with the figures of the build in them (amounts in SI until told)."""

    rule: Rule
    sides: tuple[Side, ...]
    advice: str
    because: str
    elsewhere: str
    caution: str


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


_AMOUNT = re.compile(r"\[(\d+(?:\.(\d+))?) (mm|°C)\]")


def _amounts(text: str) -> str:
    """Amounts of the data file in SI, to be told in the reader's units."""

    def one(found: re.Match[str]) -> str:
        value, places = float(found.group(1)), len(found.group(2) or "")
        if found.group(3) == "mm":
            return amount(value * 1e-3, LENGTH, places)
        return amount(value + 273.15, QuantityKind.TEMPERATURE)

    return _AMOUNT.sub(one, text)


def _fill(text: str, words: Mapping[str, str]) -> str:
    return _amounts(" ".join(text.format_map(_Blank(words)).split()))


def _school(school: School) -> School:
    return replace(school, one=_amounts(school.one), other=_amounts(school.other), ours=_amounts(school.ours))


def advise(record: BuildRecord, review: BuildReview) -> Advice:
    """Advice for the proposed set-up of a build."""
    found = findings_of(record, review)
    situations = {side: situation_of(record, review, side, found) for side in Side}
    words = {side: filled(record, review, side, found) for side in Side}
    advised = []
    for rule in rules():
        sides = tuple(side for side in Side if rule.speaks(situations[side]))
        if sides:
            told = [_fill(text, words[sides[0]]) for text in (rule.advice, rule.because, rule.elsewhere, rule.caution)]
            advised.append(Advised(rule, sides, *told))
    order = list(TOPICS)
    advised.sort(key=lambda each: order.index(each.rule.topic))
    spoken = tuple(_school(school) for school in schools() if any(school.speaks(situations[side]) for side in Side))
    return Advice(tuple(advised), spoken, claims_of(record, review, found), found)
