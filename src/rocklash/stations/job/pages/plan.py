"""The plan of a job as view-models: what stands open, the step at hand, the whole way with what is done."""

from dataclasses import dataclass
from itertools import groupby

from rocklash.answers.job import done_of, plan_of
from rocklash.records.models import Build, Job, JobOverride, JobTick
from valvetrain.studies.job.facts import KIND_WORDS, JobKind
from valvetrain.studies.job.plan import CLOSES, Plan, PlanItem, open_engine, waiting_for
from valvetrain.studies.job.steps import order_rules
from valvetrain.wording.cautions import STEP_CAUTIONS

_PHASES = {
    "p": "Make ready", "b": "As it is found", "o": "Open", "h": "Hold", "s": "Strip", "i": "Look", "c": "Clean", "m": "Machine shop", "v": "Seats",
    "a": "Assemble the valves", "n": "Close the cams", "l": "Clearances", "z": "Close", "r": "Run", "q": "Prove",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class StepLine:
    """One step in the list: done, now, or ahead; `count` where it is done at several places."""

    key: str
    act: str
    state: str
    count: str
    override: str


@dataclass(frozen=True, kw_only=True)
class Phase:
    """Steps of one kind that follow one another."""

    name: str
    lines: list[StepLine]


@dataclass(frozen=True, kw_only=True)
class PlaceTick:
    """One place of the step at hand."""

    name: str
    done: bool


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
    cautions: list[tuple[str, str]]
    places: list[PlaceTick]
    progress: str
    finished: bool
    held: str
    grave: bool
    next_act: str


@dataclass(frozen=True, kw_only=True)
class OpenThing:
    """Something that is out (or in) and must go back, by count."""

    what: str
    words: str
    settled: bool


@dataclass(frozen=True, kw_only=True)
class PlanPage:
    """Everything the page prints."""

    trouble: str = ""
    title: str = ""
    progress: str = ""
    hours: str = ""
    share: int = 0
    phases: list[Phase]
    step: StepAtHand | None = None
    open: list[OpenThing]
    missing: int = 0
    overrides: list[tuple[str, str]]
    closed: bool = False


def span(low: float, high: float) -> str:
    """A range of time as people say it."""
    if high < 5400.0:
        return f"{low / 60.0:.0f} to {high / 60.0:.0f} min" if high - low >= 30.0 else f"{high / 60.0:.0f} min"
    if high < 172800.0:
        return f"{low / 3600.0:.1f} to {high / 3600.0:.1f} h"
    return f"{low / 86400.0:.0f} to {high / 86400.0:.0f} days"


def _places(item: PlanItem, ticks: list[JobTick]) -> list[PlaceTick]:
    there = {tick.place for tick in ticks if tick.key == item.key}
    return [PlaceTick(name=place, done=place in there) for place in item.places]


def _at_hand(plan: Plan, item: PlanItem, ticks: list[JobTick], done: dict[str, int], following: PlanItem | None) -> StepAtHand:
    step = item.step
    broken = waiting_for(plan, item.key, done)
    count = min(done.get(item.key, 0), item.times)
    names = dict.fromkeys(each.rule.why for each in sorted(broken, key=lambda each: not each.rule.stop))
    missing = item.step.id in CLOSES and any(each.missing for each in open_engine(plan, done))
    held = next(iter(names), "") or ("Not everything is accounted for: see what stands open." if missing else "")
    time = span(step.least * item.times, step.most * item.times)
    where = f", cylinder {item.cylinder}" if item.cylinder else ""
    return StepAtHand(
        key=item.key, act=step.act + where, why=step.why, done_when=step.done, tool=step.tool, minutes=f"waiting, {time}" if step.waits else time,
        hard={1: "easy", 2: "takes care", 3: "hard: ask somebody who has done it"}[step.hard] + (", two persons" if step.two else ""),
        cautions=[(STEP_CAUTIONS[name][0].value, STEP_CAUTIONS[name][1]) for name in step.cautions], places=_places(item, ticks),
        progress=f"{count} of {item.times}, {100 * count // item.times} %" if item.times > 1 else "", finished=count >= item.times, held=held,
        grave=missing or any(each.rule.stop for each in broken), next_act=following.step.act if following else "",
    )  # fmt: skip


def _phase(item: PlanItem) -> str:
    return f"Cylinder {item.cylinder}" if item.cylinder else _PHASES[item.step.id[0]]


def plan_page(job: Job, build: Build, ticks: list[JobTick], overrides: list[JobOverride], asked: str) -> PlanPage:
    """View-model of the page; `asked` is the key of a step to look at, empty for the next one."""
    plan = plan_of(job, build)
    if isinstance(plan, str):
        return PlanPage(trouble=plan, phases=[], open=[], overrides=[])
    done = done_of(ticks)
    left = [item for item in plan.items if done.get(item.key, 0) < item.times]
    now = next((item for item in plan.items if item.key == asked), left[0] if left else None)
    place = plan.items.index(now) if now else 0
    following = next((item for item in plan.items[place + 1 :] if done.get(item.key, 0) < item.times), None)
    against: dict[str, list[str]] = {}
    for row in overrides:
        against.setdefault(row.key, []).append(row.reason or "known")

    def line(item: PlanItem) -> StepLine:
        count = min(done.get(item.key, 0), item.times)
        state = "now" if item is now else "done" if count >= item.times else "work" if count else "ahead"
        return StepLine(
            key=item.key, act=item.step.act, state=state, count=f"{count} of {item.times}" if item.times > 1 else "",
            override=", ".join(against.get(item.key, [])),
        )  # fmt: skip

    stands = open_engine(plan, done)
    whys = {rule.id: rule.why for rule in order_rules()} | {"accounted": "Closed with something not accounted for."}
    low, high = plan.hours()
    still = plan.waits()
    full = len(plan.items) - len(left)
    waits = f", and {span(*still)} of waiting" if still[1] else ""
    return PlanPage(
        title=KIND_WORDS[JobKind(job.kind)], progress=f"{full} of {len(plan.items)} steps", share=100 * full // len(plan.items),
        hours=f"{span(low, high)} of work{waits}, by judgement",
        phases=[Phase(name=name, lines=[line(item) for item in items]) for name, items in groupby(plan.items, _phase)],
        step=_at_hand(plan, now, ticks, done, following) if now else None,
        open=[OpenThing(what=each.what, words=f"{each.back} of {each.out} back", settled=not each.missing) for each in stands],
        missing=sum(bool(each.missing) for each in stands), closed=job.closed_at is not None,
        overrides=[(whys.get(row.rule, row.rule), f"{row.reason or 'known'} ({row.by}, {row.at:%d %b})") for row in overrides],
    )  # fmt: skip
