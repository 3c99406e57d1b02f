"""What is due: rules of the trade as data, those of the maker's manual and of the workshop, held against what an engine ran since each was done last.

What stands out is due; what does not is told to stay. A rule is a range: before its least it rests, from its least on it is due, past its most it is over.
"""

import csv
import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from importlib import resources
from typing import Final

from valvetrain.errors import OutOfRangeError

_SOON: Final = 0.8  # of a rule's least


class Unit(StrEnum):
    """What a rule counts."""

    HOURS = "h"
    PASSES = "passes"
    SEASONS = "season"
    LIVES = "mean life"  # of a wire: worked out, never typed


class After(StrEnum):
    """From what on it counts: since it was done last, since something was changed, or since the engine went past a limit."""

    RUN = "run"
    PASSES = "passes"
    SEASON = "season"
    CHANGE = "change"
    OVER_REV = "over_rev"


class Whose(StrEnum):
    """Who says so, the strongest first."""

    MAKER = "the maker's manual"
    CARD = "the part's own card"
    MEASURED = "this engine's own readings"
    USE = "what its use takes, worked out"
    GOAL = "the interval asked for on Goal"
    OWN = "this workshop"
    TRADE = "common practice"


class State(StrEnum):
    """How a rule stands, the most urgent first."""

    OVER = "over"
    DUE = "due"
    UNKNOWN = "not known"
    SOON = "soon"
    RESTS = "rests"


@dataclass(frozen=True, kw_only=True)
class Rule:
    """One rule. `when` are words of the engine any of which makes it apply (each may join several by `+`); `any` always does."""

    id: str
    what: str
    after: After
    least: float
    most: float
    unit: Unit
    when: tuple[str, ...]
    why: str
    does: str
    whose: Whose = Whose.TRADE
    page: str = ""

    def applies(self, words: frozenset[str]) -> bool:
        """Whether it is for an engine of these words."""
        return any(each == "any" or set(each.split("+")) <= words for each in self.when)


@dataclass(frozen=True, kw_only=True)
class Run:
    """What an engine ran since something: hours, passes, seasons; None where nobody knows."""

    hours: float | None = None
    passes: float | None = None
    seasons: float | None = None

    def of(self, unit: Unit) -> float | None:
        """In the unit of a rule."""
        return {Unit.HOURS: self.hours, Unit.PASSES: self.passes, Unit.SEASONS: self.seasons}.get(unit)


@dataclass(frozen=True, kw_only=True)
class Due:
    """A rule held against an engine: what was used of it (None: not known, or known as a `band` only), what is left to its least and its most, and how it
    stands."""

    rule: Rule
    used: float | None
    left: tuple[float, float] | None
    state: State
    band: tuple[float, float] | None = None


@cache
def trade_rules() -> tuple[Rule, ...]:
    """The rules that ship. Raises OutOfRangeError for a row whose range is upside down."""
    text = resources.files("valvetrain.data").joinpath("due_rules.csv").read_text(encoding="utf-8")
    rows = csv.DictReader(line for line in text.splitlines() if not line.startswith("#"))
    found = []
    for row in rows:
        least, most = float(row["least"]), float(row["most"])
        if not 0.0 <= least <= most:
            raise OutOfRangeError(f"Rule {row['id']}: its range runs from {least:g} to {most:g}.")
        found.append(
            Rule(
                id=row["id"], what=row["what"], after=After(row["after"]), least=least, most=most, unit=Unit(row["unit"]),
                when=tuple(row["when"].split("|")), why=row["why"], does=row["does"],
            )
        )  # fmt: skip
    return tuple(found)


