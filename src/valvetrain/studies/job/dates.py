"""When a job is done: work hours, waits and slack drawn many times over a calendar of working days; and which of several jobs comes first."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

_DRAWS = 2000
_COMMON = 0.15  # relative spread (one sigma) that all steps of one job share: the day, the hands, the machine. Source: judgement
_TROUBLE = 0.12  # odds that something breaks in a job, where the workshop has no jobs of its own. Source: judgement
_TROUBLE_HOURS = (0.5, 16.0)
_PRIOR, _OWN = 0.35, 0.45  # log spread of the trade's minutes about a workshop's, and of one step about its usual time. Source: judgement


@dataclass(frozen=True)
class WorkDays:
    """When a workshop works: `hours` of work a day, from `opens` (hour of the day), on which days of the week (Monday 0)."""

    hours: float = 6.0
    opens: float = 8.0
    days: tuple[int, ...] = (0, 1, 2, 3, 4)


@dataclass(frozen=True)
class Work:
    """A piece of the way: least and most seconds; of elapsed time where it `waits`. It begins no earlier than what `after` names has come."""

    least: float
    most: float
    waits: bool = False
    after: tuple[int, ...] = ()


@dataclass(frozen=True)
class Arrival:
    """Something that comes from outside between two days (both included)."""

    first: date
    last: date


@dataclass(frozen=True)
class Finish:
    """When it is done: early, middle and late day (10, 50 and 90 of 100 draws), seconds of work left in the mean, and share of draws done by the promised day."""

    early: date
    middle: date
    late: date
    work: float
    kept: float | None
    days: tuple[tuple[date, float], ...] = field(default=())


class Calendar:
    """Seconds of work since a start, against seconds of the calendar since that moment."""

    def __init__(self, start: datetime, days: WorkDays, span: int = 800) -> None:
        self.start = start
        begin = start.replace(hour=0, minute=0, second=0, microsecond=0)
        opens, length = days.opens * 3600.0, days.hours * 3600.0
        wall, work, done = [0.0], [0.0], 0.0
        for number in range(span):
            day = begin + timedelta(days=number)
            if day.weekday() not in days.days:
                continue
            first = (day - start).total_seconds() + opens
            last = first + length
            if last <= 0.0:
                continue
            first = max(first, 0.0)
            wall += [first, last]
            work += [done, done + last - first]
            done += last - first
        self._wall, self._work = np.array(wall), np.array(work)

    def worked(self, wall: Array) -> Array:
        """Seconds of work that could be done until moments (s of calendar since the start)."""
        worked: Array = np.interp(wall, self._wall, self._work)
        return worked

    def moment(self, work: Array) -> Array:
        """The moment (s of calendar since the start) at which so much work is done."""
        keep = np.concatenate(([True], np.diff(self._work) > 0.0))
        keep[0] = False
        ends, worked = self._wall[keep], self._work[keep]
        starts, begun = self._wall[1::2], self._work[1::2]
        place = np.minimum(np.searchsorted(worked, work, side="left"), worked.size - 1)
        return np.asarray(np.where(work <= 0.0, 0.0, np.minimum(starts[place] + (work - begun[place]), ends[place])))


def _drawn(rng: np.random.Generator, least: float, most: float, count: int) -> Array:
    if most <= least:
        return np.full(count, least)
    # most likely a third of the way up: work is late more often than early
    return rng.triangular(least, least + (most - least) / 3.0, most, count)


def mean_of(least: float, most: float) -> float:
    """Mean of the triangular law that a time is drawn from: least, a third of the way up, most."""
    return (least + (least + (most - least) / 3.0) + most) / 3.0


def finish(
    work: Sequence[Work], arrivals: Sequence[Arrival], start: datetime, days: WorkDays, *, promised: date | None = None, factor: float = 1.0,
    trouble: float = _TROUBLE, common: float = _COMMON, seed: int = 7, draws: int = _DRAWS,
) -> Finish:  # fmt: skip
    """When the work is done, drawn `draws` times: every piece by a triangular law, all of them scaled by what the hands have in common (log-normal, `common`)
    and by the workshop's own `factor`, one trouble of half an hour to two days with odds `trouble`, each arrival on any day of its span."""
    rng, calendar = np.random.default_rng(seed), Calendar(start, days)
    spread = math.sqrt(math.log1p(common**2))
    scale = factor * np.exp(rng.normal(-(spread**2) / 2.0, spread, draws)) if common else np.full(draws, factor)
    coming = []
    for each in arrivals:
        length = max((each.last - each.first).days, 0)
        day = rng.integers(0, length + 1, draws)
        base = datetime.combine(each.first, time(), tzinfo=start.tzinfo) - start
        coming.append(np.maximum(base.total_seconds() + day * 86400.0 + days.opens * 3600.0, 0.0))
    worked, spent = np.zeros(draws), np.zeros(draws)
    strikes = rng.random(draws) < trouble
    at = rng.integers(0, max(len(work), 1), draws)
    hours = rng.uniform(*_TROUBLE_HOURS, draws) * 3600.0
    for number, piece in enumerate(work):
        for name in piece.after:
            worked = np.maximum(worked, calendar.worked(coming[name]))
        if piece.waits:
            worked = np.maximum(worked, calendar.worked(calendar.moment(worked) + _drawn(rng, piece.least, piece.most, draws)))
            continue
        takes = _drawn(rng, piece.least, piece.most, draws) * scale + np.where(strikes & (at == number), hours, 0.0)
        worked, spent = worked + takes, spent + takes
    ends = calendar.moment(worked)
    ordinals = np.floor((ends + (start - start.replace(hour=0, minute=0, second=0, microsecond=0)).total_seconds()) / 86400.0)
    quantile = lambda share: start.date() + timedelta(days=int(np.quantile(ordinals, share, method="inverted_cdf")))
    kept = None if promised is None else float(np.mean(ordinals <= (promised - start.date()).days))
    found, counts = np.unique(ordinals, return_counts=True)
    return Finish(
        quantile(0.1), quantile(0.5), quantile(0.9), float(spent.mean()), kept,
        tuple((start.date() + timedelta(days=int(one)), float(count) / draws) for one, count in zip(found, counts, strict=True)),
    )  # fmt: skip


