"""Read queries of jobs."""

from rocklash.records.models import Build, Job, JobOverride, JobTick


def job_of(build: Build) -> Job | None:
    """The job under way, or else the last one."""
    jobs = list(Job.objects.filter(build=build).select_related("by"))
    return next((job for job in jobs if job.closed_at is None), jobs[0] if jobs else None)


def ticks_of(job: Job) -> list[JobTick]:
    """What is done, in the order in which it was."""
    return list(JobTick.objects.filter(job=job).select_related("by"))


def overrides_of(job: Job) -> list[JobOverride]:
    """Rules that were gone against."""
    return list(JobOverride.objects.filter(job=job).select_related("by"))
