"""Relative compression from the current of the starter: one crest for each compression, their sizes compared.

Percent of current is not pressure. Differences under 8 points mean nothing, because the shaft has sped up or down from the cylinder
before; an engine that fires unevenly needs a known-good trace of its own.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfiltfilt

from valvetrain.formulas.cylinder_tests import compressions_per_second, error_of_median

Samples = NDArray[np.float64]
POINTS = 0.08  # difference below which nothing is told
_RATE: Final = 1000.0
_START: Final = 0.6  # s of spinning up that are left out
_SLOW, _FAST = 120.0 / 60.0, 420.0 / 60.0  # rev/s between which anybody cranks
_DRIFT: Final = 0.10
_WINDOW: Final = 0.35  # of the smaller gap: how far from its place a crest is looked for
_MOST: Final = 400_000


@dataclass(frozen=True, kw_only=True)
class StarterReading:
    """Crests (s, A) kept, which cylinder each belongs to (index of the firing order, -1 where unknown), percent and error by place in
    the order, cranking speed (rev/s), whether cylinder 1 is known, and whether percent may be compared between cylinders at all.

    `refused` says why nothing is told."""

    time: Samples
    current: Samples
    crest_at: Samples
    crest: Samples
    place: NDArray[np.int64]
    share: tuple[float, ...] = ()
    error: tuple[float, ...] = ()
    speed: float = 0.0
    anchored: bool = False
    trend_only: bool = False
    refused: str = ""

    @property
    def imbalanced(self) -> bool:
        """Whether a difference is large enough to send to the gauge."""
        return not self.trend_only and bool(self.share) and min(self.share) < max(self.share) - POINTS


def _refuse(time: Samples, current: Samples, why: str) -> StarterReading:
    none = np.zeros(0)
    return StarterReading(time=time, current=current, crest_at=none, crest=none, place=np.zeros(0, dtype=np.int64), refused=why)


def _even(angles: Sequence[float]) -> bool:
    gaps = np.diff(np.sort([*angles, min(angles) + 4.0 * math.pi]))
    return float(np.ptp(gaps)) < 0.02


def _frequency(current: Samples, count: int) -> tuple[float, float]:
    """Compressions a second and how clearly they stand out, looked for between 120 and 420 rpm only."""
    detrended = current - np.polyval(np.polyfit(np.arange(len(current)), current, 2), np.arange(len(current)))
    size = 1 << max(14, (len(current) - 1).bit_length() + 2)
    spectrum = np.abs(np.fft.rfft(detrended * np.hanning(len(current)), size))
    tone = np.fft.rfftfreq(size, 1.0 / _RATE)
    band = (tone >= compressions_per_second(_SLOW, count)) & (tone <= compressions_per_second(_FAST, count))
    at = int(spectrum[band].argmax())
    return float(tone[band][at]), float(spectrum[band][at] / (np.median(spectrum[(tone > 0.5) & (tone < 200.0)]) + 1e-12))


def _drift(crest_at: Samples, count: int) -> float:
    """How far the mean cranking speed moves from the first third to the last."""
    turns = crest_at[::count][1:] - crest_at[::count][:-1]
    third = max(1, len(turns) // 3)
    return abs(float(np.mean(turns[:third]) / np.mean(turns[-third:])) - 1.0)


def _chain(smooth: Samples, cycle: float, count: int) -> list[int]:
    """Crests of one cylinder: from the highest on, a cycle further each time, both ways."""
    reach = round(min(0.12, 0.3 / count) * cycle)
    chain = [int(smooth.argmax())]
    for way in (1, -1):
        at = chain[0] if way < 0 else chain[-1]
        while True:
            middle = at + way * round(cycle)
            if middle - reach < 0 or middle + reach >= len(smooth):
                break
            at = middle - reach + int(smooth[middle - reach : middle + reach + 1].argmax())
            chain.append(at)
        chain.sort()
    return chain


def _crests(smooth: Samples, pace: float, angles: Sequence[float]) -> tuple[NDArray[np.int64], Samples, int, bool] | None:
    """Sample and height of each compression (cycles by cylinders in firing order, beginning with the strongest), the place in the order of
    that one, and whether unequal gaps tell it. A cylinder without compression has its place in the cycle too, with no height."""
    count = len(angles)
    cycle = count * _RATE / pace
    strong = _chain(smooth, cycle, count)
    if len(strong) < 4:
        return None
    order = np.sort(angles)
    gaps = np.diff([*order, order[0] + 4.0 * math.pi]) / (4.0 * math.pi)
    best: tuple[float, NDArray[np.int64], Samples, int] | None = None
    fits = []
    for first in range(1 if _even(angles) else count):
        turned = np.roll(gaps, -first)
        share = np.concatenate(([0.0], np.cumsum(turned)[:-1]))
        rows, sizes, whole = [], [], []
        for begin, end in itertools.pairwise(strong):
            long = float(end - begin)
            crests = []
            for number in range(count):
                window = _WINDOW * long * min(turned[number - 1], turned[number])
                middle = begin + share[number] * long
                low, high = max(0, round(middle - window)), min(len(smooth), round(middle + window) + 1)
                crests.append(low + int(smooth[low:high].argmax()))
            around = [*crests, int(end)]
            valleys = [float(smooth[one : two + 1].min()) for one, two in itertools.pairwise(around)]
            before = [valleys[-1], *valleys[:-1]]
            heights = [float(smooth[crest]) - 0.5 * (one + two) for crest, one, two in zip(crests, before, valleys, strict=True)]
            rows.append(crests)
            sizes.append(heights)
            whole.append(min(heights) + 0.2 * sum(heights))
        if rows:
            fits.append(float(np.median(whole)))
            if best is None or fits[-1] > best[0]:
                best = (fits[-1], np.array(rows, dtype=np.int64), np.array(sizes), first)
    if best is None:
        return None
    ranked = sorted(fits, reverse=True)
    told = len(ranked) > 1 and ranked[0] > 1.1 * max(ranked[1], 1e-9)
    return best[1], best[2], best[3], told


def _place_by_mark(crest_at: Samples, mark_at: Samples, count: int) -> int | None:
    """Place in the order of the first crest, by a mark that comes near the top of compression of cylinder 1."""
    if len(mark_at) < 3:
        return None
    period = float(np.median(np.diff(crest_at)))
    votes = np.zeros(count)
    for moment in mark_at:
        near = int(np.abs(crest_at - moment).argmin())
        if abs(float(crest_at[near]) - float(moment)) < 0.5 * period:
            votes[(-near) % count] += 1
    return int(votes.argmax()) if votes.sum() >= 3 and votes.max() > 0.7 * votes.sum() else None


def read(
    time: Samples, current: Samples, angles: Sequence[float], *, mark: Samples | None = None, good: Sequence[float] = ()
) -> StarterReading:  # fmt: skip
    """Percent of the strongest by place in the firing order. `time` s, `current` A, `angles` rad of 4 pi, `mark` a second channel that
    stands high near the top of compression of the first cylinder; `good` the shares of the same engine's known-good trace.

    A trace that tells nothing is refused with a sentence.
    """
    count = len(angles)
    if len(time) < 500 or len(time) > _MOST:
        return _refuse(
            time,
            current,
            f"The trace has {len(time):,} samples; 500 to {_MOST:,} are read. Take two to six seconds of cranking at 500 a second or more.",
        )
    if not (np.isfinite(time).all() and np.isfinite(current).all()):
        return _refuse(time, current, "The trace holds cells that are no numbers.")
    steps = np.diff(time)
    if (steps <= 0.0).any():
        row = int(np.flatnonzero(steps <= 0.0)[0]) + 2
        return _refuse(
            time,
            current,
            f"Time stands still or runs back at sample {row}. Give the samples in the order in which they were taken, each once.",
        )
    if float(steps.max()) > 0.05:
        return _refuse(time, current, f"The trace has a gap of {float(steps.max()):.2f} s after {float(time[int(steps.argmax())]):.2f} s.")
    grid = np.arange(time[0], time[-1], 1.0 / _RATE)
    even = np.interp(grid, time, current)
    running = even > 0.35 * np.percentile(even, 80.0)
    if running.sum() < 1.2 * _RATE:
        return _refuse(time, current, "Less than 1.2 s of cranking is in this trace.")
    first, last = int(np.flatnonzero(running)[0]), int(np.flatnonzero(running)[-1])
    first += round(_START * _RATE)
    part, at = even[first:last], grid[first:last]
    if len(part) < 0.8 * _RATE:
        return _refuse(time, current, "After the spinning up less than 0.8 s of cranking is left. Crank for three to five seconds.")
    pace, clear = _frequency(part, count)
    if clear < 6.0:
        return _refuse(
            time, current, "No compressions stand out of this trace. Is the clamp around the starter's cable, and its range right?"
        )
    smooth = sosfiltfilt(butter(3, min(3.0 * pace, 0.45 * _RATE), fs=_RATE, output="sos"), part)
    found = _crests(smooth, pace, angles)
    if found is None or found[0].shape[0] < 3:
        return _refuse(time, current, f"Fewer than three whole cycles of {count} cylinders are in this trace. Crank longer.")
    places_at, heights, first_place, told_apart = found
    crest_at, crest = at[places_at.ravel()], heights.ravel()
    if len(crest_at) > 2 * count and _drift(crest_at, count) > _DRIFT:
        return _refuse(
            time,
            current,
            "The cranking speed changes by more than a tenth over the trace: charge the battery, and crank with the throttle open.",
        )
    mark_at = np.zeros(0)
    if mark is not None:
        high = np.interp(grid, time, mark)
        over = high > 0.5 * (float(high.max()) + float(high.min()))
        mark_at = grid[1:][over[1:] & ~over[:-1]]
    marked = _place_by_mark(crest_at, mark_at, count)
    start, known = (marked, True) if marked is not None else (first_place, told_apart)
    place = (np.arange(len(crest)) + start) % count
    middle = np.array([float(np.median(crest[place == each])) for each in range(count)])
    if good and len(good) == count:
        middle = middle / np.asarray(good)
    top = float(middle.max())
    if top <= 0.0:
        return _refuse(time, current, "The crests have no height: this is no trace of an engine that is cranked.")
    error = tuple(error_of_median(float(np.std(crest[place == each])) / top, int((place == each).sum())) for each in range(count))
    return StarterReading(
        time=time, current=current, crest_at=crest_at, crest=crest, place=place.astype(np.int64), share=tuple(float(each) / top for each in middle),
        error=error, speed=2.0 * pace / count, anchored=known, trend_only=count == 1 or (not _even(angles) and not good),
    )  # fmt: skip
