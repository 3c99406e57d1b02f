"""The plan of a job as view-models: the way, the step at hand, the head with what is done at each valve."""

import math
from dataclasses import dataclass, field
from functools import cached_property
from itertools import groupby

from django.utils.timezone import localtime

from rocklash.answers.job import done_of, plan_of, rule_whys, school_of, things_of
from rocklash.records.models import Build, Finding, Job, JobDetour, JobOverride, JobTick, JobWait
from rocklash.stations.job.pages.course import Course
from rocklash.ui.drawings import job_map
from rocklash.ui.drawings.job_map import BuiltValve
from rocklash.ui.drawings.job_path import Bars, JobPath, Loop, Stretch
from rocklash.ui.drawings.shapes import Shape
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.studies.job.bolts import read_stages
from valvetrain.studies.job.facts import KIND_WORDS, JobKind
from valvetrain.studies.job.knowledge import schools, troubles
from valvetrain.studies.job.plan import Broken, Plan, PlanItem, unaccounted, waiting_for
from valvetrain.studies.job.steps import Step, steps
from valvetrain.units import QuantityKind, UnitSystem, quantity
from valvetrain.wording.cautions import STEP_CAUTIONS

_PHASES = {
    "p": "Make ready", "b": "As it is found", "o": "Open", "h": "Hold", "s": "Strip", "i": "Look", "c": "Clean", "m": "Machine shop", "v": "Seats",
    "a": "Assemble the valves", "n": "Close the cams", "l": "Clearances", "z": "Close", "r": "Run", "q": "Prove", "t": "Trouble",
}  # fmt: skip
_SQUARES = (("seal", ("a04",)), ("springs", ("a06",)), ("keepers", ("a07", "a08")), ("knock", ("a10",)), ("height", ("a02", "a01")))
_HEAT = {"s11": 90}  # s of heat before a stud is turned. Source: trade
_LONGEST_TIMER = 4 * 3600.0
_HARD = {1: "easy", 2: "takes care", 3: "hard: ask somebody who has done it"}
_NEXT = 7


@dataclass(frozen=True, kw_only=True)
class StepLine:
    """One step in the list: done, now, work or ahead; `count` where it is done at several places."""

    key: str
    act: str
    state: str
    count: str
    override: str
    detour: bool


@dataclass(frozen=True, kw_only=True)
class Phase:
    """Steps of one kind that follow one another."""

    name: str
    lines: list[StepLine]


@dataclass(frozen=True, kw_only=True)
class PlaceTick:
    """One place of the step at hand, with what was read there."""

    name: str
    done: bool
    said: str


@dataclass(frozen=True, kw_only=True)
class SchoolAt:
    """A choice between ways of working, at the step where it matters."""

    id: str
    name: str
    way: str
    because: str
    ways: list[tuple[str, str]]


@dataclass(frozen=True, kw_only=True)
class StepAtHand:
    """The step at hand, readable at arm's length. `held` says which rule stands against doing it now, `grave` that it wants a reason."""

    key: str
    act: str
    why: str
    done_when: str
    tool: str
    minutes: str
    hard: str
    used_up: str
    torque: tuple[str, str]
    photo: str
    reading: str
    slip: str
    cautions: list[tuple[str, str]]
    places: list[PlaceTick]
    progress: str
    finished: bool
    held: str
    grave: bool
    next_act: str
    number: int
    timer: int
    school: SchoolAt | None
    detour: str


@dataclass(frozen=True, kw_only=True)
class PlanPage:
    """Everything the page prints."""

    trouble: str = ""
    title: str = ""
    progress: str = ""
    phases: list[Phase] = field(default_factory=list)
    step: StepAtHand | None = None
    overrides: list[tuple[str, str]] = field(default_factory=list)
    closed: bool = False
    path: Shape | None = None
    map: Shape | None = None
    built: str = ""
    share: int = 0
    then: list[tuple[str, str, str]] = field(default_factory=list)
    moves: list[tuple[str, str]] = field(default_factory=list)
    findings: list[tuple[int, str, str]] = field(default_factory=list)
    missing: int = 0
    things: int = 0
    troubles: list[tuple[str, str]] = field(default_factory=list)
    struck: list[tuple[int, str, str]] = field(default_factory=list)


