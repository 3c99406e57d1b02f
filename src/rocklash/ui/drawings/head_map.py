"""The head from above: each valve where it sits, with its reading, state, limits bar and what to do."""

from dataclasses import dataclass
from itertools import pairwise

from rocklash.ui.drawings import shim_arrows
from rocklash.ui.drawings.scale import Axis
from rocklash.ui.drawings.shapes import Shape, circle, drawing, group, path, rect, shape, text
from rocklash.ui.drawings.shim_arrows import MoveData, MoveDrawn


@dataclass(frozen=True)
class ValveData:
    """One valve for the map. Lengths in the unit shown; `state` is unread, in range, tight, loose or undecided; `lit` to be
    measured at this stop of the crank."""

    pk: int
    name: str
    side: str
    cylinder: int
    state: str
    figure: str
    interval: str
    low: float | None
    high: float | None
    low_after: float | None
    high_after: float | None
    least: float
    most: float
    aim: float
    shim_line: str
    word: str
    url: str
    current: bool
    lit: bool = False


@dataclass(frozen=True)
class Bar:
    """The limits bar of a valve: band, aim, reading block and block after the change, in pixels."""

    y: float
    band: tuple[float, float]
    aim: float
    reading: tuple[float, float, str] | None
    after: tuple[float, float] | None
    start: float
    end: float

    def shapes(self) -> list[Shape]:
        """The bar about a middle line at zero."""
        drawn = [path("hair", f"M{self.start} 0H{self.end}"), rect("h-band", self.band[0], -4.5, self.band[1], 9)]
        drawn.append(path("h-aim", f"M{self.aim}-7v14"))
        if self.reading:
            x, width, css = self.reading
            drawn.append(rect(css, x, -4.5, width, 9))
        if self.after:
            drawn.append(rect("h-after", self.after[0], -6.5, self.after[1], 13))
        return drawn

    def shape(self) -> Shape:
        """The bar as a drawing of its own."""
        return drawing("limits", f"{self.start} 0 92 34", "", group("", *self.shapes(), transform="translate(0 15)"))


@dataclass(frozen=True)
class ValveMark:
    """A valve as drawn."""

    data: ValveData
    x: float
    y: float
    row: int
    column: int
    circle: str
    mark: str
    bar: Bar
    lines: tuple[tuple[float, str, str], ...]
    spoken: str

    def _mark(self, gauge: "Gauge") -> list[Shape]:
        shift, square = f"translate(0 {gauge.mark_shift})", f"translate(-5 {gauge.square_shift})"
        marks = {
            "disc": shape("circle", "m-holds", r=5.5, transform=shift),
            "down": path("m-shortf", "M-7-5h14L0 6z", transform=shift),
            "up": path("m-shortf", "M-7 6h14L0-5z", transform=shift),
            "square": shape("rect", "m-unproven", width=10, height=10, transform=square),
        }
        return [marks[self.mark]] if self.mark else []

    def _disc(self, gauge: "Gauge") -> list[Shape]:
        data, drawn = self.data, []
        if data.lit:
            drawn.append(shape("circle", "h-lit", r=gauge.lamp))
        if data.current:
            drawn.append(shape("circle", "h-now", r=gauge.ring))
        drawn += [shape("circle", self.circle, r=gauge.radius), shape("circle", "h-ring", r=gauge.ring), *self._mark(gauge)]
        if not data.figure:
            return [*drawn, text("s12 i2 mid", None, None, "unread", dy=4)]
        drawn.append(text(f"{'s15' if gauge.small else 's21'} bb mid", None, None, data.figure, dy=6 if gauge.small else 7))
        return drawn if gauge.small else [*drawn, text("s12 i2 mid", None, None, data.interval, dy=22)]

    def shapes(self, gauge: "Gauge", action: str) -> list[Shape]:
        """The valve as a link that shows it, and beside it, but not on a phone, its words and its bar."""
        data = self.data
        disc = group("", *self._disc(gauge), transform=f"translate({self.x} {self.y})")
        link = shape(
            "a", "", (disc,), href=data.url, hx_get=f"{action}{data.url}", hx_target="#bench", hx_swap="innerMorph", data_valve=data.pk,
            data_row=self.row, data_column=self.column, aria_label=self.spoken, aria_current="true" if data.current else None,
            id=f"valve-{'n' if gauge.phone else 'w'}-{data.pk}",
        )  # fmt: skip
        if gauge.phone:
            return [link]
        word = {"in range": "tholds", "unread": "i2"}.get(data.state, "tshort")
        css = {"b": "mid b", "word": f"mid s12 {word}"}
        words = [text(css.get(kind, "mid"), self.x, y, said) for y, said, kind in self.lines]
        return [link, *words, group("", *self.bar.shapes(), transform=f"translate(0 {self.bar.y})")]


