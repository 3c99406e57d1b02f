"""Reads of what was changed in builds since something was read."""

from collections.abc import Iterable
from datetime import datetime
from typing import Any

from rocklash.records.models import Build, JournalEntry

SlotChange = tuple[datetime, str, list[dict[str, Any]]]
_VERBS = ("part", "new part", "copied part")


def lay_changes(builds: Iterable[Build]) -> None:
    """Lay the changes of several builds where `slot_changes` finds them, in one query."""
    wanted = {build.pk: build for build in builds}
    found: dict[int, list[SlotChange]] = {number: [] for number in wanted}
    if wanted:
        entries = JournalEntry.objects.filter(build__in=wanted, verb__in=_VERBS, undone_by=None).order_by("at", "pk")
        for number, *change in entries.values_list("build_id", "at", "by__username", "data"):
            found[number].append(tuple(change))
    for number, build in wanted.items():
        build.__dict__["_slot_changes"] = found[number]


def slot_changes(build: Build) -> list[SlotChange]:
    """Commands that put parts into slots and were not undone, oldest first: when, by whom, and the rows they changed."""
    if "_slot_changes" not in build.__dict__:
        lay_changes([build])
    changes: list[SlotChange] = build.__dict__["_slot_changes"]
    return changes
