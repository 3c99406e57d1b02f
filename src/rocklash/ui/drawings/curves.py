"""Curves over one shared axis, one plot above the other."""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from rocklash.ui.drawings.scale import Axis, round_step
from rocklash.ui.drawings.shapes import Figures, Shape, circle, drawing, group, hatch, line, outline, path, rect, shape, text

Array = NDArray[np.float64]

_LEFT, _RIGHT, _GAP = 44.0, 8.0, 26.0


@dataclass(frozen=True)
class Curve:
    """A named line: equal-length x and y in the units shown; `css` tells stock from proposed, and without one only the band is drawn;
    `label` stands at its peak.

    `band` is the half width of the curve's spread, a value a point; `name` ties the curve to the crosshair's readout; `said` is what it is called
    in figures where neither name nor label tells.
    """

    x: tuple[float, ...]
    y: tuple[float, ...]
    css: str
    label: str = ""
    band: tuple[float, ...] = ()
    name: str = ""
    said: str = ""

    @property
    def called(self) -> str:
        """What it is called in figures."""
        return self.said or _ROLES.get(self.name or self.css, "") or self.name or self.label


_ROLES = {"p-stock": "stock", "p-apart": "off the lobe", "A": "A, proposed"}


@dataclass(frozen=True)
class PlotData:
    """One plot: title, unit of y, curves. Below the least of `floors` (value, words) it is hatched as not allowed; `squares` are readings of their own."""

    title: str
    unit: str
    curves: tuple[Curve, ...]
    dots: tuple[tuple[float, float, bool], ...] = ()
    height: float = 0.0
    floors: tuple[tuple[float, str], ...] = ()
    squares: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class Plot:
    """A plot as drawn: `lines` are (points, css), `ticks` (pixel, text), `labels` (x, y, text, css).

    `bands` are closed outlines, `dots` (x, y, dropped) single readings; `names` the curves the crosshair reads, with css.
    """

    title: str
    unit: str
    top: float
    bottom: float
    zero: float
    lines: tuple[tuple[str, str], ...]
    ticks: tuple[tuple[float, str], ...]
    labels: tuple[tuple[float, float, str, str], ...]
    bands: tuple[str, ...] = ()
    dots: tuple[tuple[float, float, bool], ...] = ()
    names: tuple[tuple[str, str], ...] = ()
    scale: tuple[float, float] = (0.0, 1.0)
    floors: tuple[tuple[float, str], ...] = ()
    squares: tuple[tuple[float, float], ...] = ()

    def shapes(self, left: float, right: float, x_ticks: tuple[tuple[float, str], ...]) -> list[Shape]:
        """The plot from its ground up: rules, what is not allowed, bands, readings, lines, labels."""
        drawn = [text("b", left, self.top, f"{self.title}, {self.unit}", dy=-7)]
        drawn += [text("s12 end i2", left, y, words, dx=-5, dy="0.3em") for y, words in self.ticks]
        tall = f"v{self.bottom - self.top:g}"
        rules = [f"M{left:g} {y:g}H{right:g}" for y, _ in self.ticks] + [f"M{x:g} {self.top:g}{tall}" for x, _ in x_ticks]
        drawn.append(path("grid", "".join(rules)))
        drawn += [path("hair", f"M{left} {self.top}V{self.bottom}"), path("ink", f"M{left} {self.zero}H{right}")]
        # the floor's words stand at the end that is further from the curves' labels
        far = max((x for x, *_ in self.labels), default=right) < (left + right) / 2
        for number, (y, words) in enumerate(self.floors):
            if number == 0:
                drawn.append(path("", f"M{left} {y}H{right}V{self.bottom}H{left}z", fill="url(#floor)"))
            drawn += [
                path("p-limit", f"M{left} {y}H{right}"),
                text(
                    f"s12 b halo{' end' if far else ''}",
                    right if far else left,
                    y,
                    words,
                    dx=-4 if far else 4,
                    dy=-4 if number else "1.15em",
                ),
            ]
        drawn += [outline("p-band", points) for points in self.bands]
        drawn += [path("p-slip", f"M{x} {y}m-4 -4l8 8m-8 0l8 -8") if dropped else circle("p-dot", x, y, 1.6) for x, y, dropped in self.dots]
        drawn += [line(css, points) for points, css in self.lines]
        drawn += [path("p-square", f"M{x} {y}m-4 -4h8v8h-8z") for x, y in self.squares]
        return drawn + [text(f"s12 b {self._anchor(x, left, right)} halo blue pl", x, y, words) for x, y, words, _ in self.labels]

    @staticmethod
    def _anchor(x: float, left: float, right: float) -> str:
        """Words near an end of the plot stay inside it."""
        return "end" if x > right - 30.0 else "" if x < left + 24.0 else "mid"

    def readers(self, number: int) -> Shape:
        """What the crosshair moves: a dot and a figure for each curve it reads."""
        marks: list[Shape] = []
        for name, css in self.names:
            marks += [circle(f"x-dot {css}", -9, -9, 3.5, data_dot=name), text("s12 b halo x-text", -99, -9, "", data_text=name)]
        return group("", *marks, data_reads=number, data_top=self.top, data_foot=self.bottom)


