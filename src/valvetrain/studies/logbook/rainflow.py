"""Turns of stress counted out of a course of it, by rainflow.

Source: astm_e1049, section 5.4.4: with X the newest range and Y the one before it, X below Y reads on; otherwise Y is half a turn where it holds
the start (which is then dropped), and a whole turn where it does not (both its ends are dropped). What is left counts as halves.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError


@dataclass(frozen=True, slots=True)
class Turn:
    """One counted turn: its range and mean in the course's own unit, and whether it is a whole one or a half."""

    range: float
    mean: float
    count: float


def reversals(course: Sequence[float] | NDArray[np.float64]) -> list[float]:
    """Peaks and valleys of a course, its two ends among them; flat stretches are one point. Raises OutOfRangeError for what is no number."""
    values = np.asarray(course, dtype=float)
    if not np.isfinite(values).all():
        raise OutOfRangeError("The course of stress holds something that is no number.")
    if len(values) == 0:
        return []
    steps = np.flatnonzero(np.diff(values))
    kept = values[np.concatenate([steps, [len(values) - 1]])] if len(steps) else values[:1]
    rise = np.sign(np.diff(kept))
    turning = np.flatnonzero(rise[1:] != rise[:-1]) + 1
    places = [0, *turning.tolist(), len(kept) - 1] if len(kept) > 1 else [0]
    return [float(kept[place]) for place in places]


def rainflow(course: Sequence[float] | NDArray[np.float64]) -> list[Turn]:
    """Turns of a course in the order in which they close."""
    found: list[Turn] = []
    held: list[float] = []

    def count(a: float, b: float, share: float) -> None:
        found.append(Turn(abs(b - a), (a + b) / 2.0, share))

    for point in reversals(course):
        held.append(point)
        while len(held) >= 3:
            newest, before = abs(held[-1] - held[-2]), abs(held[-2] - held[-3])
            if newest < before:
                break
            if len(held) == 3:
                count(held[0], held[1], 0.5)
                del held[0]
            else:
                count(held[-3], held[-2], 1.0)
                del held[-3:-1]
    for a, b in pairwise(held):
        count(a, b, 0.5)
    return found


def of_one_turn(course: Sequence[float] | NDArray[np.float64]) -> list[Turn]:
    """Turns of one turn of the cam that is repeated for ever: begun and ended at its highest stress, so that only whole turns are left."""
    values = np.asarray(course, dtype=float)
    if len(values) == 0:
        return []
    top = int(values.argmax())
    return rainflow(np.concatenate([values[top:], values[: top + 1]]))


def joined(turns: Iterable[Turn], digits: float = 0.0) -> list[Turn]:
    """Like turns put together, of ranges and means that are equal to `digits` (their own unit; 0 joins only what is exactly equal)."""
    book: dict[tuple[float, float], float] = {}
    for turn in turns:
        key = (turn.range, turn.mean) if not digits else (round(turn.range / digits) * digits, round(turn.mean / digits) * digits)
        book[key] = book.get(key, 0.0) + turn.count
    return [Turn(range_, mean, count) for (range_, mean), count in sorted(book.items())]
