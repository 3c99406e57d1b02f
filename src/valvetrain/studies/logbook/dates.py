"""From hours left to days: how fast an engine gathers hours, and between which days something falls due."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Final

from valvetrain.studies.logbook.due import Due, Unit

WINDOW: Final = 120  # days that tell an engine's pace. Source: judgement
_WEEK: Final = 7.0
_YEAR: Final = 365.25
_FAR: Final = 5 * 366  # days beyond which no day is told


@dataclass(frozen=True, kw_only=True)
class Pace:
    """Hours (or passes) a day that an engine gathers, with the least and the most that hold it with about 95 %."""

    middle: float
    low: float
    high: float


def pace_of(days_ago: Sequence[int], amounts: Sequence[float], since: int = WINDOW) -> Pace | None:
    """The pace of what was gathered on days ago (`amounts` beside `days_ago`), over the last `since` days; None with fewer than two days or nothing.

    Sums of weeks are taken as independent draws: their mean, and twice its standard error (GUM 4.2). Weeks without running count.
    """
    recent = [(day, amount) for day, amount in zip(days_ago, amounts, strict=True) if 0 <= day < since and amount > 0.0]
    if len(recent) < 2:
        return None
    weeks = max(2, math.ceil((max(day for day, _ in recent) + 1) / _WEEK))
    sums = [0.0] * weeks
    for day, amount in recent:
        sums[int(day // _WEEK)] += amount
    mean = sum(sums) / weeks
    error = math.sqrt(sum((each - mean) ** 2 for each in sums) / (weeks - 1) / weeks)
    return Pace(middle=mean / _WEEK, low=max(0.0, mean - 2.0 * error) / _WEEK, high=(mean + 2.0 * error) / _WEEK)


def _days(left: float, rate: float) -> int | None:
    if left <= 0.0:
        return 0
    return None if rate <= 0.0 or left / rate > _FAR else int(left / rate)


def days_of(due: Due, today: date, hours: Pace | None, passes: Pace | None) -> tuple[date, date | None] | None:
    """The first and the last day (None: cannot be told) on which something falls due; None where nothing tells a pace."""
    if due.left is None:
        return None
    if due.rule.unit is Unit.SEASONS:
        first, last = (max(0, int(each * _YEAR)) for each in due.left)
        return today + timedelta(days=first), today + timedelta(days=last)
    pace = hours if due.rule.unit is Unit.HOURS else passes
    if pace is None:
        return (today, today) if due.left[1] <= 0.0 else None
    early, late = _days(due.left[0], pace.high), _days(due.left[1], pace.low)
    if early is None:
        return None
    return today + timedelta(days=early), None if late is None else today + timedelta(days=late)
