"""A job's days as iCalendar."""

from collections.abc import Sequence
from datetime import datetime

from rocklash.desk.calendar import calendar, event
from rocklash.records.models import Job, JobWait
from rocklash.stations.job.pages.course import Course


def calendar_of(name: str, job: Job | None, waits: Sequence[JobWait], course: Course | None, now: datetime) -> bytes:
    """What is waited for, when it is done, what was promised; empty without a job. RFC 5545."""
    made = calendar("Job")
    if job is not None:
        for wait in waits:
            if wait.got_on is None:
                made.add_component(event(f"wait-{wait.pk}", f"{name}: {wait.what} expected", wait.first, wait.last, now))
        if course and course.found:
            note = "10 to 90 of 100 draws. " + course.kept
            made.add_component(event(f"finish-{job.pk}", f"{name}: finish", course.found.early, course.found.late, now, note.strip()))
        if job.promised:
            made.add_component(event(f"promised-{job.pk}", f"{name}: promised", job.promised, job.promised, now))
    return bytes(made.to_ical())