def typed_rule(
    what: str, every: float, unit: Unit, whose: Whose, *, most: float | None = None, page: str = "", why: str, does: str
) -> Rule:
    """A rule as somebody typed it, or as readings ask for it: one figure, or a range up to `most`. Raises OutOfRangeError for figures that are none."""
    end = every if most is None else most
    if not (math.isfinite(every) and math.isfinite(end) and 0.0 < every <= end):
        raise OutOfRangeError("An interval lies above zero, and ends after it begins.")
    return Rule(
        id=f"{whose.name.lower()}-{what}", what=what, after=After.RUN, least=every, most=end, unit=unit, when=("any",), why=why, does=does, whose=whose, page=page
    )  # fmt: skip


def in_force(words: Iterable[str], more: Sequence[Rule] = (), trade: Sequence[Rule] | None = None) -> tuple[Rule, ...]:
    """Rules for an engine of these words. Where manual or workshop speak of the same thing in the same unit, the trade's rule gives way, and the workshop's
    to the maker's."""
    told = frozenset(words)
    order = list(Whose)
    found: dict[tuple[str, Unit, After], Rule] = {}
    for rule in sorted([*more, *(trade_rules() if trade is None else trade)], key=lambda each: order.index(each.whose)):
        if rule.applies(told):
            found.setdefault((rule.what, rule.unit, rule.after), rule)
    return tuple(found.values())


def _state(rule: Rule, used: float | None) -> State:
    if used is None:
        return State.UNKNOWN
    if used >= rule.most:
        return State.OVER if rule.most > rule.least else State.DUE
    if used >= rule.least:
        return State.DUE
    return State.SOON if used >= _SOON * rule.least else State.RESTS


def of_life(what: str, band: tuple[float, float], watch: float, over: float, why: str, does: str) -> Due:
    """Parts of a mean life that a use took, as a band: it rests below `watch`, is to be watched across it, due where the band's middle (geometric) lies above
    `over`, past its time where the whole band does. Raises OutOfRangeError for a band that is none."""
    low, high = band
    if not 0.0 <= low <= high or math.isnan(high):
        raise OutOfRangeError("Parts of a life lie above zero, and the band ends after it begins.")
    state = (
        State.OVER
        if low > over
        else State.RESTS
        if high < watch
        else State.DUE
        if math.isinf(high) or low * high > over * over
        else State.SOON
    )
    rule = Rule(
        id=f"use-{what}", what=what, after=After.RUN, least=watch, most=over, unit=Unit.LIVES, when=("any",), why=why, does=does, whose=Whose.USE
    )  # fmt: skip
    return Due(rule=rule, used=None, left=None, state=state, band=band)


def held(
    rules: Sequence[Rule], since: Mapping[str, Run], events: Mapping[After, Run | None] | None = None, apart: Iterable[Due] = ()
) -> tuple[Due, ...]:
    """Each rule against what ran since it was done last (`since` by the rule's `what`), or since its event; the most urgent first, with those that were held
    `apart` among them.

    A rule after a change or an over-rev is left out where no such event stands open. Raises OutOfRangeError for counts that run backwards.
    """
    happened = events or {}
    found = list(apart)
    for rule in rules:
        if rule.after in (After.CHANGE, After.OVER_REV):
            run = happened.get(rule.after)
            if run is None:
                continue
            done = since.get(rule.what)
            before, after = run.of(rule.unit), done.of(rule.unit) if done else None
            if before is not None and after is not None and after < before:
                continue  # it was done since
        else:
            run = since.get(rule.what, Run())
        used = run.of(rule.unit)
        if used is not None and (used < 0.0 or not math.isfinite(used)):
            raise OutOfRangeError(f"{rule.what.capitalize()}: {used:g} {rule.unit} since it was done: the count runs backwards.")
        left = None if used is None else (rule.least - used, rule.most - used)
        found.append(Due(rule=rule, used=used, left=left, state=_state(rule, used)))
    order = list(State)
    return tuple(
        sorted(
            found,
            key=lambda each: (order.index(each.state), each.left[0] / max(each.rule.least, 1e-9) if each.left else 0.0, each.rule.what),
        )
    )
