"""Reads of parts: who uses them."""

from functools import reduce
from operator import or_

from django.db.models import Q

from rocklash.records.models import Build, Part, SetupSide

# Where a part of a kind may be in a set-up; parts that are only on the shelf are nowhere.
_COLUMNS = {"cam": ("cam_id", "low_cam_id"), "spring": ("outer_spring_id", "inner_spring_id")} | {
    kind: (f"{kind}_id",) for kind in ("valve", "retainer", "keepers", "follower", "shim")
}


def builds_with(build: Build, parts: list[Part]) -> dict[int, set[str]]:
    """Names of the other builds of the workshop that have any of the parts in them, by part."""
    if not parts:
        return {}
    numbers = {part.pk for part in parts}
    columns = sorted({column for part in parts for column in _COLUMNS.get(part.kind, ())})
    if not columns:
        return {}
    anywhere = reduce(or_, (Q(**{f"{column}__in": numbers}) for column in columns))
    rows = SetupSide.objects.filter(anywhere, setup__build__workshop=build.workshop_id).exclude(setup__build=build.pk)
    found: dict[int, set[str]] = {}
    for name, *held in rows.values_list("setup__build__name", *columns):
        for number in {*held} & numbers:
            found.setdefault(number, set()).add(name)
    return found


def builds_using(part: Part) -> set[str]:
    """Names of the builds of its workshop that have a part in them."""
    columns = _COLUMNS.get(part.kind, ())
    if not columns:
        return set()
    anywhere = reduce(or_, (Q(**{column: part.pk}) for column in columns))
    return set(SetupSide.objects.filter(anywhere, setup__build__workshop=part.workshop_id).values_list("setup__build__name", flat=True))