def _cross() -> Shape:
    tag = group("", rect("x-tag", -26, 0, 52, 18), text("s12 b mid onbrass", None, 13, "", data_angle=""), data_tag="")
    return group("", shape("path", "x-line", data_line="", d="M-9 0V0"), tag, data_cross="")


@dataclass(frozen=True)
class Plots:
    """Plots over one axis in a view box of `width` x `height`. Each plot's `scale` gives pixel = first + second * value."""

    width: float
    height: float
    left: float
    right: float
    plots: tuple[Plot, ...]
    x_ticks: tuple[tuple[float, str], ...]
    told: Figures

    def figures(self) -> Figures:
        """The curves at the marks of the axis, and where each is highest."""
        return self.told

    def shape(self, *, axis: str = "crank angle", crosshair: bool = False) -> Shape:
        """The whole drawing; `axis` names what runs across."""
        drawn: list[Shape] = []
        for number, plot in enumerate(self.plots):
            drawn += plot.shapes(self.left, self.right, self.x_ticks)
            if number == len(self.plots) - 1:
                drawn += [
                    text(f"s12 {'end' if x > self.width - 14 else 'mid'} i2 xt", x, plot.bottom, words, dy="1.4em")
                    for x, words in self.x_ticks
                ]
            if crosshair:
                drawn.append(plot.readers(number))
        said = f"{'; '.join(plot.title for plot in self.plots)} over the {axis}"
        floor = [hatch("floor", "p-floorline", 6, ground="r-lostbg")] if any(plot.floors for plot in self.plots) else []
        box = f"0 0 {self.width} {self.height}"
        return drawing("plots", box, said, *drawn, *([_cross()] if crosshair else []), patterns=floor)


def _number(value: float, step: float) -> str:
    decimals = next((places for places in range(5) if abs(round(step, places) - step) < 1e-9 * step), 5)
    text = f"{value:.{decimals}f}"
    text = text.lstrip("-") if float(text) == 0 else text
    return text.replace("-", "\N{MINUS SIGN}")


_OFF = 0.2  # pixels that a drawn line may run beside its curve


def _kept(x: Array, y: Array) -> NDArray[np.intp]:
    """Which points a polyline needs to stay within `_OFF` of all of them: of every stretch of eight, and then of two, only its ends where the rest
    lies on the straight between."""
    wanted = np.ones(len(x), dtype=bool)
    for stride in (2, 8):
        whole = (len(x) - 1) // stride
        at = np.arange(whole)[:, None] * stride + np.arange(stride + 1)[None, :]
        px, py = x[at], y[at]
        dx, dy = px[:, -1] - px[:, 0], py[:, -1] - py[:, 0]
        off = np.abs(dx[:, None] * (py - py[:, :1]) - dy[:, None] * (px - px[:, :1])) / np.maximum(np.hypot(dx, dy), 1e-9)[:, None]
        straight = off.max(axis=1) <= _OFF
        wanted[at[straight][:, 1:-1]] = False
    return np.flatnonzero(wanted)


def _points(along: list[float], up: list[float]) -> str:
    if len(along) < 3:
        return " ".join(f"{x:g},{y:g}" for x, y in zip(along, up, strict=True))
    return " ".join(f"{along[n]:g},{up[n]:g}" for n in _kept(np.asarray(along), np.asarray(up)))


def _at(stretches: list[Curve], x: float) -> tuple[float, float] | None:
    """Value and half width of a curve at a place, from whichever of its stretches covers it."""
    for curve in stretches:
        if curve.x and min(curve.x[0], curve.x[-1]) <= x <= max(curve.x[0], curve.x[-1]):
            order = slice(None) if curve.x[0] <= curve.x[-1] else slice(None, None, -1)
            along = curve.x[order]
            return float(np.interp(x, along, curve.y[order])), float(np.interp(x, along, curve.band[order])) if curve.band else 0.0
    return None


