"""Cylinders from above with two rings: compression outside, leak-down inside, the limit in green, a grey tick for before."""

import math
from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, circle, drawing, path, rect, text

_SPAN, _FIRST = 270.0, 135.0  # degrees of a whole ring, and where it begins
_STEP = 132.0


@dataclass(frozen=True, kw_only=True)
class Bore:
    """One cylinder; shares of the ring from 0 to 1 or None where nothing was read; `low` marks one that is not as the others, `leaks` valves by name
    with their place (angle in degrees, 0 to the right)."""

    number: int
    compression: float | None
    least: float | None
    before: float | None
    leak: float | None
    leak_most: float
    leak_before: float | None
    low: bool
    reads: str = ""
    loses: str = ""
    leaks: tuple[tuple[str, float, str], ...] = ()


def _spot(x: float, y: float, radius: float, share: float) -> tuple[float, float]:
    turn = math.radians(_FIRST + _SPAN * max(0.0, min(1.0, share)))
    return round(x + radius * math.cos(turn), 1), round(y + radius * math.sin(turn), 1)


def _arc(css: str, x: float, y: float, radius: float, first: float, last: float) -> Shape:
    start, end = _spot(x, y, radius, first), _spot(x, y, radius, last)
    large = int((last - first) * _SPAN > 180.0)
    return path(css, f"M{start[0]} {start[1]}A{radius} {radius} 0 {large} 1 {end[0]} {end[1]}")


def _tick(css: str, x: float, y: float, inner: float, outer: float, share: float) -> Shape:
    one, two = _spot(x, y, inner, share), _spot(x, y, outer, share)
    return path(css, f"M{one[0]} {one[1]}L{two[0]} {two[1]}")


@dataclass(frozen=True, kw_only=True)
class Bores:
    """All cylinders in a row."""

    bores: tuple[Bore, ...]
    spoken: str

    def shape(self) -> Shape:
        """The whole drawing."""
        drawn: list[Shape] = []
        for place, bore in enumerate(self.bores):
            x, y = 66.0 + _STEP * place, 66.0
            drawn.append(_arc("bo-way", x, y, 56.0, 0.0, 1.0))
            if bore.least is not None:
                drawn.append(_arc("bo-good", x, y, 56.0, bore.least, 1.0))
            if bore.compression is not None:
                drawn.append(_arc("bo-low" if bore.low else "bo-read", x, y, 56.0, 0.0, max(0.01, bore.compression)))
            if bore.before is not None:
                drawn.append(_tick("bo-before", x, y, 50.0, 62.0, bore.before))
            if bore.leak is not None:
                drawn.append(_arc("bo-way", x, y, 43.0, 0.0, 1.0))
                drawn.append(_arc("bo-leak", x, y, 43.0, 0.0, max(0.01, bore.leak)))
                drawn.append(_tick("bo-limit", x, y, 38.0, 48.0, bore.leak_most))
                if bore.leak_before is not None:
                    drawn.append(_tick("bo-before", x, y, 38.0, 48.0, bore.leak_before))
            drawn.append(circle("h-bore", x, y, 32.0))
            for _, angle, state in bore.leaks:
                turn = math.radians(angle)
                at = (round(x + 17.0 * math.cos(turn), 1), round(y + 17.0 * math.sin(turn), 1))
                drawn.append(circle("bo-valve-bad" if state != "tight" else "bo-valve", at[0], at[1], 9.5))
            drawn.append(text("b mid s15", x, y, str(bore.number), dy=5))
            drawn += [text("s12 b mid", x, y + 50.0, bore.reads), text("s12 mid i2", x, y + 63.0, bore.loses)]
        width = 132.0 * max(1, len(self.bores))
        return drawing("bores", f"0 0 {width} 136", self.spoken, rect("h-cast", 0.6, 0.6, width - 1.2, 134.8, rx=9), *drawn)
