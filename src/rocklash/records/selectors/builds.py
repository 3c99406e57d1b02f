"""Read queries of builds. Each takes the workshop, so that nothing of another one can be met."""

from collections.abc import Iterable

from django.db.models import F, Prefetch, QuerySet, prefetch_related_objects
from django.shortcuts import get_object_or_404

from rocklash.records.models import Build, CamCandidate, CamLog, CamTiming, ClearanceSession, GapReading, Part, ValveFit, WheelRun, Workshop

PART_FIELDS = ("cam", "low_cam", "valve", "retainer", "keepers", "follower", "shim", "outer_spring", "inner_spring")


def builds_of(workshop: Workshop) -> QuerySet[Build]:
    """Builds of a workshop with what an assessment reads, but for the parts, which `with_parts` adds."""
    return (
        Build.objects.filter(workshop=workshop)
        .select_related("engine", "workshop")
        .prefetch_related(
            "engine__positions",
            Prefetch("setups__sides__valve_fits", ValveFit.objects.select_related("position")),
            Prefetch("gap_readings", GapReading.objects.select_related("position")),
        )
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


def open_session(build: Build, *, lock: bool = False) -> ClearanceSession | None:
    """The unsigned clearance session of a build, if there is one; with `lock` nobody else changes it in this transaction."""
    sessions = build.clearance_sessions.select_for_update() if lock else build.clearance_sessions.all()
    return sessions.filter(signed_at=None).first()


def last_session(build: Build) -> ClearanceSession | None:
    """The open session, or else the newest, with its readings."""
    newest = F("signed_at").desc(nulls_first=True), "-started_at"
    return build.clearance_sessions.order_by(*newest).prefetch_related("readings").first()


def with_readings(session: ClearanceSession) -> ClearanceSession:
    """The session with its readings as they are now, as `last_session` gives it."""
    prefetch_related_objects([session], "readings")
    return session


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


def cam_or_404(build: Build, number: int) -> Part:
    """A cam that may go into a build; any other part answers 404."""
    return get_object_or_404(parts_that_fit(build).filter(kind="cam"), pk=number)


def candidates_of(build: Build) -> list[CamCandidate]:
    """The further cams laid beside stock and proposed."""
    return list(CamCandidate.objects.select_related("cam", "setup_side").filter(setup_side__setup__build=build))


def timings_of(build: Build) -> list[CamTiming]:
    """How the cams were degreed in, newest first."""
    return list(CamTiming.objects.select_related("setup_side", "by").filter(setup_side__setup__build=build))


def newest_run(part: Part) -> WheelRun | None:
    """The newest pass of the simulated degree wheel over a cam."""
    return part.wheel_runs.first()
