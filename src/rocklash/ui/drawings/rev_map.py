"""The rev sweep as a map: cam angle across, engine speed up, contact force as tone and pattern; strips beside it share the speed."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

from rocklash.ui.drawings.scale import Axis, round_step
from rocklash.ui.drawings.shapes import Box, Figures, Shape, cells, dots, drawing, hatch, line, path, rect, text

LEVELS = ("lost", "faint", "light", "firm", "hard")  # contact lost; below a quarter of the seat force; below it; below thrice; above


@dataclass(frozen=True)
class Strip:
    """A quantity over the speeds: title, unit, one line a spring or one in all, and the value of a limit, if any."""

    title: str
    unit: str
    lines: tuple[tuple[float, ...], ...]
    limit: float | None = None
    decimals: int = 1


@dataclass(frozen=True)
class RevMapData:
    """`angles` edges in cam degrees, `speeds` in rpm increasing, `levels[speed][angle]` index into LEVELS; marks (rpm, css, words)."""

    angles: tuple[float, ...]
    speeds: tuple[float, ...]
    levels: tuple[tuple[int, ...], ...]
    strips: tuple[Strip, ...]
    marks: tuple[tuple[float, str, str], ...]
    band: tuple[float, float] | None = None


@dataclass(frozen=True)
class StripDrawn:
    """A strip: box, polylines, foot labels, x of its limit."""

    title: str
    unit: str
    left: float
    width: float
    lines: tuple[tuple[str, str], ...]
    low: str
    high: str
    limit: float | None

    def shapes(self, top: float, bottom: float) -> list[Shape]:
        """Title, box, limit, lines, ends of the scale."""
        drawn = [
            text("s12 b end", self.left + self.width, 14, f"{self.title}, {self.unit}"),
            path("hair", f"M{self.left} {top}V{bottom}h{self.width}"),
        ]
        if self.limit:
            drawn.append(path("l-over", f"M{self.limit} {top}V{bottom}"))
        drawn += [line(css, points) for points, css in self.lines]
        drawn.append(text("s12 i2", self.left, bottom, self.low, dy="1.3em"))
        return [*drawn, text("s12 end i2", self.left, bottom, self.high, dx=self.width, dy="1.3em")]


@dataclass(frozen=True)
class RevMap:
    """The map laid out; `areas` are (level, boxes), the first below the others."""

    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float
    areas: tuple[tuple[str, tuple[Box, ...]], ...]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: tuple[tuple[float, str], ...]
    strips: tuple[StripDrawn, ...]
    marks: tuple[tuple[float, float, str, str], ...]
    band: tuple[float, float] | None
    told: Figures

    def figures(self) -> Figures:
        """At each speed: the least contact over the cam's turn, and what the strips show."""
        return self.told

    def shape(self, spoken: str) -> Shape:
        """The whole drawing."""
        left, top, bottom, fills = self.left, self.top, self.bottom, {"lost": "url(#lost)", "faint": "url(#faint)"}
        drawn = [text("s12 i2 fine", left, 14, "rpm over cam degrees from the nose")]
        drawn += [cells(f"r-{level}", boxes, fill=fills.get(level)) for level, boxes in self.areas]
        for y, words in self.y_ticks:
            drawn += [path("grid", f"M{left} {y}h-5"), text("s12 end i2", left, y, words, dx=-8, dy=4)]
        for x, words in self.x_ticks:
            drawn += [path("grid", f"M{x} {bottom}v5"), text("s12 mid i2", x, bottom, words, dy="1.4em")]
        drawn.append(path("ink", f"M{left} {top}V{bottom}H{self.right}"))
        drawn += [each for strip in self.strips for each in strip.shapes(top, bottom)]
        if self.band:
            drawn.append(rect("r-band", self.right, self.band[0], 7, self.band[1]))
        for y, text_y, css, words in self.marks:
            drawn += [path(css, f"M{left} {y}H{self.width}"), text(f"s12 b halo {css}-text", left, text_y, words, dx=5)]
        patterns = [hatch("lost", "r-lostline", 6, ground="r-lostbg"), dots("faint", "r-faintdot", 5, 0.9, ground="r-faintbg")]
        return drawing("revmap", f"0 0 {self.width} {self.height}", spoken, *drawn, patterns=patterns)


_LEFT, _TOP, _STRIP, _GAP = 56.0, 24.0, 74.0, 12.0


def _edges(speeds: tuple[float, ...]) -> list[float]:
    middles = [(a + b) / 2.0 for a, b in pairwise(speeds)]
    return [speeds[0] - (middles[0] - speeds[0]), *middles, speeds[-1] + (speeds[-1] - middles[-1])]


_GROUND = "firm"
"""What most cells are: laid below the others wherever the valve is off its seat, so that it is not cut up by them."""


def _runs(row: tuple[int, ...]) -> Iterator[tuple[int, int, int]]:
    """(level, first column, column after) of each stretch of a row that is one level; then the stretches off the seat, as the ground."""
    for known, level in ((False, None), (True, LEVELS.index(_GROUND))):
        start = 0
        kinds = [cell >= 0 for cell in row] if known else list(row)
        for column in range(1, len(row) + 1):
            if column == len(row) or kinds[column] != kinds[start]:
                if row[start] >= 0 and (known or row[start] != LEVELS.index(_GROUND)):
                    yield (row[start] if level is None else level), start, column
                start = column


