"""The sieve: a tray for each check, narrower with what is left; the heap on its mesh is what it stops."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, circle, drawing, path, rect, text

_WIDTH, _ROW, _TOP = 372.0, 30.0, 34.0
_MIDDLE, _HALF = 182.0, 36.0
_HEAP, _DOTS = 13.0, 48  # height of the fullest heap, and most grains of one


@dataclass(frozen=True)
class SieveRow:
    """One tray: its name, what it asks, how many sets it stops and how many are left."""

    name: str
    asks: str
    stops: int
    left: int


@dataclass(frozen=True)
class Sieve:
    """The trays from the top; `most` the number of the row that stops most, `total` sets at the top, `caught` left at the bottom by verdict."""

    rows: tuple[SieveRow, ...]
    total: int
    most: int
    caught: tuple[tuple[str, int, str], ...]

    def _half(self, left: int) -> float:
        """Half width of a tray, by the logarithm of what comes to it."""
        if self.total < 2 or left < 1:
            return 8.0
        return 8.0 + (_HALF - 8.0) * math.log1p(left) / math.log1p(self.total)

    def shape(self, spoken: str) -> Shape:
        """The whole drawing."""
        drawn = [
            text("s12 i2", 4, 14, "check"), text("s12 end i2", 296, 14, "stops"), text("s12 end i2", _WIDTH - 4, 14, "left"),
            path("hair", f"M0 20H{_WIDTH}"), text("s12 i2", 4, _TOP - 1, "all that can be built"),
            text("s12 b end", _WIDTH - 4, _TOP - 1, f"{self.total:,}"),
        ]  # fmt: skip
        came = self.total
        for number, row in enumerate(self.rows):
            y = _TOP + 4 + number * _ROW
            if number == self.most and row.stops:
                drawn.append(rect("sv-most", 0, y, _WIDTH, _ROW))
            drawn += self._tray(y, came, row)
            drawn.append(text("s12 b", 4, y + 13, row.name))
            drawn.append(text("s12 i2", 4, y + 26, row.asks))
            drawn.append(text("s13 end i2", 296, y + 19, f"{row.stops:,}"))
            drawn.append(text("s13 b end", _WIDTH - 4, y + 19, f"{row.left:,}"))
            came = row.left
        foot = _TOP + 10 + len(self.rows) * _ROW
        drawn.append(path("sv-rim", f"M{_MIDDLE + 16} {foot - 4}v26h48v-26"))
        for place, (verdict, count, words) in enumerate(self.caught):
            drawn += _mark(verdict, 12, foot + 2 + place * 16)
            drawn.append(text("s12", 24, foot + 6 + place * 16, f"{count:,} {words}"))
        grains = min(sum(count for _, count, _ in self.caught), 5)
        drawn += [circle("sv-grain", _MIDDLE + 24 + 8 * n, foot + 14, 3) for n in range(grains)]
        return drawing("sieve", f"0 0 {_WIDTH} {foot + 54}", spoken, *drawn)

    def _tray(self, y: float, came: int, row: SieveRow) -> list[Shape]:
        """Rim, mesh, and the heap of what is stopped, as high as its logarithm."""
        half, floor = self._half(came), y + _ROW - 8
        drawn = [
            path("sv-rim", f"M{_MIDDLE - half - 6} {floor - 8}l6 8H{_MIDDLE + half}l6 -8"),
            path("sv-mesh", f"M{_MIDDLE - half} {floor}H{_MIDDLE + half}"),
        ]
        if row.stops:
            high = _HEAP * math.log1p(row.stops) / math.log1p(max(self.total, 2))
            count = min(_DOTS, 3 + int(45 * math.log1p(row.stops) / math.log1p(max(self.total, 2))))
            across = max(int(half * 2 / 5), 2)
            for n in range(count):
                layer, place = divmod(n, across)
                x = _MIDDLE - half + 3 + place * (2 * half - 6) / max(across - 1, 1)
                top = floor - 2.5 - layer * 4.4
                if floor - top <= high + 4:
                    drawn.append(circle("sv-grain", round(x, 1), round(top, 1), 1.9))
        return drawn


def _mark(verdict: str, x: float, y: float) -> list[Shape]:
    if verdict == "holds":
        return [circle("m-holds", x, y, 5)]
    if verdict == "slim":
        return [path("m-slim", f"M{x} {y - 6}l6 6-6 6-6-6z")]
    return [rect("m-unproven", x - 5, y - 5, 10, 10)]


def sieve(rows: Sequence[SieveRow], total: int, caught: Sequence[tuple[str, int, str]]) -> Sieve:
    """The sieve of trays in their order; the one that stops the largest share of what comes to it is marked."""
    shares, came = [], total
    for row in rows:
        shares.append(row.stops / came if came else 0.0)
        came = row.left
    most = max(range(len(rows)), key=lambda n: shares[n]) if rows else 0
    return Sieve(tuple(rows), total, most, tuple(caught))
