"""Rows that bear on what is due, of many builds at once, and what was kept of it."""

from collections.abc import Iterable
from datetime import date
from typing import Any

from django.db.models import F, Q

from rocklash.records.models import (
    AccessKey,
    AccessKind,
    Build,
    CareEntry,
    ClearanceSession,
    DueRule,
    DueState,
    Job,
    JobWait,
    Membership,
    OverRevCase,
    PartStart,
    Reminder,
    Role,
    RunEntry,
    SetupSide,
    SpringLog,
    Workshop,
)
from rocklash.records.selectors.builds import builds_of
from rocklash.records.selectors.logbook import Ran


def rows_of(builds: Iterable[Build]) -> dict[int, dict[str, list[Any]]]:
    """Runs, care, sheets (newest first, with readings), over-revs, typed rules, starts of parts and tester logs (oldest first), by build; in eight queries."""
    listed = list(builds)
    numbers = [build.pk for build in listed]
    found: dict[int, dict[str, list[Any]]] = {
        number: {"runs": [], "care": [], "sheets": [], "cases": [], "typed": [], "starts": [], "logs": []} for number in numbers
    }
    sheets = (
        ClearanceSession.objects.filter(build__in=numbers, signed_at__isnull=False)
        .order_by("-signed_at")
        .prefetch_related("readings__position")
    )
    for name, rows in (
        ("care", CareEntry.objects.filter(build__in=numbers)),
        ("sheets", sheets),
        ("cases", OverRevCase.objects.filter(build__in=numbers)),
        ("starts", PartStart.objects.filter(build__in=numbers).select_related("part")),
    ):
        for row in rows:
            found[row.build_id][name].append(row)
    runs = RunEntry.objects.filter(build__in=numbers).order_by("-made_on", "-at", "-pk")
    for number, day, seconds, passes, seasons in runs.values_list("build_id", "made_on", "seconds", "passes", "seasons"):
        found[number]["runs"].append(Ran(day, seconds, passes, seasons))
    shops = {build.workshop_id for build in listed}
    for rule in DueRule.objects.filter(Q(build__in=numbers) | Q(build=None, workshop__in=shops)):
        for build in listed:
            if rule.build_id == build.pk or (rule.build_id is None and rule.workshop_id == build.workshop_id):
                found[build.pk]["typed"].append(rule)
    _lay_logs(numbers, found)
    return found


def _lay_logs(numbers: list[int], found: dict[int, dict[str, list[Any]]]) -> None:
    springs: dict[int, set[int]] = {}
    sides = SetupSide.objects.filter(setup__build__in=numbers, setup__role="proposed")
    for build, outer, inner in sides.values_list("setup__build", "outer_spring", "inner_spring"):
        for part in (outer, inner):
            if part:
                springs.setdefault(part, set()).add(build)
    for log in SpringLog.objects.filter(part__in=list(springs)).select_related("part", "by").order_by("at", "pk"):
        for build in springs[log.part_id]:
            found[build]["logs"].append(log)


def stale_builds(workshop: Workshop, today: date, only: Iterable[int] | None = None) -> list[int]:
    """Builds on the board whose state is of another day, or older than their last change; those never worked out first."""
    builds = Build.objects.filter(workshop=workshop, archived_at=None, practice=False)
    if only is not None:
        builds = builds.filter(pk__in=list(only))
    stale = builds.filter(Q(due_state=None) | ~Q(due_state__day=today) | Q(due_state__at__lt=F("updated_at")))
    return list(stale.order_by(F("due_state__at").asc(nulls_first=True), "pk").values_list("pk", flat=True))


def builds_by_number(workshop: Workshop, numbers: list[int]) -> list[Build]:
    """These builds of a workshop."""
    return list(builds_of(workshop).filter(pk__in=numbers))


def keep_states(states: list[DueState]) -> None:
    """Keep them, each in place of the one before."""
    fields = ["rank", "hours", "lines", "day", "at"]
    DueState.objects.bulk_create(states, update_conflicts=True, unique_fields=["build"], update_fields=fields)


def due_states(workshop: Workshop, rank: int | None = None, most: int | None = None) -> list[DueState]:
    """Engines on the board with what is due on them, the most urgent first; only those up to a rank, and so many, where that is given."""
    states = DueState.objects.filter(build__workshop=workshop, build__archived_at=None, build__practice=False).select_related(
        "build__engine"
    )
    if rank is not None:
        states = states.filter(rank__lte=rank)
    return list(states.order_by("rank", "build__name", "pk")[:most])


def typed_rules(workshop: Workshop, build: Build | None) -> list[DueRule]:
    """Rules as typed: of this engine's manual, and of the workshop for every engine."""
    return list(DueRule.objects.filter(Q(build=build) | Q(build=None), workshop=workshop).select_related("by"))


def open_reminders(workshop: Workshop) -> list[Reminder]:
    """Reminders that nobody has put away, the newest first."""
    return list(Reminder.objects.filter(build__workshop=workshop, build__archived_at=None, put_away=None).select_related("build")[:200])


def keys_of(workshop: Workshop) -> list[AccessKey]:
    """Keys that open feeds of a workshop."""
    return list(AccessKey.objects.filter(workshop=workshop).select_related("by"))


def workshop_by_key(kind: AccessKind, digest: str) -> AccessKey | None:
    """The key of this fingerprint, with its workshop."""
    return AccessKey.objects.select_related("workshop").filter(kind=kind, digest=digest).first()


def workshops_with_builds() -> list[Workshop]:
    """Workshops that have an engine on the board."""
    return list(Workshop.objects.filter(builds__archived_at=None).distinct().order_by("pk"))


def mailed_members(workshop: Workshop) -> list[str]:
    """Addresses of members who change records and gave one."""
    members = Membership.objects.filter(workshop=workshop, role__in=[Role.OWNER, Role.BUILDER], user__is_active=True).exclude(
        user__email=""
    )
    return list(members.order_by("pk").values_list("user__email", flat=True))


def promised_days(workshop: Workshop) -> list[Job]:
    """Open jobs with a promised day."""
    jobs = Job.objects.filter(build__workshop=workshop, closed_at=None, build__archived_at=None, build__practice=False)
    return list(jobs.exclude(promised=None).select_related("build"))


def open_waits(workshop: Workshop) -> list[JobWait]:
    """What open jobs wait for and have not got."""
    waits = JobWait.objects.filter(job__build__workshop=workshop, job__closed_at=None, got_on=None, job__build__archived_at=None)
    return list(waits.select_related("job__build"))
