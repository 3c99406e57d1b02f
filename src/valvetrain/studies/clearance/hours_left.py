"""How many hours a clearance has until it leaves its limits: wear of several courses through every setting, with the error of the present
reading in it.

Between two settings the gap falls by the wear; each setting begins a level of its own. The courses are steady wear, a new seat that settles,
and wear that grows; each is fitted by generalised least squares and weighed by how well it fits. Shares and scatter: judgement, tried.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from valvetrain.formulas.clearances import chance_of_reaching
from valvetrain.studies.clearance.shim_plan import ClearanceLimits

Array = NDArray[np.float64]

_PRIOR = (1.0e-6, 2.0e-6)  # m/h: rate and its scatter before anything is read
_UNEVEN = 0.16  # of the wear of each interval, one standard deviation
_AHEAD = 0.06  # of the wear to come, likewise
_STEADY = 0.58
_SETTLING = [(s, tau) for s in (0.7, 1.6, 4.0) for tau in (10.0, 25.0, 70.0)]
_GROWING = (0.4, 0.65, 0.85)
_SETTLING_SHARE, _GROWING_SHARE = 0.25, 0.17
_FARTHEST = 20_000.0  # hours looked ahead
LOW, HIGH = 0.025, 0.975


@dataclass(frozen=True)
class Passage:
    """One valve on one sheet: hours, clearance found and left (m), half the width of a reading (m)."""

    hours: float
    found: float
    left: float
    half: float


@dataclass(frozen=True)
class HoursLeft:
    """Hours from the last sheet until a limit is passed: the middle, and the ends of the interval that holds it with about 95 %; None: perhaps
    never."""

    middle: float | None
    least: float | None
    most: float | None


@dataclass(frozen=True)
class _Course:
    """One course of wear fitted: gap now (m) and rate now (m/h, positive closing), their covariance, its weight and what it misfits by."""

    gap: float
    rate: float
    cover: tuple[float, float, float]
    weight: float
    ahead: Callable[[float], float]


def _settles(s: float, tau: float, span: float, hours: float) -> float:
    """Hours at today's rate that wear as much as so many to come, while a seat still settles."""
    rest = s * math.exp(-span / tau)
    return (hours + rest * tau * (1.0 - math.exp(-hours / tau))) / (1.0 + rest)


def _grows(s: float, span: float, hours: float) -> float:
    """The same while wear grows: at the pace seen, until it has twice today's rate."""
    bends = min(hours, span / s)
    return hours + s * bends**2 / (2.0 * span) + (hours - bends) * s * bends / span


def _courses(start: float, now: float) -> list[tuple[float, Array, Callable[[float], float]]]:
    """Share of each course, its rate over that of today at the ends of short steps from `start` to `now` (hours), and how it goes on."""
    after = np.linspace(0.0, now - start, 201)
    span = max(now - start, 1e-9)
    found: list[tuple[float, Array, Callable[[float], float]]] = [(_STEADY, np.ones_like(after), lambda hours: hours)]
    for s, tau in _SETTLING:
        rate = 1.0 + s * np.exp(-after / tau)
        found.append((_SETTLING_SHARE / len(_SETTLING), rate / rate[-1], partial(_settles, s, tau, span)))
    for s in _GROWING:
        rate = 1.0 - s + s * after / span
        found.append((_GROWING_SHARE / len(_GROWING), rate / rate[-1], partial(_grows, s, span)))
    return found


