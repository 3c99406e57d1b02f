"""Whole days as iCalendar (RFC 5545)."""

from datetime import date, datetime, timedelta

from icalendar import Calendar, Event


def calendar(about: str, name: str = "") -> Calendar:
    """An empty one; `about` names what made it, `name` what the reader's program calls it."""
    made = Calendar()
    made.add("prodid", f"-//Rock Lash//{about}//EN")
    made.add("version", "2.0")
    if name:
        made.add("x-wr-calname", name)
    return made


def event(uid: str, words: str, first: date, last: date, now: datetime, note: str = "", *, busy: bool = True) -> Event:
    """Something from one day to another, both included; what is not `busy` leaves the reader's day free."""
    made = Event()
    made.add("uid", f"{uid}@rock-lash")
    made.add("dtstamp", now)
    made.add("summary", words)
    made.add("dtstart", first)
    made.add("dtend", last + timedelta(days=1))  # the end of a whole-day event is the day after it
    if not busy:
        made.add("transp", "TRANSPARENT")
    if note:
        made.add("description", note)
    return made
