"""Axes and label placing shared by the drawings. Pixels are those of the drawing's own view box."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Axis:
    """A straight scale from value to pixel."""

    low: float
    high: float
    start: float
    end: float

    def at(self, value: float) -> float:
        """Pixel of a value, one decimal."""
        return round(self.start + (value - self.low) / (self.high - self.low) * (self.end - self.start), 1)

    def row(self, values: Sequence[float]) -> list[float]:
        """Pixels of many values at once."""
        each = (self.end - self.start) / (self.high - self.low)
        placed: list[float] = np.round(self.start + (np.asarray(values, dtype=float) - self.low) * each, 1).tolist()
        return placed

    def holds(self, value: float) -> bool:
        """Whether the value lies on the axis."""
        return self.low <= value <= self.high


def round_step(width: float, count: int) -> float:
    """A step of 1, 2, 2.5 or 5 times a power of ten that cuts `width` into at most `count` parts."""
    rough = width / count
    power = 10.0 ** math.floor(math.log10(rough))
    return next(factor * power for factor in (1.0, 2.0, 2.5, 5.0, 10.0) if factor * power >= rough * (1 - 1e-9))


def text_width(text: str, size: float = 12.5) -> float:
    """Width of a text in the semi-condensed face, on the generous side."""
    return len(text) * size * 0.47 + 2.0


class Row:
    """A row of labels that must not overlap: offers the first free of several places. Words keep their size on the screen; `grown` says how much
    smaller than its view box a drawing may be shown."""

    def __init__(self, start: float, end: float, grown: float = 1.0) -> None:
        self.start, self.end, self.grown = start, end, grown
        self.taken: list[tuple[float, float]] = []

    def block(self, left: float, right: float) -> None:
        """Keep a stretch free of labels."""
        self.taken.append((left, right))

    def place(self, x: float, text: str, *, gap: float = 5.0) -> tuple[float, str] | None:
        """Anchor point and class (`""` right of x, `end` left of it) of a label at x; None when there is no room."""
        width = self.grown * text_width(text)
        for anchor, css in ((x + gap, ""), (x - gap, "end")):
            left = anchor if css == "" else anchor - width
            right = left + width
            if left >= self.start and right <= self.end and all(right < a or left > b for a, b in self.taken):
                self.taken.append((left, right))
                return round(anchor, 1), css
        return None
