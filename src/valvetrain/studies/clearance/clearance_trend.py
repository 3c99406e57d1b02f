"""What clearances did over the hours: true wear through every setting, its rate with a band, hours to the limit, steps, titanium.

A sheet tells what was found and what was left. Between two sheets the gap moved by what was found less what was left before: the sum of
those moves is the wear, whatever shims or screws did in between.
"""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.stats import theilslopes

from valvetrain.errors import OutOfRangeError
from valvetrain.studies.clearance.hours_left import Passage, hours_left
from valvetrain.studies.clearance.shim_plan import ClearanceLimits
from valvetrain.units import LENGTH, amount

_STEP = 0.04e-3  # m between two sheets that is a step whatever the rate was. Source: trade
_PAUSE = 5  # hours; a step within so few is one to look at at once. Source: judgement
TITANIUM_HOURS = 60.0  # replaced by then in motocross. Source: trade
TITANIUM_DRIFT = 0.12e-3  # m of recession at which a titanium valve is spent: 0.10 to 0.15 mm. Source: trade
_HALF = 0.5  # next check after half of the least hours to the limit. Source: judgement


@dataclass(frozen=True)
class SheetReading:
    """One valve on one sheet: engine hours, clearance found and clearance left (m), half the width of a reading (m), and whether a new
    valve went in with it."""

    hours: float
    found: float
    left: float
    half: float
    renewed: bool = False


@dataclass(frozen=True)
class Step:
    """A jump between two sheets: from and to (hours), by how much (m, negative closing)."""

    start: float
    end: float
    amount: float


@dataclass(frozen=True)
class Trend:
    """One valve. `hours` and `wear` (m, negative closing) sheet by sheet from the first; `rate` m/h with a 95 % band; `now` clearance left last;
    `limit_hours` until it leaves its limits (`hours_left`), with the least and most that hold it with about 95 % (None: perhaps never);
    `next_check` hours from the last sheet, zero where it was left outside its limits, has just
    jumped, or is spent titanium, None where nothing asks for one; `steps`; `words` in the order of their weight."""

    valve: str
    hours: tuple[float, ...]
    wear: tuple[float, ...]
    half: float
    rate: float
    band: tuple[float, float]
    now: float
    limit_hours: float | None
    limit_least: float | None
    limit_most: float | None
    next_check: float | None
    steps: tuple[Step, ...]
    words: tuple[str, ...]


def true_wear(readings: list[SheetReading]) -> tuple[np.ndarray, np.ndarray]:
    """Hours and accumulated wear (m) sheet by sheet. Raises OutOfRangeError when hours do not increase."""
    hours = np.array([reading.hours for reading in readings])
    if (np.diff(hours) <= 0.0).any():
        raise OutOfRangeError("Engine hours must grow from sheet to sheet.")
    moves = [0.0] + [later.found - before.left for before, later in pairwise(readings)]
    return hours, np.cumsum(moves)


def _line(hours: np.ndarray, wear: np.ndarray, readings: list[SheetReading]) -> tuple[float, tuple[float, float]]:
    """Robust slope (Theil and Sen) with its band: the wider of theirs and of what the readings leave open between first and last sheet.

    Every setting puts two readings into the sum, the one before and the one after, so that doubt grows with each (source: gum).
    """
    slope, _, low, high = theilslopes(wear, hours, alpha=0.95)
    settings = sum(abs(reading.left - reading.found) > 1e-9 for reading in readings[:-1])
    each = float(np.mean([reading.half for reading in readings])) / math.sqrt(3.0)
    doubt = 2.0 * each * math.sqrt(2.0 + 2.0 * settings) / max(float(hours[-1] - hours[0]), 1e-9)
    return float(slope), (min(float(low), float(slope) - doubt), max(float(high), float(slope) + doubt))


