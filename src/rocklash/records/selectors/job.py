"""Read queries of jobs."""

from dataclasses import dataclass
from datetime import datetime

from django.db.models import Count, Prefetch, QuerySet

from rocklash.records.models import (
    Build,
    Finding,
    FindingPicture,
    Job,
    JobDetour,
    JobOverride,
    JobTick,
    JobWait,
    Part,
    PartPlace,
    Workshop,
)  # fmt: skip

_TICKS_LEARNT = 2000


def job_of(build: Build) -> Job | None:
    """The job under way, or else the last one."""
    jobs = list(Job.objects.filter(build=build).select_related("by"))
    return next((job for job in jobs if job.closed_at is None), jobs[0] if jobs else None)


def jobs_before(job: Job) -> list[Job]:
    """Jobs of the same build that are closed, the last one first, with how many ticks each has."""
    return list(Job.objects.filter(build=job.build_id, closed_at__isnull=False).exclude(pk=job.pk).annotate(ticked=Count("ticks")))


def open_job_of(build: Build) -> Job | None:
    """The job under way."""
    return Job.objects.filter(build=build, closed_at=None).first()


def ticks_of(job: Job) -> list[JobTick]:
    """What is done, in the order in which it was."""
    return list(JobTick.objects.filter(job=job).prefetch_related("by"))  # hundreds of ticks, a handful of people


def counts_of(job: Job) -> dict[str, int]:
    """How often each step is done, by its key."""
    return dict(JobTick.objects.filter(job=job).order_by().values_list("key").annotate(count=Count("pk")))


def overrides_of(job: Job) -> list[JobOverride]:
    """Rules that were gone against."""
    return list(JobOverride.objects.filter(job=job).select_related("by"))


def detours_of(job: Job) -> list[JobDetour]:
    """Troubles that struck."""
    return list(JobDetour.objects.filter(job=job).select_related("by"))


def waits_of(job: Job) -> list[JobWait]:
    """What it waits for, or did."""
    return list(JobWait.objects.filter(job=job).select_related("by"))


def findings_of(build: Build) -> list[Finding]:
    """What was found on a build, with its pictures' rows but not the pictures."""
    bare = Prefetch("pictures", FindingPicture.objects.defer("data"))
    return list(Finding.objects.filter(build=build).select_related("by", "position", "job").prefetch_related(bare))


def open_findings_of(build: Build) -> list[Finding]:
    """What was found and is not settled."""
    return list(Finding.objects.filter(build=build, settled="").select_related("position"))


def finding_pictures_of(build: Build) -> QuerySet[FindingPicture]:
    """Every picture of what was found on a build."""
    return FindingPicture.objects.filter(finding__build=build)


def places_of(build: Build) -> list[PartPlace]:
    """Which part sits where."""
    return list(PartPlace.objects.filter(build=build).select_related("position", "by"))


def open_jobs_of(workshop: Workshop) -> list[Job]:
    """Every job under way in a workshop, with its build."""
    return list(Job.objects.filter(build__workshop=workshop, build__practice=False, closed_at=None).select_related("build__engine"))


@dataclass(frozen=True)
class DoneAt:
    """When a step of a job was ticked."""

    job_id: int
    key: str
    at: datetime


def ticks_to_learn_from(workshop: Workshop) -> list[DoneAt]:
    """When steps of a workshop's jobs were ticked, by job and time."""
    rows = JobTick.objects.filter(job__build__workshop=workshop, job__build__practice=False)
    last = rows.order_by("-job_id", "-at", "-pk").values_list("job_id", "key", "at")[:_TICKS_LEARNT]
    return [DoneAt(*row) for row in last][::-1]


# What an offer of work while it is open is on the shelf.
_ON_SHELF = {"seals": "seal", "keepers": "keepers", "springs": "spring", "guidebush": "guide", "followers": "follower"}


def prices_of(workshop: Workshop) -> dict[str, float]:
    """The lowest price on the shelf for one piece of each kind that is offered while an engine is open."""
    kinds = {kind: offer for offer, kind in _ON_SHELF.items()}
    found: dict[str, float] = {}
    for kind, price, pack in Part.objects.filter(workshop=workshop, kind__in=kinds, price__isnull=False).values_list(
        "kind", "price", "pack"
    ):
        if price is None:
            continue
        each = float(price) / max(pack or 1, 1)
        found[kinds[kind]] = min(each, found.get(kinds[kind], each))
    return found
