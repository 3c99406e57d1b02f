"""Read queries of builds. Each takes the workshop, so that nothing of another one can be met."""

from collections.abc import Iterable

from django.db.models import Prefetch, QuerySet
from django.shortcuts import get_object_or_404

from rocklash.records.models import Build, CamLog, ClearanceSession, Part, Workshop

PART_FIELDS = ("cam", "valve", "retainer", "keepers", "follower", "shim", "outer_spring", "inner_spring")


def builds_of(workshop: Workshop) -> QuerySet[Build]:
    """Builds of a workshop with what an assessment reads, but for the parts, which `with_parts` adds."""
    return (
        Build.objects.filter(workshop=workshop).select_related("engine", "workshop").prefetch_related("engine__positions", "setups__sides")
    )


def with_parts(builds: Iterable[Build]) -> list[Build]:
    """The builds with every chosen part at hand, in one query however many (eight joins cost ten times as much)."""
    listed = list(builds)
    rows = [row for build in listed for setup in build.setups.all() for row in setup.sides.all()]
    wanted = {getattr(row, f"{name}_id") for row in rows for name in PART_FIELDS}
    parts = Part.objects.in_bulk([number for number in wanted if number])
    for row in rows:
        for name in PART_FIELDS:
            setattr(row, name, parts.get(getattr(row, f"{name}_id")))
    return listed


def build_or_404(workshop: Workshop, number: int) -> Build:
    """One build of the workshop; another workshop's answers 404."""
    return with_parts([get_object_or_404(builds_of(workshop), pk=number)])[0]


def parts_that_fit(build: Build) -> QuerySet[Part]:
    """Parts of the shop that may go into a build: the shelf's and those of its own engine."""
    shelf = Part.objects.filter(workshop=build.workshop, engine=None)
    own = Part.objects.filter(workshop=build.workshop, engine=build.engine)
    return shelf | own


def open_session(build: Build) -> ClearanceSession | None:
    """The unsigned clearance session of a build, if there is one."""
    return build.clearance_sessions.filter(signed_at=None).first()


def last_session(build: Build) -> ClearanceSession | None:
    """The open session, or else the one signed last."""
    return open_session(build) or build.clearance_sessions.first()


def board_builds(workshop: Workshop) -> QuerySet[Build]:
    """Builds of the board, with their clearance sessions and readings; give the page of them to `with_parts`."""
    sessions = ClearanceSession.objects.prefetch_related("readings")
    return builds_of(workshop).prefetch_related(Prefetch("clearance_sessions", queryset=sessions))


def newest_session(build: Build) -> ClearanceSession | None:
    """Of prefetched sessions: the open one, or else the newest."""
    sessions = list(build.clearance_sessions.all())
    return next((session for session in sessions if session.signed_at is None), sessions[0] if sessions else None)


def newest_logs(build: Build) -> dict[int, CamLog]:
    """The newest degree-wheel log of each cam that fits a build, by the cam's number."""
    logs = CamLog.objects.select_related("by").filter(part__in=parts_that_fit(build).filter(kind="cam")).order_by("at")
    return {log.part_id: log for log in logs}