@dataclass(frozen=True)
class Gauge:
    """What the size of the valves decides, the same for every valve of a map."""

    radius: float
    phone: bool

    @property
    def lamp(self) -> float:
        """Radius of the dotted ring round a valve to be measured at this stop."""
        return self.radius + (3.5 if self.phone else 9.0)

    @property
    def number(self) -> float:
        """Radius of a cylinder's number."""
        return 13.0 if self.phone else 20.0

    @property
    def ball(self) -> float:
        """Radius of the letter of a move."""
        return 8.0 if self.phone else 10.0

    @property
    def small(self) -> bool:
        """Whether the circles take only the smaller figures."""
        return self.radius < 33.0

    @property
    def ring(self) -> float:
        """Radius of the ring round the valve at hand."""
        return self.radius + 5.0

    @property
    def mark_shift(self) -> float:
        """Where a mark stands in its circle."""
        return round(-self.radius * 0.58, 1)

    @property
    def square_shift(self) -> float:
        """The same for a square, drawn from its corner."""
        return round(-self.radius * 0.58 - 5, 1)


@dataclass(frozen=True)
class HeadMap:
    """The whole map; `bores` are (x, cylinder), `ties` the rockers that work several valves (y, from x, to x)."""

    width: float
    height: float
    valves: tuple[ValveMark, ...]
    bores: tuple[tuple[float, int], ...]
    middle: float
    top: float
    bottom: float
    gauge: Gauge
    bore_radius: float
    moves: tuple[MoveDrawn, ...] = ()
    ties: tuple[tuple[float, float, float], ...] = ()

    def shape(self, action: str) -> Shape:
        """The whole drawing; valves are fetched from `action`."""
        cast, middle = self.width - 4, self.middle
        drawn = [rect("h-cast", 2, self.top, cast, self.bottom - self.top, rx=6), path("h-axis", f"M2 {middle}h{cast}")]
        for x, number in self.bores:
            drawn += [circle("h-bore", x, middle, self.bore_radius), circle("sheet edge", x, middle, self.gauge.number)]
            drawn.append(text("s15 b mid", x, middle, str(number), dy=5))
        if not self.gauge.phone:
            drawn += [text("s12 i2", 8, self.top, "exhaust", dy=16), text("s12 i2", 8, self.bottom, "intake", dy=-8)]
        drawn += [path("h-tie", f"M{start} {y}H{end}") for y, start, end in self.ties]
        drawn += [each for valve in self.valves for each in valve.shapes(self.gauge, action)]
        drawn += [each for move in self.moves for each in move.shapes(self.gauge.ball)]
        return drawing("headmap", f"0 0 {self.width} {self.height}", "Head from above", *drawn, role="group")


_CIRCLE = {"unread": "h-unread", "in range": "h-in", "tight": "h-out", "loose": "h-out", "undecided": "h-undec"}
_MARK = {"in range": "disc", "tight": "down", "loose": "up", "undecided": "square"}


def _bar(data: ValveData, x: float, y: float, reach: float) -> Bar:
    width = data.most - data.least
    axis = Axis(data.least - 1.6 * width, data.most + 1.6 * width, x - reach, x + reach)

    def block(low: float, high: float) -> tuple[float, float]:
        left, right = (min(max(axis.at(value), axis.start), axis.end) for value in (low, high))
        return (left - 2.0, 4.0) if right - left < 4.0 else (left, round(right - left, 1))

    reading = after = None
    if data.low is not None and data.high is not None:
        css = {"in range": "h-read-in", "undecided": "h-read-un"}.get(data.state, "h-read")
        reading = (*block(data.low, data.high), css)
    if data.low_after is not None and data.high_after is not None and data.state in {"tight", "loose", "unread"}:
        after = block(data.low_after, data.high_after)
    left, right = axis.at(data.least), axis.at(data.most)
    return Bar(y, (left, round(right - left, 1)), axis.at(data.aim), reading, after, axis.start, axis.end)


