"""A name for exactly the rows that the core's record of a build is made of: where it is the same, neither record nor review is made again."""

import hashlib
from collections.abc import Iterable
from functools import cache
from operator import attrgetter
from typing import Any

from django.db import models

from rocklash.records.models import Build
from rocklash.records.selectors.changes import slot_changes, works_done

_PARTS = ("cam", "low_cam", "valve", "retainer", "keepers", "follower", "shim", "outer_spring", "inner_spring")
_MOMENTS = {"updated_at", "created_at", "archived_at"}  # of a build: they change with everything and bear on nothing


@cache
def _columns(model: type[models.Model]) -> "attrgetter[Any]":
    return attrgetter(*(field.attname for field in model._meta.concrete_fields if field.name not in _MOMENTS))


def _told(rows: Iterable[models.Model]) -> list[Any]:
    return [_columns(type(row))(row) for row in rows]


def stamp_of(build: Build) -> str:
    """Every column of build, engine, positions, set-ups, sides, their parts, fits and gaps, and what bears on them; rows fetched as
    records.selectors.builds does."""
    sides = [side for setup in build.setups.all() for side in setup.sides.all()]
    parts = {getattr(side, f"{name}_id"): getattr(side, name) for side in sides for name in _PARTS if getattr(side, f"{name}_id")}
    gaps = list(build.gap_readings.all())
    told = (
        _told([build, build.engine, *build.engine.positions.all(), *build.setups.all(), *sides, *parts.values(), *gaps]),
        [_told(side.valve_fits.all()) for side in sides],
        build.workshop.own,
        (slot_changes(build), works_done(build)) if gaps else (),
    )
    return hashlib.blake2b(repr(told).encode(), digest_size=16).hexdigest()
