"""Read queries of builds. Each takes the workshop, so that nothing of another one can be met."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, TypeVar

from django.db import models
from django.db.models import F, QuerySet, prefetch_related_objects
from django.db.models.expressions import RawSQL
from django.shortcuts import get_object_or_404

from rocklash.records.models import (
    Build,
    CamCandidate,
    CamLog,
    CamTiming,
    ClearanceSession,
    GapReading,
    Part,
    Position,
    Setup,
    SetupSide,
    ValveFit,
    Workshop,
)
from rocklash.records.selectors.changes import lay_changes
from valvetrain.parts.stale import STEPS_THAT_CHANGE

_Row = TypeVar("_Row", bound=models.Model)
_Placed = TypeVar("_Placed", GapReading, ValveFit)
PART_FIELDS = ("cam", "low_cam", "valve", "retainer", "keepers", "follower", "shim", "outer_spring", "inner_spring")


def builds_of(workshop: Workshop) -> QuerySet[Build]:
    """Builds of a workshop with their engines, deleted ones left out; `with_parts` adds what an assessment reads."""
    return Build.objects.filter(workshop=workshop, deleted_at=None).select_related("engine", "workshop")


def _group(rows: Iterable[_Row], key: str) -> dict[int, list[_Row]]:
    found: dict[int, list[_Row]] = {}
    for row in rows:
        found.setdefault(getattr(row, key), []).append(row)
    return found


def _prefetched(row: models.Model, **lists: list[Any]) -> None:
    """Lay lists where `row.<name>.all()` finds them."""
    row.__dict__.setdefault("_prefetched_objects_cache", {}).update(lists)


def _with_sides(builds: list[Build], places: dict[int, Position], fits: dict[int, list[ValveFit]] | None = None) -> None:
    """Set-ups and sides with their parts and fits, in three queries however many builds (joins cost more to write than what they find)."""
    rows = list(SetupSide.objects.select_related("setup").filter(setup__build__in=builds).order_by("setup_id", "pk"))
    wanted = {getattr(row, f"{name}_id") for row in rows for name in PART_FIELDS}
    parts = Part.objects.in_bulk([number for number in wanted if number])
    if fits is None:
        fits = _group(_placed(ValveFit.objects.filter(setup_side__in=[row.pk for row in rows]), places), "setup_side_id")
    for row in rows:
        for name in PART_FIELDS:
            setattr(row, name, parts.get(getattr(row, f"{name}_id")))
        _prefetched(row, valve_fits=fits.get(row.pk, []))
    by_build: dict[int, dict[int, Setup]] = {}
    for row in rows:
        by_build.setdefault(row.setup.build_id, {}).setdefault(row.setup_id, row.setup)
    sides = _group(rows, "setup_id")
    for build in builds:
        setups = list(by_build.get(build.pk, {}).values())
        for setup in setups:
            setup.build = build
            _prefetched(setup, sides=sides.get(setup.pk, []))
            for row in sides.get(setup.pk, []):
                row.setup = setup
        _prefetched(build, setups=setups)


def _placed(rows: Iterable[_Placed], places: dict[int, Position]) -> list[_Placed]:
    """Rows with the positions they are of, which are at hand already."""
    found = list(rows)
    for row in found:
        row.position = places[row.position_id]
    return found


def with_parts(builds: Iterable[Build]) -> list[Build]:
    """The builds with everything an assessment reads, in six queries however many."""
    listed = list(builds)
    rows = list(Position.objects.filter(engine__in={build.engine_id for build in listed}))
    places = {row.pk: row for row in rows}
    by_engine = _group(rows, "engine_id")
    gaps = _group(_placed(GapReading.objects.filter(build__in=listed), places), "build_id")
    for build in listed:
        _prefetched(build.engine, positions=by_engine.get(build.engine_id, []))
        _prefetched(build, gap_readings=gaps.get(build.pk, []))
    lay_changes(build for build in listed if build.pk in gaps)
    _with_sides(listed, places)
    return listed


# What the rail tells of a build beside its parts, with its row, in an expression that is written once: composing it anew costs more than asking it.
_STANDING = """
jsonb_build_object(
  'searched', EXISTS(SELECT 1 FROM records_search s WHERE s.build_id = records_build.id AND s.asked_key <> ''),
  'chosen', EXISTS(SELECT 1 FROM records_decision d WHERE d.build_id = records_build.id),
  'at_shop', (SELECT CASE WHEN o.closed_at IS NOT NULL THEN 'closed' WHEN o.back_at IS NOT NULL THEN 'back' WHEN o.sent_at IS NOT NULL THEN 'sent'
                     ELSE 'written' END FROM records_shoporder o WHERE o.build_id = records_build.id ORDER BY o.at DESC LIMIT 1),
  'job_open', (SELECT j.kind FROM records_job j WHERE j.build_id = records_build.id AND j.closed_at IS NULL LIMIT 1),
  'found_open', EXISTS(SELECT 1 FROM records_finding f WHERE f.build_id = records_build.id AND f.settled = ''),
  'proved', EXISTS(SELECT 1 FROM records_prooftest t WHERE t.build_id = records_build.id AND t.phase = 'after' AND NOT t.found ? 'pending'),
  'tested', EXISTS(SELECT 1 FROM records_prooftest t WHERE t.build_id = records_build.id AND NOT t.found ? 'pending'),
  'ran', EXISTS(SELECT 1 FROM records_runentry r WHERE r.build_id = records_build.id),
  'worked', EXISTS(SELECT 1 FROM records_shoporder o WHERE o.build_id = records_build.id AND o.back_at IS NOT NULL)
            OR EXISTS(SELECT 1 FROM records_jobtick k JOIN records_job j ON j.id = k.job_id WHERE j.build_id = records_build.id AND k.key = ANY(%s))
)
"""


@dataclass(frozen=True, kw_only=True)
class Standing:
    """Where a build stands beyond its parts: whether a set was searched for it or chosen, how far its last visit to the machine shop is, the kind of
    the job under way, whether a finding is open, whether it was tested before and after, whether hours are kept, and whether a shop or a job did something to it."""

    searched: bool
    chosen: bool
    at_shop: str | None
    job_open: str | None
    found_open: bool
    proved: bool
    tested: bool
    ran: bool
    worked: bool


def standing_of(build: Build) -> Standing:
    """Where a build stands, from its row as `build_row_or_404` gives it."""
    return Standing(**build.standing)  # type: ignore[attr-defined]


def deleted_builds(workshop: Workshop) -> QuerySet[Build]:
    """Builds that were deleted, newest first: each can be had back."""
    return Build.objects.filter(workshop=workshop).exclude(deleted_at=None).select_related("engine", "workshop").order_by("-deleted_at")


def build_row_or_404(workshop: Workshop, number: int) -> Build:
    """The row of a build of the workshop, with its engine's and where it stands, and nothing of its parts."""
    standing = RawSQL(_STANDING, [list(STEPS_THAT_CHANGE)], output_field=models.JSONField())  # noqa: S611  (written here, nothing of a person's in it)
    return get_object_or_404(builds_of(workshop).annotate(standing=standing), pk=number)