def _ties(marks: list[ValveMark], shared: tuple[str, ...], ring: float) -> tuple[tuple[float, float, float], ...]:
    found: dict[tuple[str, int], list[ValveMark]] = {}
    for mark in marks:
        if mark.data.side in shared:
            found.setdefault((mark.data.side, mark.data.cylinder), []).append(mark)
    pairs = [(one, other) for mates in found.values() for one, other in pairwise(mates)]
    return tuple((one.y, round(one.x + ring, 1), round(other.x - ring, 1)) for one, other in pairs)


def draw(valves: list[ValveData], *, phone: bool = False, moves: tuple[MoveData, ...] = (), shared: tuple[str, ...] = ()) -> HeadMap:
    """Place every valve: exhaust on top, cylinders from left to right. Width 780, or 390 on a phone. `moves` are drawn as arrows, and on sides
    that are `shared` the one rocker over the valves of a cylinder."""
    cylinders = sorted({valve.cylinder for valve in valves})
    width = 390.0 if phone else 780.0
    usual = 27.0 if phone else 37.0
    cell = (width - (16 if phone else 48)) / max(len(cylinders), 1)
    most = max((sum(v.side == w.side and v.cylinder == w.cylinder for w in valves) for v in valves), default=1)
    spread = min(cell / most, 3.4 * usual)
    radius = min(usual, spread / 2 - 3)
    narrow = spread < 84.0  # no room for "2.500 → 2.300" beside its neighbour: only the new size is told
    bore = min(cell * 0.46, 118.0)
    top, bottom = (8.0, 176.0) if phone else (76.0, 314.0)
    rows = (top + usual + 14, bottom - usual - 14)
    marks = []
    columns = {"exhaust": 0, "intake": 0}
    for valve in valves:
        mates = [other for other in valves if other.side == valve.side and other.cylinder == valve.cylinder]
        index = mates.index(valve)
        centre = (8 if phone else 24) + cell * (cylinders.index(valve.cylinder) + 0.5)
        x = round(centre + (index - (len(mates) - 1) / 2) * spread, 1)
        row = 0 if valve.side == "exhaust" else 1
        y = rows[row]
        bar_y = 53.0 if row == 0 else 337.0
        shim_line = valve.shim_line[valve.shim_line.index("→") :] if narrow and "→" in valve.shim_line else valve.shim_line
        if phone:
            lines: tuple[tuple[float, str, str], ...] = ()
        elif row == 0:
            lines = ((16.0, valve.name, "b"), (33.0, shim_line, ""), (71.0, valve.word, "word"))
        else:
            lines = ((328.0, valve.word, "word"), (364.0, shim_line, ""), (381.0, valve.name, "b"))
        spoken = f"{valve.name}: {f'{valve.figure} {valve.interval}'.strip() + ', ' + valve.word if valve.figure else 'unread'}" + (
            f", {valve.shim_line}" if valve.shim_line else ""
        )
        marks.append(
            ValveMark(
                data=valve,
                x=x,
                y=y,
                row=row,
                column=columns[valve.side],
                circle=_CIRCLE[valve.state],
                mark=_MARK.get(valve.state, ""),
                bar=_bar(valve, x, bar_y, min(46.0, spread / 2 - 4)),
                lines=lines,
                spoken=spoken,
            )
        )
        columns[valve.side] += 1
    bores = tuple((round((8 if phone else 24) + cell * (n + 0.5), 1), number) for n, number in enumerate(cylinders))
    height = 184.0 if phone else 390.0
    place = {mark.data.name: (mark.x, mark.y) for mark in marks}
    middle = (top + bottom) / 2
    gauge = Gauge(round(radius, 1), phone)
    numbers = tuple((x, middle, gauge.number) for x, _ in bores)
    ways = shim_arrows.draw(moves, shim_arrows.Ground(place, gauge.radius, numbers, middle, width, gauge.ball, phone))
    return HeadMap(
        width=width,
        height=height,
        valves=tuple(marks),
        bores=bores,
        middle=middle,
        top=top,
        bottom=bottom,
        gauge=gauge,
        bore_radius=round(bore, 1),
        moves=ways,
        ties=_ties(marks, shared, gauge.lamp + 2.0),
    )
