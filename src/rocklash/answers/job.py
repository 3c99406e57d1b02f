"""The plan of a job, from its row."""

from collections import Counter
from typing import Any

from rocklash.answers.rows import kind_of, positions_of
from rocklash.records.models import Build, Job, JobTick
from valvetrain.errors import ValveTrainError
from valvetrain.studies.job.facts import HAS, RENEWED, JobKind, JobSpec, facts_of, words_of
from valvetrain.studies.job.plan import Plan, compose


def spec_of(kind: str, told: dict[str, Any]) -> JobSpec:
    """A job's specification from what is kept of it."""
    return JobSpec(
        kind=JobKind(kind), here=told.get("here", "machine"), in_frame=bool(told.get("in_frame")), hold=told.get("hold", "rope"),
        lapping=told.get("lapping", "none"), drive=told.get("drive", "chain"), held=told.get("held", "caps"),
        has=frozenset(told.get("has", [])) & HAS.keys(), renewed=frozenset(told.get("renewed", [])) & RENEWED.keys(),
        asks=frozenset(told.get("asks", [])),
    )  # fmt: skip


def plan_of(job: Job, build: Build) -> Plan | str:
    """The plan, or a sentence why there is none."""
    try:
        return compose(facts_of(kind_of(build.engine), spec_of(job.kind, job.spec)), positions_of(build.engine))
    except ValveTrainError as error:
        return error.sentence


def done_of(ticks: list[JobTick]) -> dict[str, int]:
    """How often each step is done, by its key."""
    return dict(Counter(tick.key for tick in ticks))


def usual_spec(build: Build) -> dict[str, Any]:
    """What the records already know of the engine, so that it is not asked twice."""
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
    return {"has": sorted(has), "asks": sorted(asks), "renewed": sorted(renewed), "in_frame": False}
