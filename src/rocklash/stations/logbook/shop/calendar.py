"""What falls due on every engine, as iCalendar (RFC 5545)."""

from collections.abc import Iterable
from datetime import date, datetime

from rocklash.desk.calendar import calendar, event
from rocklash.records.models import DueState, Job


def calendar_of(name: str, states: Iterable[DueState], jobs: Iterable[Job], today: date, now: datetime) -> bytes:
    """Each thing on the first day on which it falls due, what is due already today; whose engine it is stays out of it."""
    made = calendar("Due", f"{name}: due")
    for state in states:
        for line in state.lines:
            if not line["first"]:
                continue
            last = f", by {date.fromisoformat(line['last']):%d %b %Y} at the latest" if line["last"] else ""
            note = f"{line['does']}{last}. {line['why']} ({line['whose']})."
            day = max(today, date.fromisoformat(line["first"]))
            made.add_component(
                event(f"due-{state.build_id}-{line['rule']}", f"{state.build.name}: {line['what']}", day, day, now, note, busy=False)
            )
    for job in jobs:
        if job.promised:
            made.add_component(event(f"promised-{job.pk}", f"{job.build.name}: promised", job.promised, job.promised, now))
    return bytes(made.to_ical())