def _areas(data: RevMapData, across: Axis, up: Axis) -> tuple[tuple[str, tuple[Box, ...]], ...]:
    """Boxes of each level, the ground first; a stretch that is the same in the row below is one box with it."""
    rows = _edges(data.speeds)
    found: dict[int, list[list[float]]] = {level: [] for level in sorted(range(len(LEVELS)), key=lambda level: LEVELS[level] != _GROUND)}
    below: dict[tuple[int, int, int], list[float]] = {}
    for number, row in enumerate(data.levels):
        top, bottom = up.at(rows[number + 1]), up.at(rows[number])
        here = {}
        for run in _runs(row):
            box = below.get(run)
            if box is None:
                level, start, end = run
                left, right = across.at(data.angles[start]), across.at(data.angles[end])
                box = [left, top, right - left, 0.0]
                found[level].append(box)
            box[1], box[3] = top, box[3] + bottom - top
            here[run] = box
        below = here
    return tuple(
        (LEVELS[level], tuple((left, top, wide, high) for left, top, wide, high in boxes)) for level, boxes in found.items() if boxes
    )


def _strip(strip: Strip, left: float, up: Axis, speeds: tuple[float, ...]) -> StripDrawn:
    top = max((max(line) for line in strip.lines), default=1.0)
    shown = max(top, (strip.limit or 0.0) * 1.15, 1e-9)
    across = Axis(0.0, shown, left, left + _STRIP)
    css = ("r-outer", "r-inner")
    lines = tuple(
        (" ".join(f"{across.at(value):.1f},{up.at(speed):.1f}" for value, speed in zip(line, speeds, strict=True)), css[number % 2])
        for number, line in enumerate(strip.lines)
    )
    limit = across.at(strip.limit) if strip.limit is not None else None
    return StripDrawn(strip.title, strip.unit, left, _STRIP, lines, "0", f"{shown:.{strip.decimals}f}", limit)


_SAID = {
    "lost": "lost",
    "faint": "below a quarter of the seat force",
    "light": "below the seat force",
    "firm": "up to three times the seat force",
    "hard": "above three times the seat force",
}


def _figures(data: RevMapData) -> Figures:
    """A row for each of at most fourteen speeds."""
    heads = [
        f"{strip.title}, {strip.unit}" + (f", {number + 1}" if len(strip.lines) > 1 else "")
        for strip in data.strips
        for number in range(len(strip.lines))
    ]
    lines = [(line, strip.decimals) for strip in data.strips for line in strip.lines]
    rows = []
    for n in range(0, len(data.speeds), max(-(-len(data.speeds) // 14), 1)):
        known = [level for level in data.levels[n] if level >= 0]
        least = _SAID[LEVELS[min(known)]] if known else ""
        rows.append((f"{data.speeds[n]:,.0f}", least, *(f"{line[n]:.{decimals}f}" for line, decimals in lines)))
    return Figures(("rpm", "least contact", *heads), tuple(rows))


def draw(data: RevMapData, *, width: float = 476.0, height: float = 400.0) -> RevMap:
    """Lay the map out with its strips to the right."""
    bottom = height - 34.0
    right = width - 6.0 - len(data.strips) * (_STRIP + _GAP)
    # cells of whole tenths are all alike on paper, and pack well
    right = _LEFT + (len(data.angles) - 1) * math.floor((right - _LEFT) / (len(data.angles) - 1) * 10.0) / 10.0
    across = Axis(data.angles[0], data.angles[-1], _LEFT, right)
    edges = _edges(data.speeds)
    up = Axis(edges[0], edges[-1], bottom, _TOP)
    step = round_step(edges[-1] - edges[0], 9)
    y_ticks = tuple((up.at(n * step), f"{n * step:,.0f}") for n in range(int(edges[0] // step) + 1, int(edges[-1] // step) + 1))
    reach = int(data.angles[-1])
    x_ticks = tuple((across.at(a), f"{a}".replace("-", "\N{MINUS SIGN}")) for a in range(-reach + reach % 40, reach + 1, 40))
    strips = tuple(_strip(strip, right + _GAP + number * (_STRIP + _GAP), up, data.speeds) for number, strip in enumerate(data.strips))
    taken: list[float] = []
    marks = []
    for value, css, words in sorted(data.marks):
        if not edges[0] <= value <= edges[-1]:
            continue
        y = up.at(value)
        text = y - 4.0
        while any(abs(text - other) < 18.0 for other in taken):
            text -= 18.0
        taken.append(text)
        marks.append((y, round(text, 1), css, words))
    band = None
    if data.band:
        high, low = up.at(min(data.band[1], edges[-1])), up.at(max(data.band[0], edges[0]))
        band = (round(high, 1), round(low - high, 1))
    return RevMap(
        width=width,
        height=height,
        left=_LEFT,
        right=right,
        top=_TOP,
        bottom=bottom,
        areas=_areas(data, across, up),
        x_ticks=x_ticks,
        y_ticks=y_ticks,
        strips=strips,
        marks=tuple(marks),
        band=band,
        told=_figures(data),
    )
