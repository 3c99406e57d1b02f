"""Everything that happened to an engine on one line of time, as view-models: made from the journal and the records, nothing typed twice."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime

from django.urls import reverse
from django.utils import timezone

from rocklash.answers.logbook import seasons_words
from rocklash.records.models import (
    Build,
    CareEntry,
    ClearanceSession,
    Finding,
    Job,
    JournalEntry,
    LogNote,
    LogPicture,
    OverRevCase,
    ProofTest,
    RunEntry,
    ShopOrder,
    SpringLog,
)
from valvetrain.studies.job.facts import KIND_WORDS, JobKind

KINDS = (
    ("ran", "ran"), ("done", "done"), ("note", "notes"), ("sheet", "clearances"), ("test", "tests"), ("spring", "spring tests"), ("finding", "findings"), ("job", "jobs"),
    ("shop", "machine shop"), ("over-rev", "over-revs"), ("change", "changes"),
)  # fmt: skip
# What a line of the journal tells again that a row of its own tells better.
_TOLD_ELSEWHERE = {
    "ran", "done", "entry removed", "note", "picture of a note", "note removed", "signed", "compression test", "leak-down test", "light through the port", "starter current", "rev test", "sound of a pull",
    "run", "vacuum", "after a failure", "spring tester", "finding", "step done", "undo",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Event:
    """One thing that happened: its day, what kind, in words, by whom, where it stands; `measured` apart from what was claimed. `entry` can be taken off."""

    day: date
    at: datetime
    kind: str
    label: str
    words: str
    by: str
    url: str = ""
    measured: bool = False
    entry: int | None = None
    note: int | None = None
    pictures: tuple[LogPicture, ...] = ()


def _local(at: datetime) -> date:
    return timezone.localtime(at).date()


@dataclass(frozen=True, kw_only=True)
class Rows:
    """All that is laid on the line."""

    runs: list[RunEntry]
    care: list[CareEntry]
    sheets: list[ClearanceSession]
    tests: list[ProofTest]
    jobs: list[Job]
    findings: list[Finding]
    cases: list[OverRevCase]
    visits: list[ShopOrder]
    springs: list[SpringLog]
    lines: list[JournalEntry]
    notes: list[LogNote]


def _run_words(row: RunEntry) -> str:
    parts = [
        f"{row.seconds / 3600.0:.1f} h" if row.seconds else "",
        f"{row.passes} passes" if row.passes else "",
        f"{1e3 * row.fuel:.3g} l" if row.fuel else "",
        seasons_words(row.seasons),
    ]
    return ", ".join(part for part in parts if part) + (f": {row.note}" if row.note else "")


def events_of(build: Build, rows: Rows, place: dict[str, object]) -> list[Event]:
    """Everything, the newest first."""
    at = lambda name, **more: reverse(name, kwargs=place | more)
    found: list[Event] = []

    def add(kind: str, day: date, moment: datetime, words: str, by: object, **more: object) -> None:
        label = dict(KINDS)[kind]
        found.append(Event(day=day, at=moment, kind=kind, label=label, words=words, by=str(by) if by else "", **more))  # type: ignore[arg-type]

    for run in rows.runs:
        add("ran", run.made_on, run.at, _run_words(run), run.by, entry=run.pk)
    for care in rows.care:
        words = f"{care.what} at {care.seconds / 3600.0:.1f} h" + (f": {care.note}" if care.note else "")
        add("done", care.made_on, care.at, words, care.by, entry=care.pk)
    for note in rows.notes:
        add("note", note.made_on, note.at, note.words, note.by, note=note.pk, pictures=tuple(note.pictures.all()))
    for sheet in rows.sheets:
        moment = sheet.signed_at or sheet.started_at
        words = "clearance sheet signed" + (f" at {sheet.hours:g} h" if sheet.hours is not None else "")
        add("sheet", _local(moment), moment, words, sheet.signed_by, url=at("lash-history"), measured=True)
    for test in rows.tests:
        add("test", test.made_on, test.at, str(test), test.by, url=at("proof"), measured=True)
    for log in rows.springs:
        add(
            "spring", _local(log.at), log.at, f"{log.part}, {'used' if log.used else 'new'}, {log.readings} readings", log.by, measured=True
        )
    for finding in rows.findings:
        where = finding.position.name if finding.position else finding.place
        state = "settled" if finding.settled else "open"
        add(
            "finding",
            _local(finding.at),
            finding.at,
            f"{finding.part} {where}: {finding.words or finding.sign}, {state}".strip(),
            finding.by,
            url=at("job-findings"),
        )
    for job in rows.jobs:
        words = KIND_WORDS[JobKind(job.kind)].lower()
        add("job", _local(job.begun_at), job.begun_at, f"{words} begun", job.by, url=at("job"))
        if job.closed_at:
            add("job", _local(job.closed_at), job.closed_at, f"{words} closed", job.by, url=at("job"))
    for visit in rows.visits:
        add("shop", _local(visit.at), visit.at, f"order to {visit.shop or 'the machine shop'}", visit.by, url=at("job-shop"))
        if visit.back_at:
            add("shop", _local(visit.back_at), visit.back_at, "back from the machine shop", visit.by, url=at("job-shop"))
    for case in rows.cases:
        add("over-rev", _local(case.at), case.at, case.note or "over-rev", case.by, url=at("room"))
    for line in rows.lines:
        if line.verb not in _TOLD_ELSEWHERE:
            about = line.about.removeprefix(build.name).removeprefix(": ")
            words = f"{line.verb} {about}".strip() + (f": {line.before or 'nothing'} to {line.after}" if line.after else "")
            add("change", _local(line.at), line.at, words, line.by)
    return sorted(found, key=lambda each: (each.day, each.at), reverse=True)


def chosen(events: Iterable[Event], kinds: list[str], text: str) -> list[Event]:
    """Those of some kinds (all where none is named) that hold some words."""
    wanted = {kind for kind in kinds if kind in dict(KINDS)}
    words = text.lower().split()
    return [
        each
        for each in events
        if (not wanted or each.kind in wanted) and all(word in f"{each.words} {each.label} {each.by}".lower() for word in words)
    ]


@dataclass(frozen=True, kw_only=True)
class History:
    """An engine's history for its next owner: what was measured, what was done, what was only told, and what it ran, each the oldest first."""

    measured: tuple[Event, ...]
    done: tuple[Event, ...]
    told: tuple[Event, ...]
    ran: tuple[tuple[str, str], ...]
    pictures: tuple[LogPicture, ...]


_DONE = {"done", "job", "shop", "change"}


def history_of(events: Iterable[Event], runs: Iterable[RunEntry]) -> History:
    """What was measured stands apart from what somebody did and from what was told; running is summed by year and month."""
    kept = sorted(events, key=lambda each: (each.day, each.at))
    months: dict[str, list[float]] = {}
    for run in sorted(runs, key=lambda each: each.made_on):
        sums = months.setdefault(f"{run.made_on:%B %Y}", [0.0, 0.0, 0.0])
        sums[0] += (run.seconds or 0.0) / 3600.0
        sums[1] += run.passes or 0
        sums[2] += run.seasons or 0
    ran = tuple(
        (month, f"{hours:.1f} h" + (f", {passes:.0f} passes" if passes else "") + (f", {seasons_words(int(seasons))}" if seasons else ""))
        for month, (hours, passes, seasons) in months.items()
    )
    return History(
        measured=tuple(each for each in kept if each.measured), done=tuple(each for each in kept if not each.measured and each.kind in _DONE),
        told=tuple(each for each in kept if not each.measured and each.kind not in _DONE | {"ran"}), ran=ran,
        pictures=tuple(picture for each in kept for picture in each.pictures),
    )  # fmt: skip
