"""What is due on every engine, and the week, as view-models."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from rocklash.records.models import DueState, Job, JobWait
from rocklash.stations.logbook.pages.due import STATE_WORDS, days_words
from valvetrain.studies.logbook.due import State

SHOWN = {"out": "due and past", "soon": "soon too", "all": "all"}
_STATES = {"out": {State.OVER, State.DUE}, "soon": {State.OVER, State.DUE, State.SOON}, "all": set(State)}


@dataclass(frozen=True, kw_only=True)
class DueLine:
    """One thing on one engine."""

    what: str
    word: str
    state: str
    days: str
    does: str
    why: str
    whose: str


@dataclass(frozen=True, kw_only=True)
class DueEngine:
    """One engine with what stands out on it."""

    number: int
    name: str
    hours: str
    lines: tuple[DueLine, ...]


def _days(line: dict[str, Any]) -> str:
    """The days between which a kept line falls due."""
    if not line["first"]:
        return ""
    return days_words((date.fromisoformat(line["first"]), date.fromisoformat(line["last"]) if line["last"] else None))


def _line(line: dict[str, Any]) -> DueLine:
    state = State[line["state"].upper()]
    return DueLine(
        what=line["what"], word=STATE_WORDS[state], state=line["state"], days=_days(line) if state in (State.SOON, State.RESTS) else "", does=line["does"],
        why=line["why"], whose=line["whose"],
    )  # fmt: skip


def board_of(states: Iterable[DueState], show: str) -> list[DueEngine]:
    """Engines with what stands out on them, the most urgent first."""
    wanted = {state.name.lower() for state in _STATES[show]}
    found = []
    for state in states:
        lines = tuple(_line(line) for line in state.lines if line["state"] in wanted)
        if lines:
            found.append(DueEngine(number=state.build_id, name=state.build.name, hours=f"{state.hours:.1f}", lines=lines))
    return found


@dataclass(frozen=True, kw_only=True)
class Day:
    """One day of the week with what it holds: engine and words."""

    day: date
    lines: tuple[tuple[str, str], ...]


def week_of(first: date, states: Iterable[DueState], jobs: Iterable[Job], waits: Iterable[JobWait]) -> list[Day]:
    """Seven days from the first: what falls due on them, what is promised, what is expected. What is due already stands on the first."""
    lines: dict[date, list[tuple[str, str]]] = {first + timedelta(days=number): [] for number in range(7)}

    def put(day: date, name: str, words: str) -> None:
        if day in lines:
            lines[day].append((name, words))

    for state in states:
        for line in state.lines:
            if line["first"]:
                out = line["state"] in ("over", "due")
                put(
                    first if out else date.fromisoformat(line["first"]),
                    state.build.name,
                    f"{line['what']}: {line['does']}" + (", due" if out else ""),
                )
    for job in jobs:
        if job.promised:
            late = job.promised < first
            put(first if late else job.promised, job.build.name, f"promised for {job.promised:%d %b}, late" if late else "promised")
    for wait in waits:
        put(max(first, wait.first), wait.job.build.name, f"{wait.what} expected")
    return [Day(day=day, lines=tuple(found)) for day, found in lines.items()]
