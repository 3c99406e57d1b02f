"""Reads of what was changed in builds since something was read."""

from collections.abc import Iterable
from datetime import datetime
from typing import Any

from django.contrib.postgres.aggregates import ArrayAgg
from django.db.models import Exists, OuterRef, Q, Value

from rocklash.records.models import Build, JobTick, JournalEntry, ShopOrder
from valvetrain.parts.stale import STEPS_THAT_CHANGE

SlotChange = tuple[datetime, str, list[dict[str, Any]]]
# When, by whom, what (a work of the machine shop, or a step of a job), and where: sides for a work, a valve or a side for a step.
WorkDone = tuple[datetime, str, str, list[str]]
_VERBS = ("part", "new part", "copied part")


def lay_changes(builds: Iterable[Build]) -> None:
    """Lay the changes of several builds where `slot_changes` and `works_done` find them, in three queries."""
    wanted = {build.pk: build for build in builds}
    _lay_works(wanted)
    found: dict[int, list[SlotChange]] = {number: [] for number in wanted}
    if wanted:
        entries = JournalEntry.objects.filter(build__in=wanted, verb__in=_VERBS, undone_by=None).order_by("at", "pk")
        for number, *change in entries.values_list("build_id", "at", "by__username", "data"):
            found[number].append(tuple(change))
    for number, build in wanted.items():
        build.__dict__["_slot_changes"] = found[number]


def worked_on() -> Any:
    """Whether the machine shop or a job did something to a build that may make readings stale: for an annotation of its row."""
    return Exists(ShopOrder.objects.filter(build=OuterRef("pk"), back_at__isnull=False)) | Exists(
        JobTick.objects.filter(job__build=OuterRef("pk"), key__in=STEPS_THAT_CHANGE)
    )


def _lay_works(wanted: dict[int, Build]) -> None:
    found: dict[int, list[WorkDone]] = {number: [] for number in wanted}
    if any(getattr(build, "worked", True) for build in wanted.values()):
        back = Q(readings__stage="back", readings__position__isnull=False)
        sides = ArrayAgg("readings__position__side", filter=back, distinct=True, default=Value([]))
        orders = ShopOrder.objects.filter(build__in=wanted, back_at__isnull=False).annotate(sides=sides)
        for number, at, by, works, where in orders.values_list("build_id", "back_at", "by__username", "works", "sides"):
            if at:
                found[number] += [(at, by or "somebody", str(work), list(where)) for work in works]
        ticks = JobTick.objects.filter(job__build__in=wanted, key__in=STEPS_THAT_CHANGE)
        for number, at, by, key, place in ticks.values_list("job__build_id", "at", "by__username", "key", "place"):
            found[number].append((at, by or "somebody", key, [place]))
    for number, build in wanted.items():
        build.__dict__["_works_done"] = found[number]


def works_done(build: Build) -> list[WorkDone]:
    """What the machine shop sent back and what a job did that makes earlier readings stale: for each work or step, once."""
    if "_works_done" not in build.__dict__:
        _lay_works({build.pk: build})
    done: list[WorkDone] = build.__dict__["_works_done"]
    return done


def slot_changes(build: Build) -> list[SlotChange]:
    """Commands that put parts into slots and were not undone, oldest first: when, by whom, and the rows they changed."""
    if "_slot_changes" not in build.__dict__:
        lay_changes([build])
    changes: list[SlotChange] = build.__dict__["_slot_changes"]
    return changes
