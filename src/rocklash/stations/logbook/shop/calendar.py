"""What falls due on every engine, as iCalendar (RFC 5545)."""

from collections.abc import Iterable
from datetime import date, datetime, timedelta

from icalendar import Calendar, Event

from rocklash.records.models import DueState, Job


def _event(uid: str, words: str, day: date, now: datetime, note: str) -> Event:
    event = Event()
    event.add("uid", f"{uid}@rock-lash")
    event.add("dtstamp", now)
    event.add("summary", words)
    event.add("dtstart", day)
    event.add("dtend", day + timedelta(days=1))  # the end of a whole-day event is the day after it
    event.add("transp", "TRANSPARENT")
    if note:
        event.add("description", note)
    return event


def calendar_of(name: str, states: Iterable[DueState], jobs: Iterable[Job], today: date, now: datetime) -> bytes:
    """Each thing on the first day on which it falls due, what is due already today; whose engine it is stays out of it."""
    calendar = Calendar()
    calendar.add("prodid", "-//Rock Lash//Due//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"{name}: due")
    for state in states:
        for line in state.lines:
            if not line["first"]:
                continue
            last = f", by {date.fromisoformat(line['last']):%d %b %Y} at the latest" if line["last"] else ""
            note = f"{line['does']}{last}. {line['why']} ({line['whose']})."
            day = max(today, date.fromisoformat(line["first"]))
            calendar.add_component(_event(f"due-{state.build_id}-{line['rule']}", f"{state.build.name}: {line['what']}", day, now, note))
    for job in jobs:
        if job.promised:
            calendar.add_component(_event(f"promised-{job.pk}", f"{job.build.name}: promised", job.promised, now, ""))
    return bytes(calendar.to_ical())