def _figures(data: list[PlotData], x_ticks: list[tuple[float, str]], steps: list[float]) -> Figures:
    """A column for each named curve, a row for each mark of the axis; few marks are halved. `steps` are those of the plots' own marks."""
    marks = list(x_ticks)
    if len(marks) < 7:
        between = [(a + b) / 2.0 for (a, _), (b, _) in pairwise(x_ticks)]
        marks = sorted([*marks, *((x, f"{x:,g}".replace("-", "\N{MINUS SIGN}")) for x in between)])
    heads: list[str] = []
    columns: list[tuple[list[Curve], float]] = []
    for plot, step in zip(data, steps, strict=True):
        of: dict[str, list[Curve]] = {}
        for curve in plot.curves:
            of.setdefault(curve.called, []).append(curve)
        for called, stretches in of.items():
            heads.append(f"{plot.title}, {plot.unit}" + (f": {called}" if called else ""))
            columns.append((stretches, step / 50.0))
    rows = []
    for x, words in marks:
        cells = []
        for stretches, fine in columns:
            found = _at(stretches, x)
            cells.append("" if found is None else _number(found[0], fine) + (f" ± {_number(found[1], fine)}" if found[1] else ""))
        rows.append((words, *cells))
    ends = []
    for name, end in (("highest", max), ("lowest", min)):
        cells = []
        for lines, fine in columns:
            y, x = end(((y, x) for curve in lines for x, y in zip(curve.x, curve.y, strict=True)), default=(math.nan, math.nan))
            where = f"{x:,.0f}" if abs(x) >= 1000 else f"{x:.4g}"
            cells.append("" if math.isnan(y) else f"{_number(y, fine)} at {where}".replace("-", "\N{MINUS SIGN}"))
        ends.append((name, *cells))
    return Figures(("", *heads), (*rows, *ends))


def draw(
    data: list[PlotData], low: float, high: float, x_ticks: list[tuple[float, str]], *, width: float = 420.0, each: float = 132.0
) -> Plots:
    """Place the plots below one another; each y axis covers its curves and zero."""
    across = Axis(low, high, _LEFT, width - _RIGHT)
    plots, top, steps = [], 24.0, []
    for plot in data:
        each = plot.height or each
        values = [value for curve in plot.curves for value in curve.y] + [0.0] + [y for _, y, _ in plot.dots] + [y for _, y in plot.squares]
        for curve in plot.curves:
            if curve.band:
                middle, wide = np.asarray(curve.y), np.asarray(curve.band)
                values += [float((middle + wide).max()), float((middle - wide).min())]
        bottom_value, top_value = min(values), max(values)
        pad = (top_value - bottom_value) * 0.08 or 1.0
        up = Axis(bottom_value - (pad if bottom_value < 0 else 0), top_value + pad, top + each, top)
        step = round_step(up.high - up.low, 5)
        steps.append(step)
        first = math.ceil(up.low / step)
        ticks = tuple((up.at(n * step), _number(n * step, step)) for n in range(first, math.floor(up.high / step) + 1))
        lines, labels, bands = [], [], []
        for curve in plot.curves:
            if curve.css:
                lines.append((_points(across.row(curve.x), up.row(curve.y)), curve.css))
            if curve.band:
                middle, wide, along = np.asarray(curve.y), np.asarray(curve.band), across.row(curve.x)
                upper, lower = up.row(middle + wide), up.row(middle - wide)
                bands.append(_points(along + along[::-1], upper + lower[::-1]))
            if curve.label:
                peak = max(range(len(curve.y)), key=curve.y.__getitem__)
                labels.append((across.at(curve.x[peak]), up.at(curve.y[peak]) - 5, curve.label, curve.css))
        along, heights = across.row([x for x, _, _ in plot.dots]), up.row([y for _, y, _ in plot.dots])
        dots = tuple(zip(along, heights, (dropped for _, _, dropped in plot.dots), strict=True))
        slope = (up.end - up.start) / (up.high - up.low)
        scale = (round(up.start - up.low * slope, 4), round(slope, 6))
        names = tuple((curve.name, curve.css) for curve in plot.curves if curve.name)
        plots.append(
            Plot(
                title=plot.title,
                unit=plot.unit,
                top=top,
                bottom=top + each,
                zero=up.at(0.0),
                lines=tuple(lines),
                ticks=ticks,
                labels=tuple(labels),
                bands=tuple(bands),
                dots=dots,
                names=names,
                scale=scale,
                floors=tuple((up.at(value), words) for value, words in sorted(plot.floors)),
                squares=tuple((across.at(x), up.at(y)) for x, y in plot.squares),
            )
        )
        top += each + _GAP
    placed = tuple((across.at(x), text) for x, text in x_ticks)
    return Plots(width, top + 6, _LEFT, width - _RIGHT, tuple(plots), placed, _figures(data, x_ticks, steps))
