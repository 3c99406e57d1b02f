"""When a job is done and what it costs, as view-models."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

from rocklash.answers.job import done_of
from rocklash.records.models import Build, Job, JobTick, JobWait, Workshop
from rocklash.ui.drawings.job_path import Ends
from valvetrain.studies.job.dates import Arrival, BenchJob, BenchTurn, Finish, Work, WorkDays, bench_order, finish, mean_of
from valvetrain.studies.job.facts import KIND_WORDS, JobKind
from valvetrain.studies.job.plan import Plan


@dataclass(frozen=True, kw_only=True)
class WaitLine:
    """One thing waited for."""

    pk: int
    what: str
    kind: str
    days: str
    holds: str
    price: str
    got: str
    late: bool


@dataclass(frozen=True, kw_only=True)
class CostLine:
    """One part of what a job costs."""

    what: str
    words: str


@dataclass(frozen=True, kw_only=True)
class Course:
    """When it is done: in words, as a drawing, with the days' odds; what it waits for and what it costs."""

    words: str = ""
    finish: str = ""
    work: str = ""
    kept: str = ""
    promised: str = ""
    ends: Ends | None = None
    days: list[tuple[str, int]] = field(default_factory=list)
    waits: list[WaitLine] = field(default_factory=list)
    costs: list[CostLine] = field(default_factory=list)
    pace: str = ""
    found: Finish | None = None


def days_of(shop: Workshop) -> WorkDays:
    """When a workshop works."""
    return WorkDays(hours=shop.day_hours)


def work_left(plan: Plan, ticks: Sequence[JobTick], waits: Sequence[JobWait]) -> tuple[list[Work], list[Arrival]]:
    """What is still to be done, piece by piece, each with what it waits for; and when that comes."""
    done = done_of(ticks)
    still = [wait for wait in waits if wait.got_on is None]
    left = [(number, item) for number, item in enumerate(plan.items) if done.get(item.key, 0) < item.times]
    place = {item.key: number for number, item in enumerate(plan.items)}
    gates: dict[int, list[int]] = {}
    last: list[int] = []
    for number, wait in enumerate(still):
        held = next((at for at, _ in left if at >= place[wait.key]), None) if wait.key in place else None
        if held is None:
            last.append(number)
        else:
            gates.setdefault(held, []).append(number)
    work = []
    for at, item in left:
        times = item.times - min(done.get(item.key, 0), item.times)
        scale = 1 if item.step.waits else times
        work.append(Work(item.step.least * scale, item.step.most * scale, item.step.waits, tuple(gates.get(at, ()))))
    if last:
        work.append(Work(0.0, 0.0, after=tuple(last)))
    return work, [Arrival(wait.first, wait.last) for wait in still]


def _day(day: date) -> str:
    return f"{day:%a} {day.day} {day:%b}"


def _hours(seconds: float) -> str:
    return f"{seconds / 3600.0:.1f} h"


def _price(value: float) -> str:
    return f"{value:,.2f}"


def _ends(found: Finish, promised: date | None) -> Ends:
    first = min(found.early, promised) if promised else found.early
    last = max(found.late, promised) if promised else found.late
    reach = max((last - first).days, 1)
    place = lambda day: (_day(day), 0.1 + 0.8 * (day - first).days / reach)
    return Ends(place(found.early), place(found.middle), place(found.late), place(promised) if promised else None)