def own_factor(pairs: Sequence[tuple[float, float]]) -> tuple[float, int]:
    """How a workshop's times compare with the trade's, from pairs of seconds taken and seconds planned: the log mean, drawn towards one as long as few are known."""
    logs = [math.log(took / planned) for took, planned in pairs if took > 0.0 and planned > 0.0]
    if not logs:
        return 1.0, 0
    weight = len(logs) / (len(logs) + (_OWN / _PRIOR) ** 2)
    return math.exp(weight * sum(logs) / len(logs)), len(logs)


@dataclass(frozen=True)
class BenchJob:
    """One of several jobs on one bench: its name, seconds of work left, day it is promised (None for none), and the day it can begin."""

    name: str
    work: float
    due: date | None
    ready: date


@dataclass(frozen=True)
class BenchTurn:
    """When one job has the bench, and how many days late it ends."""

    name: str
    begins: date
    ends: date
    late: int


def bench_order(jobs: Sequence[BenchJob], start: datetime, days: WorkDays) -> list[BenchTurn]:
    """Jobs one after the other, the one that is due first before the others among those that can begin: that keeps the worst lateness least where
    all can begin (Jackson's rule). What waits for parts lets others before it."""
    calendar, left, now, found = Calendar(start, days), list(jobs), 0.0, []
    while left:
        today = start.date() if now <= 0.0 else (start + timedelta(seconds=float(calendar.moment(np.array([now]))[0]))).date()
        ready = [each for each in left if each.ready <= today]
        if not ready:
            first = min(each.ready for each in left)
            wait = (datetime.combine(first, time(), tzinfo=start.tzinfo) - start).total_seconds() + days.opens * 3600.0
            now = max(now, float(calendar.worked(np.array([wait]))[0])) + 1e-6
            ready = [each for each in left if each.ready <= first]
            today = first
        one = min(ready, key=lambda each: (each.due or date.max, each.name))
        left.remove(one)
        now += one.work
        ends = (start + timedelta(seconds=float(calendar.moment(np.array([now]))[0]))).date()
        found.append(BenchTurn(one.name, today, ends, max((ends - one.due).days, 0) if one.due else 0))
    return found