def build_or_404(workshop: Workshop, number: int) -> Build:
    """One build of the workshop; another workshop's answers 404."""
    return with_parts([build_row_or_404(workshop, number)])[0]


def refreshed(build: Build, changed: set[str]) -> Build:
    """The build as it is after a command that changed rows of the tables named; places, fits and gaps that it left alone are not read again."""
    if changed & {"position", "valvefit", "gapreading"}:
        return build_or_404(build.workshop, build.pk)
    fresh = build_row_or_404(build.workshop, build.pk)
    _prefetched(fresh.engine, positions=list(build.engine.positions.all()))
    _prefetched(fresh, gap_readings=list(build.gap_readings.all()))
    fits = {row.pk: list(row.valve_fits.all()) for setup in build.setups.all() for row in setup.sides.all()}
    _with_sides([fresh], {}, fits)
    return fresh


def parts_that_fit(build: Build) -> QuerySet[Part]:
    """Parts of the shop that may go into a build: the shelf's and those of its own engine; into a practice copy only its own."""
    shelf = Part.objects.filter(workshop=build.workshop, engine=None)
    own = Part.objects.filter(workshop=build.workshop, engine=build.engine)
    return own if build.practice else shelf | own


def parts_to_choose(build: Build) -> list[Part]:
    """The same by name, kind and side alone: of hundreds on the shelf a list to choose from needs no figures."""
    return list(parts_that_fit(build).only("pk", "kind", "side", "name"))


def open_session(build: Build, *, lock: bool = False) -> ClearanceSession | None:
    """The unsigned clearance session of a build, if there is one; with `lock` nobody else changes it in this transaction."""
    sessions = build.clearance_sessions.select_for_update(no_key=True) if lock else build.clearance_sessions.all()
    return sessions.filter(signed_at=None).first()


def last_session(build: Build) -> ClearanceSession | None:
    """The open session, or else the newest, with its readings."""
    newest = F("signed_at").desc(nulls_first=True), "-started_at"
    return build.clearance_sessions.order_by(*newest).prefetch_related("readings").first()


def with_readings(session: ClearanceSession) -> ClearanceSession:
    """The session with its readings as they are now, as `last_session` gives it."""
    prefetch_related_objects([session], "readings")
    return session


def builds_listed(workshop: Workshop, offset: int, limit: int, *, archived: bool) -> tuple[int, list[Build]]:
    """How many builds there are, and a page of them with what was due when that was last worked out; practice copies left out."""
    found = builds_of(workshop).filter(archived_at__isnull=not archived, practice=False)
    return found.count(), list(found.select_related("due_state")[offset : offset + limit])


def newest_sessions(builds: Iterable[Build]) -> dict[int, ClearanceSession]:
    """The open clearance session of each build, or else its newest, with readings; in two queries however many."""
    newest = F("signed_at").desc(nulls_first=True), "-started_at"
    rows = ClearanceSession.objects.filter(build__in=list(builds)).order_by("build_id", *newest).distinct("build_id")
    return {row.build_id: row for row in rows.prefetch_related("readings")}


def newest_logs(build: Build) -> dict[int, CamLog]:
    """The newest degree-wheel log of each cam that fits a build, by the cam's number."""
    logs = CamLog.objects.select_related("by").filter(part__in=parts_that_fit(build).filter(kind="cam")).order_by("at")
    return {log.part_id: log for log in logs}


def cam_or_404(build: Build, number: int) -> Part:
    """A cam that may go into a build; any other part answers 404."""
    return get_object_or_404(parts_that_fit(build).filter(kind="cam"), pk=number)


def candidates_of(build: Build) -> list[CamCandidate]:
    """The further cams laid beside stock and proposed."""
    return list(CamCandidate.objects.select_related("cam", "setup_side").filter(setup_side__setup__build=build))


def timings_of(build: Build) -> list[CamTiming]:
    """How the cams were degreed in, newest first."""
    return list(CamTiming.objects.select_related("setup_side", "by").filter(setup_side__setup__build=build))