def trend(
    valve: str, readings: list[SheetReading], limits: ClearanceLimits, *, titanium: bool = False, interval: float | None = None, ratio: float = 1.0,
    pace: tuple[float, float] | None = None,
) -> Trend:  # fmt: skip
    """The trend of one valve from its sheets, oldest first, since a new one went in last; `interval` the owner's hours between checks.
    `ratio` is valve motion over motion where the blade is: a valve sinks by so much more than the blade tells.
    `pace` as in `hours_left`.

    Raises OutOfRangeError for fewer than one sheet, or hours that do not grow.
    """
    if not readings:
        raise OutOfRangeError("A trend needs a sheet.")
    true_wear(readings)  # every sheet's hours must grow, those before a new valve too
    last_new = next((n for n in range(len(readings) - 1, -1, -1) if readings[n].renewed), None)
    readings = readings[last_new or 0 :]
    hours, wear = true_wear(readings)
    new_at = None if last_new is None else readings[0].hours
    half, now = float(np.mean([reading.half for reading in readings])), readings[-1].left
    steps = tuple(
        Step(before.hours, later.hours, later.found - before.left)
        for before, later in pairwise(readings)
        if abs(later.found - before.left) > max(_STEP, 2.0 * (before.half + later.half))
    )
    out = not limits.least - 1e-9 <= now <= limits.most + 1e-9
    left_out = [f"Left {'below' if now < limits.least else 'over'} its limits: set it now."] if out else []
    if len(readings) < 2:
        spent, told = _titanium(new_at, float(hours[-1]), 0.0) if titanium else (False, [])
        alone = (*left_out, *_new_words(new_at), "One sheet is no trend yet.", *told)
        check = 0.0 if out or spent else interval
        return Trend(
            valve=valve,
            hours=tuple(hours),
            wear=tuple(wear),
            half=half,
            rate=0.0,
            band=(0.0, 0.0),
            now=now,
            limit_hours=None,
            limit_least=None,
            limit_most=None,
            next_check=check,
            steps=steps,
            words=alone,
        )
    rate, band = _line(hours, wear, readings)
    left = hours_left([Passage(each.hours, each.found, each.left, each.half) for each in readings], limits, pace)
    jumped = any(step.end == readings[-1].hours for step in steps)  # a jump on the newest sheet is not waited out
    spent, told = _titanium(new_at, float(hours[-1]), float(-wear.min()) * ratio) if titanium else (False, [])
    proposed = [each for each in (interval, None if left.least is None else _HALF * left.least) if each is not None]
    words = [
        *left_out,
        *_step_words(steps),
        *told,
        *_new_words(new_at),
        *_rate_words(rate, band, half, hours),
    ]
    return Trend(
        valve=valve,
        hours=tuple(hours),
        wear=tuple(wear),
        half=half,
        rate=rate,
        band=band,
        now=now,
        limit_hours=left.middle,
        limit_least=left.least,
        limit_most=left.most,
        next_check=0.0 if out or jumped or spent else min(proposed, default=None),
        steps=steps,
        words=tuple(words),
    )


def _step_words(steps: tuple[Step, ...]) -> list[str]:
    words = []
    for step in steps:
        way = "closed" if step.amount < 0.0 else "opened"
        look = "the seat and face" if step.amount < 0.0 else "tip, shim, follower and lobe"
        soon = "at once " if step.end - step.start <= _PAUSE else ""
        words.append(f"{way.capitalize()} {amount(abs(step.amount), LENGTH)} in {step.end - step.start:.0f} h: look {soon}at {look}.")
    return words


def _new_words(new_at: float | None) -> list[str]:
    return [] if new_at is None else [f"New valve at {new_at:.0f} h: counted from there."]


def _titanium(new_at: float | None, hours: float, drift: float) -> tuple[bool, list[str]]:
    """Whether a titanium valve is spent by drift or by hours, and words for it; where nobody told when it was new, it may be as old as the
    engine."""
    age, about = hours - (new_at or 0.0), "" if new_at is not None else "up to "
    if drift >= TITANIUM_DRIFT:
        return True, [f"Titanium, sunk {amount(drift, LENGTH)} in all: its coating is through; replace it, do not lap it."]
    if age >= TITANIUM_HOURS:
        untold = "" if new_at is not None else "; if it is younger, mark the sheet on which it was new"
        return True, [f"Titanium with {about}{age:.0f} h: replace it by the hours ({TITANIUM_HOURS:.0f} h is common practice){untold}."]
    left = f"{TITANIUM_HOURS - age:.0f} h left of {TITANIUM_HOURS:.0f}, {amount(TITANIUM_DRIFT - drift, LENGTH)} of drift."
    return False, [f"Titanium, {about}{age:.0f} h old: {left}"]


def _rate_words(rate: float, band: tuple[float, float], half: float, hours: np.ndarray) -> list[str]:
    per = 10.0  # hours
    if band[0] <= 0.0 <= band[1]:
        return [f"No drift beyond what the readings leave open (±{amount(half, LENGTH)}) over {hours[-1] - hours[0]:.0f} h."]
    way = "closes" if rate < 0.0 else "opens"
    reason = "the seat recedes" if rate < 0.0 else "the gear wears"
    return [f"It {way} by {amount(abs(rate) * per, LENGTH, 3)} in {per:.0f} h: {reason}."]
