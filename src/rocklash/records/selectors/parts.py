"""Reads of parts: who uses them."""

from collections.abc import Iterable
from functools import reduce
from operator import or_

from django.db.models import Q, QuerySet

from rocklash.records.models import SetupSide, Workshop

_SLOTS = ("cam", "low_cam", "valve", "retainer", "keepers", "follower", "shim", "outer_spring", "inner_spring")


def users_of(workshop: Workshop, parts: Iterable[int]) -> QuerySet[SetupSide]:
    """Sides of the workshop's builds that have any of the parts in them, with their set-up and build."""
    numbers = list(parts)
    anywhere = reduce(or_, (Q(**{f"{slot}__in": numbers}) for slot in _SLOTS))
    return SetupSide.objects.filter(anywhere, setup__build__workshop=workshop).select_related("setup__build")