def _fit(
    passages: list[Passage], share: float, rate_over: Array, ahead: Callable[[float], float], pace: tuple[float, float]
) -> _Course:  # fmt: skip
    hours = np.array([each.hours for each in passages])
    t = np.linspace(hours[0], hours[-1], len(rate_over))
    worn = np.concatenate([[0.0], np.cumsum((rate_over[1:] + rate_over[:-1]) / 2.0 * np.diff(t))])
    phi = np.interp(hours, t, worn) - worn[-1]  # zero now, negative before
    rows: list[tuple[int, int, float, float]] = []  # sheet, stretch, reading, half
    stretch = 0
    for number, each in enumerate(passages):
        rows.append((number, stretch, each.found, each.half))
        if abs(each.left - each.found) > 1e-9:
            stretch += 1
            rows.append((number, stretch, each.left, each.half))
    count = stretch + 1
    y = np.array([row[2] for row in rows])
    at = np.array([row[0] for row in rows])
    design = np.zeros((len(rows), count + 1))
    design[np.arange(len(rows)), [row[1] for row in rows]] = 1.0
    design[:, -1] = -phi[at]
    read = np.diag([row[3] ** 2 / 3.0 + 1e-16 for row in rows])
    precision = np.zeros((count + 1, count + 1))
    precision[-1, -1] = 1.0 / pace[1] ** 2
    rate = pace[0]
    steps = np.diff(phi)
    for _ in range(3):
        # a walk back from now: what one interval wore more or less than its course shifts every earlier reading alike
        walk = np.concatenate([np.cumsum(((_UNEVEN * rate * steps) ** 2)[::-1])[::-1], [0.0]])
        noise = read + np.minimum.outer(walk[at], walk[at])
        inverse = np.linalg.inv(noise)
        normal = design.T @ inverse @ design + precision
        cover = np.linalg.inv(normal)
        prior = np.zeros(count + 1)
        prior[-1] = pace[0] / pace[1] ** 2
        best = cover @ (design.T @ inverse @ y + prior)
        rate = float(best[-1])
    rest = y - design @ best
    misfit = float(rest @ inverse @ rest)
    free = len(rows) - count - 1
    wider = max(1.0, misfit / free) if free > 0 else 1.0
    last = count - 1
    log_weight = -0.5 * misfit - 0.5 * float(np.linalg.slogdet(noise)[1])
    # readings that lie off the course make its rate less sure, not the gap of today, which was read
    cut = (float(cover[last, last]), float(cover[last, -1]) * math.sqrt(wider), float(cover[-1, -1]) * wider)
    return _Course(float(best[last]), rate, cut, math.log(share) + log_weight, ahead)


def _chance(courses: list[_Course], limits: ClearanceLimits, hours: float) -> float:
    """Chance that a limit is passed within so many hours."""
    total = 0.0
    for each in courses:
        s_gg, s_gr, s_rr = each.cover
        # towards the upper limit both room and rate change their sign, so that their covariance stays
        for room, rate in ((each.gap - limits.least, each.rate), (limits.most - each.gap, -each.rate)):
            total += each.weight * chance_of_reaching(each.ahead(hours), room, rate, s_gg, s_gr, s_rr + (_AHEAD * rate) ** 2)
    return min(total, 1.0)


def hours_left(passages: list[Passage], limits: ClearanceLimits, pace: tuple[float, float] | None = None) -> HoursLeft:
    """Hours until the clearance leaves its limits, from two sheets or more, oldest first; `pace` is the rate supposed before anything is read and
    its scatter (m/h), where a workshop knows its own."""
    fitted = [_fit(passages, *course, pace or _PRIOR) for course in _courses(passages[0].hours, passages[-1].hours)]
    best = max(each.weight for each in fitted)
    weights = [math.exp(each.weight - best) for each in fitted]
    total = sum(weights)
    courses = [replace(each, weight=weight / total) for each, weight in zip(fitted, weights, strict=True)]

    def reached(chance: float) -> float | None:
        if _chance(courses, limits, 0.0) >= chance:
            return 0.0
        if _chance(courses, limits, _FARTHEST) < chance:
            return None
        low, high = 0.0, _FARTHEST
        for _ in range(50):
            middle = (low + high) / 2.0
            low, high = (low, middle) if _chance(courses, limits, middle) >= chance else (middle, high)
        return high

    return HoursLeft(reached(0.5), reached(LOW), reached(HIGH))
