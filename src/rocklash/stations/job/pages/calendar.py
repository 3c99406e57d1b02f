"""A job's days as iCalendar."""

from collections.abc import Sequence
from datetime import date, datetime, timedelta

from icalendar import Calendar, Event

from rocklash.records.models import Job, JobWait
from rocklash.stations.job.pages.course import Course


def _event(uid: str, words: str, first: date, last: date, now: datetime, note: str = "") -> Event:
    event = Event()
    event.add("uid", f"{uid}@rock-lash")
    event.add("dtstamp", now)
    event.add("summary", words)
    event.add("dtstart", first)
    event.add("dtend", last + timedelta(days=1))  # the end of a whole-day event is the day after it
    if note:
        event.add("description", note)
    return event


def calendar_of(name: str, job: Job | None, waits: Sequence[JobWait], course: Course | None, now: datetime) -> bytes:
    """What is waited for, when it is done, what was promised; empty without a job. RFC 5545."""
    calendar = Calendar()
    calendar.add("prodid", "-//Rock Lash//Job//EN")
    calendar.add("version", "2.0")
    if job is not None:
        for wait in waits:
            if wait.got_on is None:
                calendar.add_component(_event(f"wait-{wait.pk}", f"{name}: {wait.what} expected", wait.first, wait.last, now))
        if course and course.found:
            note = "10 to 90 of 100 draws. " + course.kept
            calendar.add_component(_event(f"finish-{job.pk}", f"{name}: finish", course.found.early, course.found.late, now, note.strip()))
        if job.promised:
            calendar.add_component(_event(f"promised-{job.pk}", f"{name}: promised", job.promised, job.promised, now))
    return bytes(calendar.to_ical())
