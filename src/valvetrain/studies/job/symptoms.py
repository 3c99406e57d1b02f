"""From a symptom to its likely causes, and to the test that tells most about them for its minutes."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache

from valvetrain.errors import ContradictionError
from valvetrain.studies.job.steps import read_lines, read_rows


@dataclass(frozen=True)
class Cause:
    """What may be behind a symptom: where it goes on, and the kind of job that ends it (empty where none does)."""

    id: str
    name: str
    next: str
    job: str


@dataclass(frozen=True)
class Test:
    """A test with two outcomes: minutes it takes, what each outcome says, and how likely it comes out true under each cause."""

    id: str
    name: str
    minutes: float
    true: str
    false: str
    likely: Mapping[str, float]


@dataclass(frozen=True)
class Symptom:
    """A symptom: odds of its causes before anything is tested (they sum to one), and the tests at hand."""

    id: str
    name: str
    odds: Mapping[str, float]
    tests: tuple[Test, ...]


@dataclass(frozen=True)
class TestWorth:
    """A test with what it would tell: bits expected, bits an hour, odds that it comes out true, and the leading cause behind each outcome with its odds."""

    test: Test
    bits: float
    rate: float
    chance: float
    if_true: tuple[str, float]
    if_false: tuple[str, float]


@dataclass(frozen=True, kw_only=True)
class WayHeard:
    """How an engine was heard or seen to give up, as odds: a steady beat, ragged, with clatter; what is left is that it cannot be told."""

    beat: float
    ragged: float
    clatter: float


# How likely each way is (beat, ragged, clatter) under a cause; causes that are not named sound like nothing of their own. Source: judgement
_SOUNDS = {
    "limiter": (0.93, 0.06, 0.01), **dict.fromkeys(("float", "float_mass", "spring", "gas"), (0.03, 0.17, 0.80)),
    **dict.fromkeys(("spark", "fuel", "lean"), (0.05, 0.90, 0.05)), "exhaust": (0.10, 0.60, 0.30), "timing": (0.10, 0.60, 0.30),
    "clearance": (0.05, 0.70, 0.25),
}  # fmt: skip


@cache
def causes() -> dict[str, Cause]:
    """Every cause by its id."""
    return {row["id"]: Cause(row["id"], row["name"], row["next"], row["job"]) for row in read_rows("symptom_causes.csv")}


@cache
def symptoms() -> dict[str, Symptom]:
    """Every symptom by its id. Raises ContradictionError where a test has not one likelihood for each cause."""
    found: dict[str, Symptom] = {}
    heads: list[tuple[str, str, dict[str, float]]] = []
    tests: dict[str, list[Test]] = {}
    for line in read_lines("symptoms.csv"):
        if not line.startswith("+"):
            name, words, told = line.split("|")
            tenths = {key.strip(): float(odds) for key, odds in (pair.split(":") for pair in told.split(","))}
            whole = sum(tenths.values())
            heads.append((name, words, {key: value / whole for key, value in tenths.items()}))
            tests[name] = []
            continue
        name, words, minutes, true, false, likely = line[1:].split("|")
        odds = heads[-1][2]
        numbers = [float(each) for each in likely.split()]
        if len(numbers) != len(odds) or any(not 0.0 < each < 1.0 for each in numbers):
            raise ContradictionError(f"Test {name} of {heads[-1][0]} wants one likelihood between 0 and 1 for each of {len(odds)} causes.")
        tests[heads[-1][0]].append(Test(name, words, float(minutes), true, false, dict(zip(odds, numbers, strict=True))))
    for name, words, odds in heads:
        found[name] = Symptom(name, words, odds, tuple(tests[name]))
    return found


def after(odds: Mapping[str, float], test: Test, *, true: bool) -> dict[str, float]:
    """Odds of the causes after an outcome (Bayes)."""
    weighed = {cause: share * (test.likely[cause] if true else 1.0 - test.likely[cause]) for cause, share in odds.items()}
    whole = sum(weighed.values())
    return {cause: share / whole for cause, share in weighed.items()}


def heard_odds(odds: Mapping[str, float], heard: WayHeard) -> dict[str, float]:
    """Odds of the causes once the way it gave up was heard (Bayes): what cannot be told counts for no way more than for another.

    A cause without a sound of its own is as likely to have been heard so as the mean of the others. Source: closed form.
    """
    left = max(0.0, 1.0 - heard.beat - heard.ragged - heard.clatter) / 3.0
    seen = (heard.beat + left, heard.ragged + left, heard.clatter + left)
    like = {cause: sum(a * b for a, b in zip(_SOUNDS[cause], seen, strict=True)) for cause in odds if cause in _SOUNDS}
    if not like:
        return dict(odds)
    usual = sum(odds[cause] * each for cause, each in like.items()) / sum(odds[cause] for cause in like)
    weighed = {cause: share * like.get(cause, usual) for cause, share in odds.items()}
    whole = sum(weighed.values())
    return {cause: share / whole for cause, share in weighed.items()}


def entropy(odds: Mapping[str, float]) -> float:
    """Doubt left in the odds, bits."""
    return -sum(share * math.log2(share) for share in odds.values() if share > 0.0)


def told_odds(symptom: Symptom, outcomes: Sequence[tuple[str, bool]], heard: WayHeard | None = None) -> dict[str, float]:
    """Odds after the tests done so far, by id and outcome, and after what was heard; an unknown test is left out."""
    tests = {test.id: test for test in symptom.tests}
    odds = heard_odds(symptom.odds, heard) if heard else dict(symptom.odds)
    for name, true in outcomes:
        if name in tests:
            odds = after(odds, tests[name], true=true)
    return odds


def next_tests(symptom: Symptom, outcomes: Sequence[tuple[str, bool]], heard: WayHeard | None = None) -> list[TestWorth]:
    """Tests not yet done, the one that tells most for its minutes first: expected fall of the doubt about the cause, per hour."""
    odds, done, found = told_odds(symptom, outcomes, heard), {name for name, _ in outcomes}, []
    for test in symptom.tests:
        if test.id in done:
            continue
        chance = sum(share * test.likely[cause] for cause, share in odds.items())
        yes, no = after(odds, test, true=True), after(odds, test, true=False)
        bits = entropy(odds) - chance * entropy(yes) - (1.0 - chance) * entropy(no)
        best = lambda told: max(told.items(), key=lambda pair: pair[1])
        found.append(TestWorth(test, bits, bits / (test.minutes / 60.0), chance, best(yes), best(no)))
    return sorted(found, key=lambda each: -each.rate)
