"""An engine's hours, from sheets and entries, and the logs it ran by."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise

import numpy as np
from django.utils import timezone
from numpy.typing import NDArray

from rocklash.records.models import Build, ClearanceSession
from rocklash.records.selectors.logbook import Ran, logs_of
from rocklash.records.selectors.proof import file_of, unpacked
from valvetrain.errors import BuildFileError
from valvetrain.formats import run_table
from valvetrain.studies.logbook.use import of_log

_YEAR = 365.25


@dataclass(frozen=True, kw_only=True)
class Meter:
    """What an engine ran: `anchors` are the days and hours that sheets told, the newest first; entries count from the newest anchor on. `backwards` names
    sheets whose hours fall."""

    anchors: tuple[tuple[date, float], ...]
    entries: tuple[Ran, ...]
    backwards: str = ""

    def hours(self, until: date | None = None) -> float:
        """Engine hours, up to and with a day. Before the first sheet they are what it told less what was entered from that day to the sheet's."""
        told = next(((day, hours) for day, hours in self.anchors if until is None or day <= until), None)
        if told is None and self.anchors and until is not None:
            day, hours = self.anchors[-1]
            return max(0.0, hours - self._ran(until, day))
        after, start = told or (None, 0.0)
        return start + self._ran(after, until)

    def _ran(self, after: date | None, until: date | None) -> float:
        return sum(
            (each.seconds or 0.0) / 3600.0
            for each in self.entries
            if (after is None or each.made_on > after) and (until is None or each.made_on <= until)
        )

    def passes(self, since: date | None = None) -> int:
        """Passes since a day."""
        return sum(each.passes or 0 for each in self.entries if since is None or each.made_on > since)

    def seasons(self, since: date, today: date) -> float:
        """Seasons since a day: years of the calendar, or whole seasons as entered after it where those are more."""
        entered = sum(each.seasons or 0 for each in self.entries if each.made_on > since)
        return max((today - since).days / _YEAR, float(entered))

    def ran_since(self, day: date) -> float:
        """Hours by entries after a day."""
        return self._ran(day, None)


def seasons_words(count: int | None) -> str:
    """How many seasons, in words."""
    return "" if not count else "1 season" if count == 1 else f"{count} seasons"


def meter_of(entries: Sequence[Ran], sheets: Sequence[ClearanceSession]) -> Meter:
    """The sheets that carry hours, the newest first, and the entries between and after them."""
    told = [sheet for sheet in sheets if sheet.hours is not None]
    words = ""
    for later, before in pairwise(told):
        if (later.hours or 0.0) < (before.hours or 0.0):
            words = (
                f"The sheet of {day_of(later):%d %b %Y} has {later.hours:g} h, the one before, of {day_of(before):%d %b %Y}, {before.hours:g} h: hours run "
                "backwards. Which is right?"
            )
            break
    return Meter(anchors=tuple((day_of(sheet), float(sheet.hours or 0.0)) for sheet in told), entries=tuple(entries), backwards=words)


def day_of(sheet: ClearanceSession) -> date:
    """The day a sheet was signed, or else begun."""
    return timezone.localtime(sheet.signed_at or sheet.started_at).date()


def logs_told(build: Build) -> list[tuple[str, str]]:
    """Kept runs whose log tells time and speed: their number and what they are called."""
    return [(str(test.pk), f"{test.name or 'run'}, {test.made_on:%d %b %Y}") for test in logs_of(build)]


def ran_by_log(build: Build, number: int) -> tuple[float, tuple[str, ...]]:
    """Seconds that an engine turned in a kept run's log, and what of it was left out. Raises BuildFileError, OutOfRangeError."""
    use = of_log(*log_of(build, number))
    return float(use.seconds[use.low > 0.0].sum()), use.left_out


def log_of(build: Build, number: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Time (s) and engine speed (rev/s) of a kept run's file. Raises BuildFileError for a run that tells neither."""
    test = next((each for each in logs_of(build) if each.pk == number), None)
    file = file_of(test) if test else None
    if file is None:
        raise BuildFileError("This run holds no time and engine speed: bring a log with both on Proof, Runs.")
    wanted = {key: place for key, place in file.columns.items() if key in ("time", "rpm")}
    table = run_table.read(unpacked(file), wanted, file.units)
    return table.columns["time"], table.columns["rpm"]
