"""Rules of advice: read from their data file, and asked of a situation."""

import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources

from valvetrain.errors import ContradictionError

Situation = Mapping[str, str | float]
_TERM = re.compile(r"^(\w+) (?:(\?)|(=|!=|>|<) (.+))$")

TOPICS = {
    "fuel": "Fuel and boost", "valves": "Valves", "seats": "Seats", "guides": "Guides", "geometry": "Form of valve, seat and port", "springs": "Springs",
    "retainers": "Retainers", "keepers": "Keepers", "seals": "Stem seals", "cams": "Cams", "followers": "Followers", "treatment": "Treatment", "oil": "Oil",
}  # fmt: skip


@dataclass(frozen=True)
class Term:
    """One condition: a name of the situation, `=` one of `words`, `!=` none of them, `>` or `<` the `number`, `?` not known."""

    name: str
    sign: str
    words: frozenset[str] = frozenset()
    number: float = 0.0

    def holds(self, situation: Situation) -> bool:
        """Whether it is so; of what nobody told only `?` is."""
        told = situation.get(self.name, "")
        if self.sign == "?":
            return told == ""
        if told == "":
            return False
        if self.sign in "><":
            if isinstance(told, str):
                return False
            return told > self.number if self.sign == ">" else told < self.number
        return (str(told) in self.words) == (self.sign == "=")


def term_of(text: str) -> Term:
    """A term as it stands in the data file. Raises ContradictionError for what is none."""
    found = _TERM.match(text)
    if not found:
        raise ContradictionError(f"“{text}” is no condition: write `name = word`, `name > 1.5` or `name ?`.")
    name, asks, sign, rest = found.groups()
    if asks:
        return Term(name, "?")
    if sign in "><":
        return Term(name, sign, number=float(rest))
    return Term(name, sign, frozenset(rest.split("|")))


@dataclass(frozen=True)
class Rule:
    """One piece of advice. `elsewhere` is what it does to other parts, `basis` where it comes from (empty: common practice, no source)."""

    id: str
    topic: str
    when: tuple[Term, ...]
    advice: str
    because: str
    elsewhere: str
    caution: str
    basis: str
    fires: Situation
    silent: Situation

    def speaks(self, situation: Situation) -> bool:
        """Whether all its conditions are so."""
        return all(term.holds(situation) for term in self.when)


@dataclass(frozen=True)
class School:
    """A question on which the trade differs: one answer, the other, and ours with its reason."""

    id: str
    topic: str
    when: tuple[Term, ...]
    question: str
    one: str
    other: str
    ours: str
    fires: Situation
    silent: Situation

    def speaks(self, situation: Situation) -> bool:
        """Whether it concerns this build."""
        return all(term.holds(situation) for term in self.when)


@cache
def _data() -> dict[str, list[dict[str, object]]]:
    return tomllib.loads(resources.files("valvetrain").joinpath("data/advice.toml").read_text(encoding="utf-8"))


@cache
def rules() -> tuple[Rule, ...]:
    """The rules of the data file, in its order."""
    found = []
    for row in _data()["rule"]:
        given: dict[str, object] = {"caution": "", "basis": "", "elsewhere": ""} | row
        when = given.pop("when")
        assert isinstance(when, list)
        found.append(Rule(when=tuple(map(term_of, when)), **given))  # type: ignore[arg-type]  # the file's own keys
    return tuple(found)


@cache
def schools() -> tuple[School, ...]:
    """The schools of the data file, in its order."""
    found = []
    for row in _data()["school"]:
        given = dict(row)
        when = given.pop("when")
        assert isinstance(when, list)
        found.append(School(when=tuple(map(term_of, when)), **given))  # type: ignore[arg-type]  # the file's own keys
    return tuple(found)
