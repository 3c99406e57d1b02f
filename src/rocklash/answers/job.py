"""A job from its rows: its plan, what stands open, how the workshop's own times compare."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Any

from rocklash.answers.rows import kind_of, positions_of
from rocklash.records.models import Build, Job, JobDetour, JobTick
from rocklash.records.selectors.job import DoneAt, counts_of, detours_of, findings_of, job_of, open_findings_of, open_job_of, overrides_of
from valvetrain.errors import ValveTrainError
from valvetrain.parts.engine import ValvePosition
from valvetrain.studies.job.dates import mean_of, own_factor
from valvetrain.studies.job.facts import HAS, RENEWED, JobKind, JobSpec, facts_of, words_of
from valvetrain.studies.job.knowledge import GRADES, schools, signs, troubles
from valvetrain.studies.job.plan import Detour, Plan, compose, moved, open_engine, with_detours
from valvetrain.studies.job.steps import Facts, order_rules, steps

IN_IT = frozenset({"rope", "air on", "bench stop", "blockings", "wire", "liner clamps"})  # in the engine, and must come out
_LONGEST, _SHORTEST = 3 * 3600.0, 10.0  # s between two ticks that tell of work


def spec_of(kind: str, told: dict[str, Any]) -> JobSpec:
    """A job's specification from what is kept of it."""
    return JobSpec(
        kind=JobKind(kind), here=told.get("here", "machine"), in_frame=bool(told.get("in_frame")), hold=told.get("hold", "rope"),
        lapping=told.get("lapping", "none"), seal_order=told.get("seal_order", "seat"), drive=told.get("drive", "chain"),
        held=told.get("held", "caps"), has=frozenset(told.get("has", [])) & HAS.keys(),
        renewed=frozenset(told.get("renewed", [])) & RENEWED.keys(), asks=frozenset(told.get("asks", [])),
    )  # fmt: skip


@lru_cache(maxsize=128)
def _composed(facts: Facts, valves: tuple[ValvePosition, ...]) -> Plan:
    return compose(facts, valves)


def facts_of_job(job: Job, build: Build) -> Facts:
    """The facts a job's steps are chosen by."""
    return facts_of(kind_of(build.engine), spec_of(job.kind, job.spec))


def plan_of(job: Job, build: Build, detours: Iterable[JobDetour] = ()) -> Plan | str:
    """The plan with its detours, in the order a person gave it; or a sentence why there is none."""
    try:
        plan = _composed(facts_of_job(job, build), positions_of(build.engine))
    except ValveTrainError as error:
        return error.sentence
    known = troubles()
    struck = [Detour(row.number, known[row.trouble], row.at_key) for row in detours if row.trouble in known]
    return moved(with_detours(plan, struck), [(one, two) for one, two in job.moves])


def done_of(ticks: Iterable[JobTick]) -> dict[str, int]:
    """How often each step is done, by its key."""
    return dict(Counter(tick.key for tick in ticks))


def school_of(job: Job, name: str) -> str:
    """The way a job goes in a school, the usual one where nothing is said."""
    ways = [way.id for way in schools()[name].ways]
    told = str(job.spec.get(name, ""))
    return told if told in ways else ways[0]


@dataclass(frozen=True, kw_only=True)
class OpenThing:
    """Something that is out of the engine or in it and must go back, by count."""

    what: str
    out: int
    back: int

    @property
    def settled(self) -> bool:
        """Whether all of it is accounted for."""
        return self.back >= self.out

    @property
    def left(self) -> int:
        """How many are not accounted for."""
        return self.out - self.back

    @property
    def inside(self) -> bool:
        """Whether it is in the engine and must come out."""
        return self.what in IN_IT


@dataclass(frozen=True, kw_only=True)
class Strip:
    """What every page of a build says of an open engine."""

    job: int
    kind: str
    days: int
    inside: list[OpenThing]
    outside: list[OpenThing]
    settled: list[OpenThing]
    missing: int


def things_of(plan: Plan, done: dict[str, int]) -> list[OpenThing]:
    """What is out and in, by what was done."""
    return [OpenThing(what=each.what, out=each.out, back=each.back) for each in open_engine(plan, done)]


