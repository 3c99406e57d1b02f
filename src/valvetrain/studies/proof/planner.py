"""Which test tells most for its time and money: outcomes of each under each cause, kept as data, and the bits they are expected to tell.

The tables are judgement, never below 0.01, shown and editable. Two changes at once spoil both. Source: Lindley 1956; Shannon.
"""

import csv
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib import resources
from typing import Final

from valvetrain.errors import OutOfRangeError

CAUSES: Final = ("float", "clearance", "fuel", "spark", "limiter")
CAUSE_WORDS: Final = {
    "float": "valves float", "clearance": "a clearance is wrong", "fuel": "mixture", "spark": "spark", "limiter": "limiter or governor",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """One thing that may be seen, with its likelihood under each cause."""

    words: str
    under: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class RevTest:
    """A test at hand: key, words, minutes, money, and its outcomes. `change` names what it changes in the model, if anything."""

    key: str
    words: str
    minutes: float
    money: float
    change: str
    outcomes: tuple[Outcome, ...]


@dataclass(frozen=True, kw_only=True)
class Ranked:
    """A test with the bits it is expected to tell, those about float alone, its cost in minutes, and bits an hour."""

    test: RevTest
    bits: float
    about_float: float
    cost: float

    @property
    def an_hour(self) -> float:
        """Bits an hour of cost."""
        return self.bits / self.cost * 60.0


@cache
def tests() -> tuple[RevTest, ...]:
    """The tests known, from the table that ships."""
    text = resources.files("valvetrain.data").joinpath("rev_tests.csv").read_text(encoding="utf-8")
    rows = list(csv.DictReader(line for line in text.splitlines() if not line.startswith("#")))
    out: dict[str, list[dict[str, str]]] = {}
    for row in rows:
        out.setdefault(row["key"], []).append(row)
    return tuple(
        RevTest(
            key=key, words=group[0]["test"], minutes=float(group[0]["minutes"]), money=float(group[0]["money"]), change=group[0]["change"],
            outcomes=tuple(Outcome(words=row["outcome"], under=tuple(float(row[cause]) for cause in CAUSES)) for row in group),
        )
        for key, group in out.items()
    )  # fmt: skip


LEAST: Final = 0.01  # no outcome is held to be impossible


def changed(test: RevTest, minutes: float, money: float, rows: Sequence[Sequence[float]]) -> RevTest:
    """The same test with another table: `rows` say, outcome by outcome, how often it is seen in 100 cases of each cause; each cause's column is brought
    to one in all. Raises OutOfRangeError for a table of another shape, figures below zero, or a cause under which nothing is ever seen."""
    if len(rows) != len(test.outcomes) or any(len(row) != len(CAUSES) for row in rows):
        raise OutOfRangeError(f"“{test.words}” wants {len(test.outcomes)} rows of {len(CAUSES)}.")
    if any(not (math.isfinite(each) and each >= 0.0) for row in rows for each in row) or not (
        0.0 < minutes <= 6000.0 and 0.0 <= money <= 1e6
    ):
        raise OutOfRangeError("Cases, minutes and money are figures above zero.")
    held = [[max(each / 100.0, LEAST) for each in row] for row in rows]
    for place, cause in enumerate(CAUSES):
        if sum(row[place] for row in rows) <= 0.0:
            raise OutOfRangeError(f"Under “{CAUSE_WORDS[cause]}” something must be seen: its column holds nothing.")
    whole = [sum(row[place] for row in held) for place in range(len(CAUSES))]
    outcomes = tuple(
        Outcome(words=old.words, under=tuple(each / sum_ for each, sum_ in zip(row, whole, strict=True)))
        for old, row in zip(test.outcomes, held, strict=True)
    )
    return replace(test, minutes=minutes, money=money, outcomes=outcomes)


def entropy(odds: Sequence[float]) -> float:
    """Bits that are open. Raises OutOfRangeError for odds that do not add up."""
    whole = sum(odds)
    if not math.isclose(whole, 1.0, abs_tol=1e-6) or min(odds) < 0.0:
        raise OutOfRangeError("Odds must lie above zero and add up to one.")
    return -sum(each * math.log2(each) for each in odds if each > 0.0)


def expected_bits(odds: Sequence[float], table: Sequence[Sequence[float]]) -> float:
    """Bits that a test is expected to tell: `table` holds the likelihood of each outcome (rows) under each cause."""
    left = 0.0
    for row in table:
        chance = sum(odd * each for odd, each in zip(odds, row, strict=True))
        if chance > 0.0:
            after = [odd * each / chance for odd, each in zip(odds, row, strict=True)]
            left += chance * -sum(each * math.log2(each) for each in after if each > 0.0)
    return entropy(odds) - left


def about_one(odds: Sequence[float], table: Sequence[Sequence[float]], cause: int) -> float:
    """Bits that a test tells about one cause being so or not."""
    yes = odds[cause]
    if not 0.0 < yes < 1.0:
        return 0.0
    rows = [
        (row[cause], sum(odd * each for index, (odd, each) in enumerate(zip(odds, row, strict=True)) if index != cause) / (1.0 - yes))
        for row in table
    ]
    return expected_bits((yes, 1.0 - yes), rows)


def rank(odds: Mapping[str, float], hour: float, known: Sequence[RevTest] | None = None) -> tuple[Ranked, ...]:
    """Tests by bits an hour of cost; `hour` is what an hour costs in the money of the tests (money counts as time), 0 where money is no matter."""
    given = [odds[cause] for cause in CAUSES]
    out = []
    for test in known if known is not None else tests():
        table = [outcome.under for outcome in test.outcomes]
        cost = test.minutes + (test.money * 60.0 / hour if hour else 0.0)
        out.append(Ranked(test=test, bits=expected_bits(given, table), about_float=about_one(given, table, 0), cost=max(cost, 1.0)))
    return tuple(sorted(out, key=lambda each: -each.an_hour))


def after(odds: Mapping[str, float], outcome: Outcome) -> dict[str, float]:
    """Odds once an outcome was seen."""
    product = {cause: odds[cause] * each for cause, each in zip(CAUSES, outcome.under, strict=True)}
    whole = sum(product.values())
    return {cause: value / whole for cause, value in product.items()} if whole else dict(odds)