@dataclass(frozen=True, kw_only=True)
class JobRows:
    """A job with all that hangs on it."""

    job: Job
    build: Build
    ticks: list[JobTick]
    overrides: list[JobOverride]
    detours: list[JobDetour]
    waits: list[JobWait]
    findings: list[Finding]

    @cached_property
    def ticks_at(self) -> dict[str, dict[str, JobTick]]:
        """Ticks by step and place: a plan of hundreds of steps asks for each."""
        found: dict[str, dict[str, JobTick]] = {}
        for tick in self.ticks:
            found.setdefault(tick.key, {})[tick.place] = tick
        return found


def span(low: float, high: float) -> str:
    """A range of time as people say it."""
    if high < 5400.0:
        return f"{low / 60.0:.0f} to {high / 60.0:.0f} min" if high - low >= 30.0 else f"{high / 60.0:.0f} min"
    if high < 172800.0:
        return f"{low / 3600.0:.1f} to {high / 3600.0:.1f} h"
    return f"{low / 86400.0:.0f} to {high / 86400.0:.0f} days"


def torque_of(step: Step, build: Build, system: UnitSystem, stages: str = "") -> tuple[str, str]:
    """The torque of a step's joint: the manual's figure with its page, or that it is asked for; never one of ours."""
    if not step.torque:
        return ("", "")
    row = FIGURES[Owner.ENGINE, f"torque_{step.torque}"]
    known = build.engine.figures.get(f"torque_{step.torque}", {})
    if not known and not (stages and step.torque == "head"):
        return (f"{row.label}: not known", "type the manual's figure on Engine, Papers")
    page = f", page {known['page']}" if known.get("page") else ""
    if step.torque == "head" and stages:
        told = ", then ".join(
            f"on by {math.degrees(each.angle):.0f}°" if each.angle else quantity(each.torque, QuantityKind.TORQUE, system)
            for each in read_stages(stages)
        )
        return (f"{row.label}: {told}", f"stages as the manual gives them{page}; oil as it says")
    return (
        f"{row.label}: {quantity(known['value'], QuantityKind.TORQUE, system)}",
        f"the manual's figure{page}; stages, oil and angle as it says",
    )


def earlier(jobs: list[Job]) -> list[str]:
    """Jobs that are done, in a line each."""
    return [
        f"{KIND_WORDS[JobKind(job.kind)]}, {localtime(job.begun_at):%d %b %Y} to {localtime(job.closed_at):%d %b %Y}: {getattr(job, 'ticked', 0)} ticks"
        for job in jobs
        if job.closed_at
    ]


def _school_at(job: Job, step: Step) -> SchoolAt | None:
    for school in schools().values():
        if any(way.step == step.id for way in school.ways):
            now = school_of(job, school.id)
            way = next(each for each in school.ways if each.id == now)
            return SchoolAt(
                id=school.id, name=school.name, way=now, because=way.because, ways=[(each.id, each.words) for each in school.ways]
            )
    return None


def _timer(step: Step) -> int:
    if step.id in _HEAT:
        return _HEAT[step.id]
    return int(step.least) if step.waits and step.least <= _LONGEST_TIMER else 0


def name_of(item: PlanItem) -> str:
    """The act of a step, with its cylinder in a round."""
    return item.step.act + (f", cylinder {item.cylinder}" if item.cylinder else "")


def tool_of(step: Step) -> str:
    """What to hold, and its fit."""
    return f"{step.tool}. {step.fit}" if step.fit and step.tool else step.tool or step.fit


def cautions_of(step: Step) -> list[tuple[str, str]]:
    """Shape and words of each caution at a step."""
    return [(STEP_CAUTIONS[name][0].value, STEP_CAUTIONS[name][1]) for name in step.cautions]