def course_of(
    job: Job, plan: Plan | str, ticks: Sequence[JobTick], waits: Sequence[JobWait], shop: Workshop, now: datetime, pace: tuple[float, int] = (1.0, 0)
) -> Course:  # fmt: skip
    """The course of a job from now on; empty for one that is closed or has no plan."""
    if isinstance(plan, str) or job.closed_at is not None:
        return Course(waits=_wait_lines(plan, waits, now.date()) if not isinstance(plan, str) else [])
    work, arrivals = work_left(plan, ticks, waits)
    if not work:
        return Course(finish="done", words="Nothing is left to do.", waits=_wait_lines(plan, waits, now.date()))
    found = finish(work, arrivals, now, days_of(shop), promised=job.promised, factor=pace[0])
    told = _day(found.early) if found.early == found.late else f"{_day(found.early)} to {_day(found.late)}"
    kept = f"{100 * found.kept:.0f} of 100 draws keep {_day(job.promised)}" if found.kept is not None and job.promised else ""
    return Course(
        words=f"Finish {told}.", finish=told, work=_hours(found.work), kept=kept, promised=_day(job.promised) if job.promised else "",
        ends=_ends(found, job.promised), days=[(_day(day), round(100 * share)) for day, share in found.days if share >= 0.005],
        waits=_wait_lines(plan, waits, now.date()), costs=_costs(found, waits, shop, pace, plan, ticks), found=found,
        pace=f"{pace[0]:.2f} times the usual minutes, learnt from {pace[1]} stretches of work here" if pace[1] else "the trade's minutes: judgement, until own jobs tell",
    )  # fmt: skip


def _wait_lines(plan: Plan, waits: Sequence[JobWait], today: date) -> list[WaitLine]:
    acts = {item.key: item.step.act for item in plan.items}
    return [
        WaitLine(
            pk=wait.pk, what=wait.what, kind=wait.get_kind_display(), days=_day(wait.first) + ("" if wait.first == wait.last else f" to {_day(wait.last)}"),
            holds=acts.get(wait.key, "the end of the job"), price=_price(float(wait.price)) if wait.price is not None else "",
            got=_day(wait.got_on) if wait.got_on else "", late=wait.got_on is None and wait.last < today,
        )
        for wait in waits
    ]  # fmt: skip


def _costs(
    found: Finish, waits: Sequence[JobWait], shop: Workshop, pace: tuple[float, int], plan: Plan, ticks: Sequence[JobTick]
) -> list[CostLine]:
    done = done_of(ticks)
    spent = pace[0] * sum(
        mean_of(item.step.least, item.step.most) * min(done.get(item.key, 0), item.times) for item in plan.items if not item.step.waits
    )
    parts = sum(float(wait.price) for wait in waits if wait.price is not None)
    lines = [CostLine(what="Work so far, as planned", words=_hours(spent)), CostLine(what="Work left", words=_hours(found.work))]
    if parts:
        lines.append(CostLine(what="Parts and machine shop", words=_price(parts)))
    if shop.hour_price is not None:
        hours = (spent + found.work) / 3600.0
        lines.append(CostLine(what=f"Work at {_price(float(shop.hour_price))} an hour", words=_price(hours * float(shop.hour_price))))
        lines.append(CostLine(what="Together", words=_price(parts + hours * float(shop.hour_price))))
    return lines


@dataclass(frozen=True, kw_only=True)
class BenchLine:
    """One job of several on the bench."""

    name: str
    kind: str
    here: bool
    begins: str
    ends: str
    late: str
    build: int


def bench_of(
    jobs: Sequence[tuple[Job, Build, float, date | None]], here: int, shop: Workshop, now: datetime
) -> list[BenchLine]:  # fmt: skip
    """Several jobs on one bench by due date: each with its seconds of work left and the day its parts are here."""
    today = now.date()
    asked = [BenchJob(str(job.pk), work, job.promised, ready or today) for job, _, work, ready in jobs]
    by = {str(job.pk): (job, build) for job, build, _, _ in jobs}
    lines = []
    turn: BenchTurn
    for turn in bench_order(asked, now, days_of(shop)):
        job, build = by[turn.name]
        lines.append(
            BenchLine(
                name=build.name, kind=KIND_WORDS[JobKind(job.kind)], here=build.pk == here, begins=_day(turn.begins), ends=_day(turn.ends),
                late=f"{turn.late} days late" if turn.late > 1 else "1 day late" if turn.late else "", build=build.pk,
            )
        )  # fmt: skip
    return lines


def ready_on(waits: Sequence[JobWait]) -> date | None:
    """The day on which what a job waits for is here, in the middle of its span; None where it waits for nothing."""
    still = [wait for wait in waits if wait.got_on is None]
    return max((wait.first + timedelta(days=(wait.last - wait.first).days // 2) for wait in still), default=None) if still else None
