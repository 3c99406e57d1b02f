"""A gap over crank angle (across) and cam advance (up): bands by their distance from the limit, with the path of the least gap."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rocklash.ui.drawings.scale import Axis, text_width
from rocklash.ui.drawings.shapes import Box, Figures, Shape, cells, circle, dots, drawing, hatch, line, path, text

Array = NDArray[np.float64]

BANDS = ("meet", "under", "near", "some", "free")  # below zero, below the limit, up to 1 mm above it, up to 2.5 mm, beyond


@dataclass(frozen=True, eq=False)
class PhaserMapData:
    """`advances` degrees (rows), `angles` crank degrees, `gaps` mm, `limit` mm; `lines` (advance, css, words). Figures are told times
    `factor`; with a `doubt` (mm) as a range."""

    advances: Array
    angles: Array
    gaps: Array
    limit: float
    lines: tuple[tuple[float, str, str], ...]
    decimals: int = 1
    factor: float = 1.0
    doubt: float = 0.0


@dataclass(frozen=True)
class PhaserMap:
    """The map laid out."""

    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float
    areas: tuple[tuple[str, tuple[Box, ...]], ...]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: tuple[tuple[float, str], ...]
    lines: tuple[tuple[float, str, str, float], ...]
    path: str
    stops: tuple[tuple[float, float, str, str], ...]

    told: Figures

    def figures(self) -> Figures:
        """The least gap at each line of the map."""
        return self.told

    def shape(self, spoken: str) -> Shape:
        """The whole drawing."""
        left, right, top, bottom = self.left, self.right, self.top, self.bottom
        drawn = [text("s12 i2", 0, 12, "advance °"), *(cells("", boxes, fill=f"url(#g-{band})") for band, boxes in self.areas)]
        for y, words in self.y_ticks:
            drawn += [path("grid", f"M{left} {y}h-4"), text("s12 end i2", left, y, words, dx=-6, dy=4)]
        for x, words in self.x_ticks:
            drawn += [path("grid", f"M{x} {bottom}v4"), text("s12 mid i2", x, bottom, words, dy=16)]
        drawn.append(path("ink", f"M{left} {top}V{bottom}H{right}"))
        for y, css, words, text_y in self.lines:
            drawn += [path(css, f"M{left} {y}H{right}"), text(f"s12 b halo {css}-text end", right, text_y, words, dx=-3)]
        drawn.append(line("x-line", self.path))
        for x, y, figure, css in self.stops:
            drawn += [circle("g-stopdot", x, y, 4), text(f"s14 b halo {css}", x, y, figure, dx=-8 if css else 8, dy=-6)]
        patterns = [
            hatch("g-meet", "r-lostline", 5, ground="r-lostbg", d="M0 0V5M2.5 0V5"),
            hatch("g-under", "r-lostline", 6, ground="r-lostbg"),
            hatch("g-near", "g-nearline", 6, turn=-45, ground="r-faintbg"),
            dots("g-some", "g-dot", 6, 0.8),
        ]
        return drawing("phasermap", f"0 0 {self.width} {self.height}", spoken, *drawn, patterns=patterns)


_LEFT, _TOP = 34.0, 20.0
_GROWN = 1.3  # words keep their size on the screen: a drawing shown that much smaller than its view box holds them still


def _areas(data: PhaserMapData, across: Axis, up: Axis) -> tuple[tuple[str, tuple[Box, ...]], ...]:
    edges = np.array([0.0, data.limit, data.limit + 1.0, data.limit + 2.5])
    levels = np.digitize(data.gaps, edges)
    half_x = (data.angles[1] - data.angles[0]) / 2.0
    half_y = (data.advances[1] - data.advances[0]) / 2.0
    found: dict[int, list[Box]] = {level: [] for level in range(len(BANDS) - 1)}
    for row, advance in zip(levels, data.advances, strict=True):
        top, bottom = up.at(min(advance + half_y, up.high)), up.at(max(advance - half_y, up.low))
        cuts = np.flatnonzero(np.diff(row)) + 1
        for start, end in zip([0, *cuts], [*cuts, len(row)], strict=True):
            if row[start] < len(BANDS) - 1:
                left, right = (
                    across.at(max(data.angles[start] - half_x, across.low)),
                    across.at(min(data.angles[end - 1] + half_x, across.high)),
                )
                found[int(row[start])].append((left, top, right - left, bottom - top))
    return tuple((BANDS[level], tuple(boxes)) for level, boxes in found.items() if boxes)


def draw(data: PhaserMapData, *, width: float = 300.0, height: float = 320.0) -> PhaserMap:
    """Lay the map out; the path of the least gap carries its figure where a line crosses it."""
    right, bottom = width - 8.0, height - 34.0
    across = Axis(float(data.angles[0]), float(data.angles[-1]), _LEFT, right)
    up = Axis(float(data.advances[0]), float(data.advances[-1]), bottom, _TOP)
    least = data.gaps.argmin(axis=1)
    path = " ".join(f"{across.at(float(data.angles[n])):.1f},{up.at(float(a)):.1f}" for a, n in zip(data.advances, least, strict=True))
    lines: list[tuple[float, str, str, float]] = []
    stops: list[tuple[float, float, str, str]] = []
    taken: list[float] = []
    for advance, css, words in data.lines:
        row = int(np.abs(data.advances - advance).argmin())
        y, x = up.at(advance), across.at(float(data.angles[least[row]]))
        text = y - 4.0 if all(abs(y - other) > 13.0 for other in taken) else y + 13.0
        taken.append(y)
        lines.append((y, css, words, round(text, 1)))
        least_gap = float(data.gaps[row].min())
        ends = [least_gap - data.doubt, least_gap + data.doubt] if data.doubt else [least_gap]
        places = data.decimals - 1 if data.doubt else data.decimals
        said = "…".join(f"{value * data.factor:.{places}f}" for value in ends)
        # the words of the line stand at its right end: the figure goes left of its dot where the two would touch
        touch = x + 8.0 + _GROWN * (text_width(said, 14) + text_width(words, 12)) > right
        stops.append((x, y, said.replace("-", "\N{MINUS SIGN}"), "end" if touch else ""))
    step = 10 if up.high - up.low <= 60 else 20
    first = int(np.ceil(up.low / step)) * step
    y_ticks = tuple((up.at(float(n)), f"{n}".replace("-", "\N{MINUS SIGN}")) for n in range(first, int(up.high) + 1, step))
    x_ticks = tuple((across.at(float(n)), "TDC" if n == 0 else f"{n}".replace("-", "\N{MINUS SIGN}")) for n in range(-40, 41, 20))
    return PhaserMap(
        width=width,
        height=height,
        left=_LEFT,
        right=right,
        top=_TOP,
        bottom=bottom,
        areas=_areas(data, across, up),
        x_ticks=x_ticks,
        y_ticks=y_ticks,
        lines=tuple(lines),
        path=path,
        stops=tuple(stops),
        told=Figures(
            ("", "advance °", "least gap"),
            tuple(
                (words, f"{advance:+.0f}".replace("-", "\N{MINUS SIGN}"), stop[2])
                for (advance, _, words), stop in zip(data.lines, stops, strict=True)
            ),
        ),
    )
