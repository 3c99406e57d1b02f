"""The timing dial: 720 degrees of crank on one turn, overlap TDC at the top, the fired TDC at the bottom."""

import math
from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Figures, Shape, circle, drawing, path, text

_CENTRE, _RIM = 170.0, 132.0
_RADII = {
    ("proposed", "intake"): 120.0, ("proposed", "exhaust"): 111.0, ("b", "intake"): 102.0, ("b", "exhaust"): 102.0,
    ("c", "intake"): 94.0, ("c", "exhaust"): 94.0, ("stock", "intake"): 84.0, ("stock", "exhaust"): 75.0,
}  # fmt: skip


@dataclass(frozen=True)
class Open:
    """When one valve is open, crank degrees from overlap TDC; `role` stock, proposed, b or c.

    `advance` and `retard` are how far a phaser moves both ends, degrees.
    """

    role: str
    side: str
    start: float
    end: float
    opens: str
    shuts: str
    advance: float = 0.0
    retard: float = 0.0


@dataclass(frozen=True)
class Arc:
    """An arc as a path, with its classes."""

    path: str
    css: str


@dataclass(frozen=True)
class EventLabel:
    """An event's text outside the rim, and the tick that leads to it."""

    x: float
    y: float
    css: str
    text: str
    second: str
    tick: tuple[float, float, float, float]


@dataclass(frozen=True)
class Dial:
    """The dial laid out in a view box of 340 x 340."""

    centre: float
    rim: float
    arcs: tuple[Arc, ...]
    wedge: str
    ticks: tuple[tuple[float, float, float, float], ...]
    labels: tuple[EventLabel, ...]
    overlap: str
    stock_overlap: str
    told: Figures

    def figures(self) -> Figures:
        """When each valve opens and closes, and the overlaps."""
        return self.told

    def shape(self) -> Shape:
        """The whole drawing."""
        middle = self.centre
        drawn = [circle("sheet edge", middle, middle, self.rim)]
        if self.wedge:
            drawn.append(path("d-wedge", self.wedge))
        drawn += [path("ink", f"M{x1} {y1}L{x2} {y2}") for x1, y1, x2, y2 in self.ticks]
        drawn += [path(arc.css, arc.path) for arc in self.arcs]
        for label in self.labels:
            x1, y1, x2, y2 = label.tick
            drawn.append(path("dim", f"M{x1} {y1}L{x2} {y2}"))
            drawn.append(text(f"s12 halo {label.css}", label.x, label.y, label.text))
            drawn.append(text(f"s12 b halo {label.css}", label.x, label.y, label.second, dy="1.15em"))
        drawn += [circle("sheet hair", middle, middle, 56), text("s12 mid i2", middle, 176, "overlap", dy="-2.1em")]
        drawn += [
            text("big mid bb", middle, 176, self.overlap, dy="0.35em"),
            text("s12 mid i3", middle, 176, self.stock_overlap, dy="2.2em"),
        ]
        drawn += [text("b mid", middle, -16, "TDC"), text("b", 306, 174, "BDC", dx=6), text("b end", 34, 174, "BDC", dx=-6)]
        return drawing(
            "dial", "-92 -34 524 384", "Timing dial: 720 degrees of crank, at 1 mm lift", *drawn, text("b mid", middle, 322, "TDC, firing")
        )


def point(angle: float, radius: float) -> tuple[float, float]:
    """Place of a crank angle (degrees from overlap TDC) on a circle: half a degree of turn for each, clockwise from the top."""
    turn = math.radians(angle / 2.0)
    return round(_CENTRE + radius * math.sin(turn), 1), round(_CENTRE - radius * math.cos(turn), 1)


def _arc(start: float, end: float, radius: float) -> str:
    (x1, y1), (x2, y2) = point(start, radius), point(end, radius)
    large = 1 if (end - start) / 2.0 > 180.0 else 0
    return f"M{x1} {y1}A{radius} {radius} 0 {large} 1 {x2} {y2}"


def _label(angle: float, text: str, css: str, *, parted: bool) -> EventLabel:
    x, y = point(angle, _RIM + 15)
    inner, outer = point(angle, 112.0), point(angle, _RIM + 5)
    # at the top two labels meet: what comes first stands to the left of its tick, what comes later to the right; `parted` where the exhaust closes first
    near = "end" if ("opens" in text) is not parted else ""
    anchor = near if abs(x - _CENTRE) < 30 and y < _CENTRE else ("end" if x < _CENTRE else "")
    # what opens or shuts on one line, by how much on the next
    first, _, second = text.partition("|")
    return EventLabel(x, round(y + (4 if y > _CENTRE else -8), 1), f"{anchor} {css}", first, second, (*inner, *outer))


def draw(valves: list[Open], overlap: float, stock_overlap: float) -> Dial:
    """Lay out arcs, overlap wedge and event labels; overlaps in crank degrees, negative when there is none."""
    arcs = tuple(Arc(_arc(valve.start, valve.end, _RADII[valve.role, valve.side]), f"d-{valve.role} d-{valve.side}") for valve in valves)
    for valve in valves:
        if valve.advance or valve.retard:
            radius = _RADII[valve.role, valve.side] + 6.5
            ends = ((valve.start - valve.advance, valve.start + valve.retard), (valve.end - valve.advance, valve.end + valve.retard))
            arcs += tuple(Arc(_arc(start, end, radius), "d-phaser") for start, end in ends)
    proposed = {valve.side: valve for valve in valves if valve.role == "proposed"}
    wedge = ""
    if overlap > 0.0:
        start, end = proposed["intake"].start, proposed["exhaust"].end
        (x1, y1), (x2, y2) = point(start, _RIM - 4), point(end, _RIM - 4)
        wedge = f"M{_CENTRE} {_CENTRE}L{x1} {y1}A{_RIM - 4} {_RIM - 4} 0 0 1 {x2} {y2}z"
    labels = [
        _label(valve.start, valve.opens, "blue" if valve.side == "intake" else "", parted=overlap < 0.0) for valve in proposed.values()
    ]
    labels += [
        _label(valve.end, valve.shuts, "blue" if valve.side == "intake" else "", parted=overlap < 0.0) for valve in proposed.values()
    ]
    ticks = []
    for angle in range(-360, 360, 30):
        inner = point(angle, _RIM - (6 if angle % 90 == 0 else 3))
        ticks.append((*inner, *point(angle, _RIM)))
    rows = [(f"{valve.role} {valve.side}", *(" ".join(words.split("|")) for words in (valve.opens, valve.shuts))) for valve in valves]
    rows.append(("overlap", f"{overlap:.0f}°", f"stock {stock_overlap:.0f}°"))
    return Dial(
        centre=_CENTRE, rim=_RIM, arcs=arcs, wedge=wedge, ticks=tuple(ticks), labels=tuple(labels), overlap=f"{overlap:.0f}°", stock_overlap=f"stock {stock_overlap:.0f}°",
told=Figures(("valve", "opens", "closes"), tuple(rows)),
    )  # fmt: skip