def step_at_hand(
    rows: JobRows, plan: Plan, item: PlanItem, done: dict[str, int], following: PlanItem | None, system: UnitSystem
) -> StepAtHand:  # fmt: skip
    """Everything of one step."""
    step = item.step
    broken: list[Broken] = waiting_for(plan, item.key, done)
    count = min(done.get(item.key, 0), item.times)
    names = dict.fromkeys(each.rule.why for each in sorted(broken, key=lambda each: not each.rule.stop))
    missing = bool(unaccounted(plan, done, item.key))
    held = next(iter(names), "") or ("Not everything is accounted for: see what is open." if missing else "")
    time = span(step.least * item.times, step.most * item.times)
    there = rows.ticks_at.get(item.key, {})
    return StepAtHand(
        key=item.key, act=name_of(item), why=step.why, done_when=step.done, tool=tool_of(step), minutes=f"waiting, {time}" if step.waits else time,
        hard=_HARD[step.hard] + (", two persons" if step.two else ""), used_up=step.used_up, torque=torque_of(step, rows.build, system, str(rows.job.helper.get("stages", ""))),
        photo=step.photo, reading=step.reading, slip=step.slip,
        cautions=cautions_of(step),
        places=[PlaceTick(name=place, done=place in there, said=there[place].said if place in there else "") for place in item.places],
        progress=f"{count} of {item.times}, {100 * count // item.times} %" if item.times > 1 else "", finished=count >= item.times, held=held,
        grave=missing or any(each.rule.stop for each in broken), next_act=name_of(following) if following else "",
        number=plan.items.index(item) + 1, timer=_timer(step), school=_school_at(rows.job, step),
        detour=next((troubles()[row.trouble].name for row in rows.detours if row.number == item.detour and row.trouble in troubles()), ""),
    )  # fmt: skip


def phase_of(item: PlanItem) -> str:
    """What a step's stretch of the way is called."""
    return f"Cylinder {item.cylinder}" if item.cylinder else _PHASES[item.step.id[0]]


def _path(plan: Plan, done: dict[str, int], now: PlanItem | None, rows: JobRows, course: Course) -> Shape:
    rule = [item for item in plan.items if not item.detour]
    full = lambda item: done.get(item.key, 0) >= item.times
    stretches = []
    for name, group in groupby(rule, phase_of):
        items = list(group)
        stretches.append(Stretch(name, sum(map(full, items)), len(items)))
    place: dict[str, int] = {item.key: number for number, item in enumerate(rule)}
    following = {item.key: sum(not each.detour for each in plan.items[:number]) for number, item in enumerate(plan.items)}
    loops = []
    for row in rows.detours:
        own = [item for item in plan.items if item.detour == row.number]
        if own:
            loops.append(Loop(following[own[0].key], troubles()[row.trouble].name, sum(map(full, own)), len(own)))
    bars = tuple(Bars(place.get(wait.key, len(rule)), wait.what) for wait in rows.waits if wait.got_on is None)
    at = None if now is None else following[now.key] if now.detour else place[now.key]
    drawn = JobPath(tuple(stretches), at, tuple(loops), bars, course.ends)
    left = sum(not full(item) for item in plan.items)
    return drawn.shape(f"The way of the job: {len(plan.items) - left} of {len(plan.items)} steps done. {course.words}")


