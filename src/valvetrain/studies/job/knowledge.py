"""What is kept as data beside steps and rules: troubles, findings, what to renew while it is open."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

from valvetrain.errors import ContradictionError
from valvetrain.studies.job.steps import Facts, condition, read_rows, steps, words


@dataclass(frozen=True)
class Trouble:
    """What goes wrong: what to do at once, the steps it puts in, hours of work and days of waiting (least, most), what may no longer count."""

    id: str
    name: str
    at_once: str
    steps: tuple[str, ...]
    hours: tuple[float, float]
    days: tuple[float, float]
    stale: str


@dataclass(frozen=True)
class Sign:
    """What is seen on a part, what it means and what follows; `looks` is what to look at next, `grade` 1 (do not run it) to 5 (harmless)."""

    id: str
    part: str
    sign: str
    means: str
    follows: str
    looks: tuple[str, ...]
    grade: int


@dataclass(frozen=True)
class OpenOffer:
    """What else may be renewed while it is open: why now, and the steps that it would take to get there again."""

    id: str
    what: str
    because: str
    again: tuple[str, ...]


@dataclass(frozen=True)
class Way:
    """One way of a school: its words, why it is chosen, and the step it is told at."""

    id: str
    words: str
    because: str
    step: str


@dataclass(frozen=True)
class School:
    """Where practice differs; the first way is the usual one."""

    id: str
    name: str
    ways: tuple[Way, ...]


@cache
def schools() -> dict[str, School]:
    """Every school by its id."""
    names: dict[str, str] = {}
    ways: dict[str, list[Way]] = {}
    for row in read_rows("job_schools.csv"):
        names[row["school"]] = row["name"]
        ways.setdefault(row["school"], []).append(Way(row["way"], row["words"], row["because"], row["step"]))
    return {key: School(key, name, tuple(ways[key])) for key, name in names.items()}


GRADES = {
    1: "do not run it", 2: "settle it before it runs", 3: "renew it while it is open", 4: "keep an eye on it", 5: "harmless",
}  # fmt: skip


def _span(text: str) -> tuple[float, float]:
    low, _, high = text.partition("-")
    return float(low), float(high or low)


@cache
def troubles() -> dict[str, Trouble]:
    """Every trouble by its id. Raises ContradictionError for one whose times are turned round."""
    found = {}
    for row in read_rows("job_troubles.csv"):
        hours, days = _span(row["hours"]), _span(row["days"])
        if hours[0] > hours[1] or days[0] > days[1]:
            raise ContradictionError(f"Trouble {row['id']}: its least time is above its most.")
        inserted = tuple(part.strip() for part in row["steps"].split(";"))
        found[row["id"]] = Trouble(row["id"], row["name"], row["at_once"], inserted, hours, days, row["stale"])
    return found


@cache
def signs() -> dict[str, Sign]:
    """Every sign by its id."""
    return {
        row["id"]: Sign(row["id"], row["part"], row["sign"], row["means"], row["follows"], words(row["looks"]), int(row["grade"]))
        for row in read_rows("job_findings.csv")
    }


@cache
def _offers() -> tuple[tuple[Callable[[Facts], bool], OpenOffer], ...]:
    known, found = steps(), []
    for row in read_rows("job_open.csv"):
        again = tuple(row["again"].split())
        if not set(again) <= known.keys():
            raise ContradictionError(f"Offer {row['id']} names a step that there is not.")
        found.append((condition(row["when"])[0], OpenOffer(row["id"], row["what"], row["because"], again)))
    return tuple(found)


def offers(facts: Facts) -> list[OpenOffer]:
    """What else to renew in a job with these facts."""
    return [offer for when, offer in _offers() if when(facts)]


def again_for(offer: OpenOffer, valves: int, cylinders: int) -> tuple[float, float]:
    """Seconds (least, most) of work to come back for it on an engine of so many valves and cylinders."""
    counts = {"valve": valves, "cyl": cylinders, "side": 2, "cam": 2}
    again = [step for step in (steps()[each] for each in offer.again) if not step.waits]
    low, high = (sum(getattr(step, end) * counts.get(step.per, 1) for step in again) for end in ("least", "most"))
    return low, high
