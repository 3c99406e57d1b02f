"""Reads of what was changed in builds since something was read."""

from collections.abc import Iterable
from datetime import datetime
from typing import Any

from django.db import connection

from rocklash.records.models import Build, JournalEntry
from valvetrain.parts.stale import STEPS_THAT_CHANGE

SlotChange = tuple[datetime, str, list[dict[str, Any]]]
# When, by whom, what (a work of the machine shop, or a step of a job), and where: sides for a work, a valve or a side for a step.
WorkDone = tuple[datetime, str, str, list[str]]
_VERBS = ("part", "new part", "copied part")


def lay_changes(builds: Iterable[Build]) -> None:
    """Lay the changes of several builds where `slot_changes` and `works_done` find them, in two queries."""
    wanted = {build.pk: build for build in builds}
    _lay_works(wanted)
    found: dict[int, list[SlotChange]] = {number: [] for number in wanted}
    if wanted:
        entries = JournalEntry.objects.filter(build__in=wanted, verb__in=_VERBS, undone_by=None).order_by("at", "pk")
        for number, *change in entries.values_list("build_id", "at", "by__username", "data"):
            found[number].append(tuple(change))
    for number, build in wanted.items():
        build.__dict__["_slot_changes"] = found[number]


# Works of the machine shop and steps of jobs in one statement that is written once: composing it anew costs more than asking it.
_WORKS = """
SELECT o.build_id, o.back_at, u.username, ARRAY(SELECT jsonb_array_elements_text(o.works)),
       ARRAY(SELECT DISTINCT p.side::text FROM records_shopreading r JOIN records_position p ON p.id = r.position_id
              WHERE r.order_id = o.id AND r.stage = 'back' ORDER BY 1)
  FROM records_shoporder o LEFT JOIN records_user u ON u.id = o.by_id WHERE o.build_id = ANY(%(builds)s) AND o.back_at IS NOT NULL
UNION ALL
SELECT j.build_id, t.at, u.username, ARRAY[t.key::text], ARRAY[t.place::text]
  FROM records_jobtick t JOIN records_job j ON j.id = t.job_id LEFT JOIN records_user u ON u.id = t.by_id
 WHERE j.build_id = ANY(%(builds)s) AND t.key = ANY(%(steps)s)
 ORDER BY 2
"""


def _lay_works(wanted: dict[int, Build]) -> None:
    found: dict[int, list[WorkDone]] = {number: [] for number in wanted}
    if any(getattr(build, "standing", {}).get("worked", True) for build in wanted.values()):
        with connection.cursor() as cursor:
            cursor.execute(_WORKS, {"builds": list(wanted), "steps": list(STEPS_THAT_CHANGE)})
            for number, at, by, works, where in cursor.fetchall():
                found[number] += [(at, by or "somebody", work, list(where)) for work in works]
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