def strip_of(build: Build, now: Any) -> Strip | None:
    """What stands open on a build, None where no job is under way or nothing is open yet."""
    job = open_job_of(build)
    if job is None:
        return None
    plan = plan_of(job, build, detours_of(job))
    if isinstance(plan, str):
        return None
    things = things_of(plan, counts_of(job))
    if not things:
        return None
    return Strip(
        job=job.pk, kind=job.kind, days=(now - job.begun_at).days + 1,
        inside=[each for each in things if each.inside and not each.settled], outside=[each for each in things if not each.inside and not each.settled],
        settled=[each for each in things if each.settled], missing=sum(not each.settled for each in things),
    )  # fmt: skip


def found_on(build: Build) -> list[str]:
    """What was found on a build and is not settled, in a few words each."""
    return [f"{row.number} {row.part} {row.position.name if row.position else row.place}".strip() for row in open_findings_of(build)]


def rule_whys() -> dict[str, str]:
    """Why each rule is one, by its id; those of no file among them."""
    return {rule.id: rule.why for rule in order_rules()} | {
        "accounted": "Closed with something not accounted for.", "detour": "A trouble was being mended.",
    }  # fmt: skip


def sheet_notes(build: Build) -> list[str]:
    """What the build sheet must say of its job: rules that were gone against, what was found and is not settled, which part lies in another's place."""
    job, whys = job_of(build), rule_whys()
    notes = []
    if job is not None:
        notes += [
            f"Against a rule: {whys.get(row.rule, row.rule)} Reason: {row.reason or 'known'} ({row.by})." for row in overrides_of(job)
        ]
    for row in findings_of(build):
        if not row.settled:
            where = row.position.name if row.position else row.place
            sign = signs().get(row.sign)
            notes.append(
                f"Open finding {row.number}, {row.part} {where}: {sign.sign if sign else row.words}. {GRADES[row.grade].capitalize()}."
            )
    return notes


def pace_of(ticks: Iterable[DoneAt]) -> tuple[float, int]:
    """How a workshop's times compare with the planned ones, and from how many stretches of work: the time from one tick to the next, where it tells of work."""
    known = steps()
    groups: list[list[Any]] = []  # job, moment, s planned: what was ticked together was worked at together
    for tick in ticks:
        step = known.get(tick.key.partition("-")[0])
        planned = mean_of(step.least, step.most) if step and not step.waits else 0.0
        last = groups[-1] if groups else None
        if last and last[0] == tick.job_id and (tick.at - last[1]).total_seconds() < _SHORTEST:
            last[1], last[2] = tick.at, last[2] + planned
        else:
            groups.append([tick.job_id, tick.at, planned])
    pairs = []
    for before, after in pairwise(groups):
        since = (after[1] - before[1]).total_seconds()
        if before[0] == after[0] and after[2] and since <= min(_LONGEST, 6.0 * after[2]):
            pairs.append((since, after[2]))
    return own_factor(pairs)


def usual_spec(build: Build) -> dict[str, Any]:
    """What the records already know of the engine and the workshop's schools, so that it is not asked twice."""
    has = set(words_of(build.engine.facts))
    if any(key.startswith("phaser_") for key in build.engine.figures):
        has.add("phaser")
    if "governed" in build.engine.figures:
        has.add("governed")
    asks = {"runs"}
    rows = [row for setup in build.setups.all() if setup.role == "proposed" for row in setup.sides.all()]
    stock = {row.side: row for setup in build.setups.all() if setup.role == "stock" for row in setup.sides.all()}
    names = {"cam": "cam", "outer_spring": "spring", "retainer": "retainer", "valve": "valve", "follower": "follower"}
    renewed = {word for row in rows for slot, word in names.items() if getattr(row, f"{slot}_id") != getattr(stock[row.side], f"{slot}_id")}
    if any(row.valve and row.valve.facts.get("material", "").startswith("titanium") for row in rows):
        asks.add("titanium")
    if any(row.retainer and row.retainer.facts.get("held_by") == "keyhole" for row in rows):
        asks.add("keyhole")
    habits = {name: way for name, way in build.workshop.schools.items() if name in schools()}
    return habits | {"has": sorted(has), "asks": sorted(asks), "renewed": sorted(renewed), "in_frame": False}
