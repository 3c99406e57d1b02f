"""The steps and order rules of the data files: read, with their conditions made ready to be asked."""

import csv
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from importlib import resources

from valvetrain.errors import ContradictionError

Facts = frozenset[str]
_TOKEN = re.compile(r"\s*([()+/!]|[a-z][a-z_]*)")
_TIME = re.compile(r"^(wait )?(\d+)(?:-(\d+))?(?: (h|d|min))?$")
_UNIT = {"": 60.0, "min": 60.0, "h": 3600.0, "d": 86400.0}


@dataclass(frozen=True)
class Step:
    """One step. `least` and `most` seconds it takes each time, of waiting where `waits`; `per` job, head, cyl, valve, cam, side, stud or bolt; `hard`
    1 to 3; `two` wants a second person; `counted` what is taken out or put back; `cautions` and `names` of the condition by name.
    `torque` names the joint whose figures the manual tells; `used_up`, `fit` of the tool, `photo` and `reading` wanted, and the usual `slip` in words."""

    id: str
    act: str
    why: str
    done: str
    tool: str
    counted: tuple[str, ...]
    cautions: tuple[str, ...]
    least: float
    most: float
    waits: bool
    per: str
    hard: int
    two: bool
    when: Callable[[Facts], bool]
    names: frozenset[str]
    torque: str = ""
    used_up: str = ""
    fit: str = ""
    photo: str = ""
    reading: str = ""
    slip: str = ""


@dataclass(frozen=True)
class OrderRule:
    """One rule: chains of groups of steps, `stop` where somebody is hurt or the engine breaks, why, and on which engines."""

    id: str
    chains: tuple[tuple[tuple[str, ...], ...], ...]
    stop: bool
    why: str
    when: Callable[[Facts], bool] = field(default=lambda _: True, compare=False)


def condition(text: str) -> tuple[Callable[[Facts], bool], frozenset[str]]:
    """A condition as it is written, `(a/b)+!c`, ready to be asked, and the names it asks. Raises ContradictionError for what is none."""
    tokens, place = [], 0
    while place < len(text):
        found = _TOKEN.match(text, place)
        if not found:
            raise ContradictionError(f"“{text}” is no condition: at “{text[place:]}”.")
        tokens.append(found.group(1))
        place = found.end()
    names: set[str] = set()

    def one(at: int) -> tuple[Callable[[Facts], bool], int]:
        if at >= len(tokens):
            raise ContradictionError(f"“{text}” ends in the middle.")
        word = tokens[at]
        if word == "!":
            inner, after = one(at + 1)
            return (lambda facts: not inner(facts)), after
        if word == "(":
            inner, after = either(at + 1)
            if after >= len(tokens) or tokens[after] != ")":
                raise ContradictionError(f"“{text}” opens a bracket and does not close it.")
            return inner, after + 1
        if not word.isalpha():
            raise ContradictionError(f"“{text}” has “{word}” where a name belongs.")
        names.add(word)
        return (lambda facts: word == "all" or word in facts), at + 1

    def both(at: int) -> tuple[Callable[[Facts], bool], int]:
        first, at = one(at)
        while at < len(tokens) and tokens[at] == "+":
            second, at = one(at + 1)
            first = _and(first, second)
        return first, at

    def either(at: int) -> tuple[Callable[[Facts], bool], int]:
        first, at = both(at)
        while at < len(tokens) and tokens[at] == "/":
            second, at = both(at + 1)
            first = _or(first, second)
        return first, at

    found_condition, end = either(0)
    if end != len(tokens):
        raise ContradictionError(f"“{text}” has “{tokens[end]}” too much.")
    return found_condition, frozenset(names - {"all"})


def _and(first: Callable[[Facts], bool], second: Callable[[Facts], bool]) -> Callable[[Facts], bool]:
    return lambda facts: first(facts) and second(facts)


def _or(first: Callable[[Facts], bool], second: Callable[[Facts], bool]) -> Callable[[Facts], bool]:
    return lambda facts: first(facts) or second(facts)


def read_lines(name: str) -> list[str]:
    """Lines of a data file without its remarks."""
    text = resources.files("valvetrain").joinpath(f"data/{name}").read_text(encoding="utf-8")
    return [line for line in text.splitlines() if line and not line.startswith("#")]


def read_rows(name: str) -> list[dict[str, str]]:
    """Rows of a data file, by the names of its first line."""
    return [{key: (value or "").strip() for key, value in row.items()} for row in csv.DictReader(read_lines(name), delimiter="|")]


def words(text: str) -> tuple[str, ...]:
    """Words parted by commas."""
    return tuple(word.strip() for word in text.split(",") if word.strip())


@cache
def steps() -> dict[str, Step]:
    """Every step by its id, in the usual order."""
    found = {}
    more = {row.pop("id"): row for row in read_rows("job_more.csv")}
    for row in read_rows("job_steps.csv"):
        when, names = condition(row["when"])
        time = _TIME.match(row["minutes"])
        if not time:
            raise ContradictionError(f"Step {row['id']}: “{row['minutes']}” is no time.")
        waits, low, high, unit = time.groups()
        scale = _UNIT[unit or ""]
        found[row["id"]] = Step(
            id=row["id"], act=row["act"], why=row["why"], done=row["done"], tool=row["tool"], counted=words(row["counted"]),
            cautions=words(row["cautions"]), least=float(low) * scale, most=float(high or low) * scale, waits=bool(waits), per=row["per"],
            hard=int(row["hard"]), two=row["two"] == "2", when=when, names=names,
            **more.pop(row["id"], {}),
        )  # fmt: skip
    if more:
        raise ContradictionError(f"job_more.csv tells of steps that there are not: {', '.join(more)}.")
    return found


@cache
def order_rules() -> tuple[OrderRule, ...]:
    """The order rules of the data file."""
    found = []
    for row in read_rows("job_rules.csv"):
        chains = tuple(tuple(tuple(group.split()) for group in chain.split("<")) for chain in row["order"].split(";"))
        found.append(OrderRule(row["id"], chains, row["weight"] == "stop", row["why"], condition(row["when"] or "all")[0]))
    return tuple(found)