def _map(plan: Plan, rows: JobRows, now: PlanItem | None) -> tuple[Shape | None, str, int]:
    there: dict[str, set[str]] = {}
    for tick in rows.ticks:
        there.setdefault(tick.place, set()).add(tick.key.partition("-")[0])
    present = {item.step.id for item in plan.items}
    squares = [tuple(each for each in ids if each in present) for _, ids in _SQUARES]
    squares = [ids for ids in squares if ids]
    built = (
        now.step.id
        if now and now.step.per == "valve" and not now.cylinder
        else "a10"
        if "a10" in present
        else next((item.step.id for item in reversed(plan.items) if item.step.per == "valve"), "")
    )
    found: dict[str, list[int]] = {}
    for row in rows.findings:
        if row.position and not row.settled:
            found.setdefault(row.position.name, []).append(row.number)
    places = list(rows.build.engine.positions.all())
    if not built or not places:
        return None, "", 0
    at_hand = (
        next((place for place in now.places if now.step.id not in there.get(place, set())), "") if now and now.step.per == "valve" else ""
    )
    valves = [
        BuiltValve(
            place.name, place.side, place.cylinder,
            "done" if built in there.get(place.name, set()) else "now" if place.name == at_hand else "ahead",
            tuple(bool(there.get(place.name, set()) & set(ids)) for ids in squares), findings=tuple(found.get(place.name, [])),
        )
        for place in places
    ]  # fmt: skip
    count = sum(valve.state == "done" for valve in valves)
    held = {}
    for tick in rows.ticks:
        step, _, cylinder = tick.key.partition("-")
        if step in ("h02", "h05", "a13", "a14") and cylinder.isdigit():
            held[int(cylinder)] = {"h02": "rope", "h05": "air"}.get(step, "")
    words = f"{count} of {len(valves)} valves: {steps()[built].act[0].lower() + steps()[built].act[1:]}"
    shape = job_map.draw(valves, held, f"Head from above. {words}.")
    return shape, words, 100 * count // len(valves)


def plan_page(rows: JobRows, asked: str, course: Course, system: UnitSystem, *, moves_on: bool = False) -> PlanPage:
    """View-model of the page; `asked` is the key of a step to look at, empty for the next one; with `moves_on` it is passed over once it is done."""
    plan = plan_of(rows.job, rows.build, rows.detours)
    if isinstance(plan, str):
        return PlanPage(trouble=plan)
    done = done_of(rows.ticks)
    left = [item for item in plan.items if done.get(item.key, 0) < item.times]
    now = next((item for item in (left if moves_on else plan.items) if item.key == asked), left[0] if left else None)
    place = plan.items.index(now) if now else 0
    ahead = [item for item in plan.items[place + 1 :] if done.get(item.key, 0) < item.times]
    against: dict[str, list[str]] = {}
    for row in rows.overrides:
        against.setdefault(row.key, []).append(row.reason or "known")

    def line(item: PlanItem) -> StepLine:
        count = min(done.get(item.key, 0), item.times)
        state = "now" if item is now else "done" if count >= item.times else "work" if count else "ahead"
        return StepLine(
            key=item.key, act=item.step.act, state=state, count=f"{count} of {item.times}" if item.times > 1 else "",
            override=", ".join(against.get(item.key, [])), detour=bool(item.detour),
        )  # fmt: skip

    whys = rule_whys()
    full = len(plan.items) - len(left)
    drawn, built, share = _map(plan, rows, now)
    things = things_of(plan, done)
    later = plan.items[place + 1 :]
    return PlanPage(
        title=KIND_WORDS[JobKind(rows.job.kind)], progress=f"{full} of {len(plan.items)} steps",
        phases=[Phase(name=name, lines=[line(item) for item in items]) for name, items in groupby(plan.items, phase_of)],
        step=step_at_hand(rows, plan, now, done, ahead[0] if ahead else None, system) if now else None, closed=rows.job.closed_at is not None,
        overrides=[(whys.get(row.rule, row.rule), f"{row.reason or 'known'} ({row.by}, {localtime(row.at):%d %b})") for row in rows.overrides],
        path=_path(plan, done, now, rows, course), map=drawn, built=built, share=share,
        then=[(item.key, name_of(item), f"{item.times} times" if item.times > 1 else "") for item in ahead[:_NEXT]],
        moves=[(item.key, name_of(item)) for item in later if done.get(item.key, 0) < item.times][:60],
        findings=[
            (row.number, f"{row.part} {row.position.name if row.position else row.place}".strip(), row.words or row.sign) for row in rows.findings if not row.settled
        ],
        missing=sum(not each.settled for each in things), things=len(things),
        troubles=[(each.id, each.name) for each in troubles().values()],
        struck=[(row.pk, troubles()[row.trouble].name, row.note) for row in rows.detours if row.trouble in troubles()],
    )  # fmt: skip
