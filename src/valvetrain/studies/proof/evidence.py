"""After a failure: what each scenario would leave behind, what the model says each needs, and odds with what speaks against.

Marks are told as seen, not seen, or not looked at. The table is judgement; marks of one event come together, so their weight is halved.
What an inspection cannot know is said: what broke first, and what was already so before.
"""

import csv
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Final

from valvetrain.errors import OutOfRangeError

SCENARIOS: Final = {
    "float": ("valves floated", 0.18), "coil_bind": ("coils bound", 0.08), "over_rev": ("over-revved by a missed shift", 0.14),
    "keeper": ("keepers or retainer let go", 0.10), "spring": ("a spring broke of its own", 0.12), "piston": ("valve met piston for want of room or timing", 0.10),
    "tight": ("clearance closed, valve burnt", 0.10), "guide": ("a stem seized in its guide", 0.06), "oil": ("oil failed", 0.06),
    "limiter": ("nothing broke: limiter, fuel or spark", 0.06),
}  # fmt: skip
_TOGETHER: Final = 0.5  # weight of a mark: marks of one event are not independent


@dataclass(frozen=True, kw_only=True)
class Mark:
    """Something that may be found, and how likely after each scenario."""

    key: str
    words: str
    under: Mapping[str, float]


@dataclass(frozen=True, kw_only=True)
class ModelWitness:
    """What the model says of a scenario: a factor on its odds (above one speaks for it) and the sentence why, amounts in SI."""

    scenario: str
    factor: float
    why: str


@dataclass(frozen=True, kw_only=True)
class Suspect:
    """One scenario: odds, marks that speak for it and against it, marks it would have left and that were not looked for, and the model's word."""

    key: str
    words: str
    odds: float
    speaks_for: tuple[str, ...]
    against: tuple[str, ...]
    would_leave: tuple[str, ...]
    model: tuple[str, ...]


@cache
def marks() -> tuple[Mark, ...]:
    """The marks known, from the table that ships."""
    text = resources.files("valvetrain.data").joinpath("failure_marks.csv").read_text(encoding="utf-8")
    rows = csv.DictReader(line for line in text.splitlines() if not line.startswith("#"))
    return tuple(Mark(key=row["mark"], words=row["words"], under={key: float(row[key]) for key in SCENARIOS}) for row in rows)


def weigh(seen: Sequence[str], absent: Sequence[str], witnesses: Sequence[ModelWitness] = ()) -> tuple[Suspect, ...]:
    """Scenarios by their odds. Raises OutOfRangeError for a mark that is both seen and absent, or that is not known."""
    known = {mark.key: mark for mark in marks()}
    both = set(seen) & set(absent)
    if both:
        raise OutOfRangeError(f"“{known[both.pop()].words}” is entered as seen and as not there.")
    for key in (*seen, *absent):
        if key not in known:
            raise OutOfRangeError(f"“{key}” is no mark that is known.")
    logs = {key: math.log(start) for key, (_, start) in SCENARIOS.items()}
    usual = {mark.key: sum(mark.under[key] * start for key, (_, start) in SCENARIOS.items()) for mark in known.values()}
    for key in SCENARIOS:
        for each in seen:
            logs[key] += _TOGETHER * math.log(max(0.02, known[each].under[key]))
        for each in absent:
            logs[key] += _TOGETHER * math.log(max(0.02, 1.0 - known[each].under[key]))
        for witness in witnesses:
            if witness.scenario == key:
                logs[key] += math.log(witness.factor)
    top = max(logs.values())
    shares = {key: math.exp(value - top) for key, value in logs.items()}
    whole = sum(shares.values())
    out = []
    for key, (words, _) in SCENARIOS.items():
        told = [mark for mark in known.values() if mark.under[key] >= 0.5]
        out.append(
            Suspect(
                key=key, words=words, odds=shares[key] / whole,
                speaks_for=tuple(known[each].words for each in seen if known[each].under[key] > 1.3 * usual[each]),
                against=tuple(
                    [f"{mark.words} is not there" for mark in told if mark.key in absent]
                    + [known[each].words for each in seen if known[each].under[key] < 0.5 * usual[each]]
                ),
                would_leave=tuple(mark.words for mark in told if mark.key not in seen and mark.key not in absent),
                model=tuple(witness.why for witness in witnesses if witness.scenario == key),
            )
        )  # fmt: skip
    return tuple(sorted(out, key=lambda each: -each.odds))


CANNOT_KNOW: Final = (
    "What broke first: a keeper that let go and a valve that met the piston leave the same marks.",
    "What was there before: a hairline may be a season old.",
    "Anything between the samples of an rpm log, and anything a limiter or clutch did in that time.",
    "Whether the parts are what their labels say: weigh them and measure the springs.",
)
