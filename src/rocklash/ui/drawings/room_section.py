"""Cylinder, crown with its pockets and both valves in section, to scale; the page moves piston and valves with the crank."""

import math
from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, drawing, group, hatch, path, rect, shape, text


@dataclass(frozen=True)
class SectionValve:
    """One valve, mm and degrees; `height` of the head's lowest edge above the gasket face, `pocket` depth under the crown's rim."""

    side: str
    angle: float
    offset: float
    height: float
    head: float
    margin: float
    stem: float
    pocket: float
    pocket_angle: float
    pocket_across: float


@dataclass(frozen=True)
class SectionData:
    """Bore, deck and gasket in mm (deck positive below), and the valves."""

    bore: float
    deck: float
    gasket: float
    valves: tuple[SectionValve, ...]


@dataclass(frozen=True)
class ValveDrawn:
    """A valve as drawn, shut: outline, axis, and the way (pixels) that a millimetre of lift moves it. `guide` stands still."""

    side: str
    css: str
    outline: str
    axis: str
    seat: str
    guide: str
    way: tuple[float, float]


@dataclass(frozen=True)
class RoomSection:
    """The section laid out. `scale` pixels a millimetre."""

    width: float
    height: float
    scale: float
    walls: str
    roof: str
    gasket: tuple[float, float, float, float]
    piston: str
    rings: tuple[tuple[float, float, float], ...]
    valves: tuple[ValveDrawn, ...]

    def shape(self) -> Shape:
        """The whole drawing; piston and valves are groups that the page moves."""
        drawn = [path("g-cast", outline, fill="url(#cast)") for outline in (self.roof, self.walls)]
        drawn.append(rect("k-brass", *self.gasket, fill_opacity="0.9"))
        rings = [path("k-dark", f"M{x1} {y}h5v4h-5zM{x2} {y}h-5v4h5z") for x1, y, x2 in self.rings]
        crown = path("g-pistonh", self.piston, fill="url(#crownhatch)")
        drawn.append(group("", path("g-piston", self.piston), crown, *rings, data_piston=""))
        drawn += [path(css, outline) for valve in self.valves for css, outline in (("k-steel", valve.seat), ("k-guide", valve.guide))]
        for valve in self.valves:
            outline = (path(f"g-valve {valve.css}", valve.outline), path("k-axis", valve.axis))
            drawn.append(group("", *outline, data_valve_side=valve.side, data_x=valve.way[0], data_y=valve.way[1]))
        for side, x, name, lift, dx in (
            ("exhaust", 8.0, "s14 b halo", "s12 halo", None),
            ("intake", self.width, "s14 b end blue halo", "s12 end halo", -8),
        ):
            now = shape("tspan", "", data_lift=side)
            drawn += [text(name, x, 16, side, dx=dx), text(lift, x, 36, "lift ", now, dx=dx)]
        said = "Section of the cylinder with crown, pockets and both valves, to scale. The figures are beside it."
        patterns = [hatch("cast", "k-hatch"), hatch("crownhatch", "k-hatch", turn=-45)]
        return drawing("roomsection", f"0 0 {self.width} {self.height}", said, *drawn, patterns=patterns)


_STEM, _ABOVE = 64.0, 36.0  # mm of stem drawn above the head, and of head shown above the deck
_BELOW = 20.0  # mm of piston shown below the deck


def _points(pairs: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in pairs) + "Z"


class _Place:
    """From mm across and up to pixels."""

    def __init__(self, middle: float, deck: float, scale: float) -> None:
        self.middle, self.deck, self.scale = middle, deck, scale

    def at(self, across: float, up: float) -> tuple[float, float]:
        return self.middle + across * self.scale, self.deck - up * self.scale


def _valve(valve: SectionValve, gasket: float, place: _Place) -> tuple[ValveDrawn, tuple[float, float]]:
    """The valve shut, and where the outer edge of its seat meets the roof (mm)."""
    sign = 1.0 if valve.side == "intake" else -1.0
    a, r = math.radians(valve.angle), valve.head / 2.0
    # local: s up the stem, t outwards; outwards the face falls by the angle
    x0, z0 = sign * valve.offset, gasket + valve.height + r * math.sin(a)

    def out(t: float, s: float) -> tuple[float, float]:
        return place.at(x0 + sign * (t * math.cos(a) + s * math.sin(a)), z0 - t * math.sin(a) + s * math.cos(a))

    half, m = valve.stem / 2.0, valve.margin
    tulip = [(r, 0.0), (r, m), (0.86 * r, m + 0.14 * r), (0.5 * r, m + 0.26 * r), (half + 0.10 * r, m + 0.48 * r), (half, m + 0.9 * r)]
    line = [(-t, s) for t, s in tulip] + [(-half, _STEM + m)] + [(half, _STEM + m)] + [(t, s) for t, s in reversed(tulip)]
    drawn = [out(t, s) for t, s in line]
    foot, top = out(0.0, -4.0), out(0.0, _STEM + m + 2.0)
    seats = [
        [(side * r * 0.985, m * 0.4), (side * (r + 2.4), m * 0.4), (side * (r + 2.0), m + 4.0), (side * (r - 1.6), m + 1.2)]
        for side in (1.0, -1.0)
    ]
    seat = "".join(_points([out(t, s) for t, s in ring]) for ring in seats)
    way = (-sign * math.sin(a) * place.scale, math.cos(a) * place.scale)
    guide = "".join(
        _points(
            [
                out(side * half, m + 0.95 * r),
                out(side * (half + 2.6), m + 0.95 * r),
                out(side * (half + 2.6), _STEM),
                out(side * half, _STEM),
            ]
        )
        for side in (1.0, -1.0)
    )
    edge = (x0 + sign * (r + 2.4) * math.cos(a), z0 - (r + 2.4) * math.sin(a) + m * 0.4)
    css = "v-in" if valve.side == "intake" else "v-ex"
    axis = f"M{foot[0]:.1f} {foot[1]:.1f}L{top[0]:.1f} {top[1]:.1f}"
    return ValveDrawn(valve.side, css, _points(drawn), axis, seat, guide, (round(way[0], 3), round(way[1], 3))), edge


def _crown(data: SectionData) -> list[tuple[float, float]]:
    """The crown from left to right with its pockets, mm across and up, piston at its top."""
    rim = -data.deck
    half = data.bore / 2.0 - 0.25
    line = [(-half, rim)]
    for valve in sorted(data.valves, key=lambda each: each.side == "intake"):
        if valve.pocket <= 0.0:
            continue
        sign = 1.0 if valve.side == "intake" else -1.0
        middle = sign * valve.offset
        tilt = math.tan(math.radians(valve.pocket_angle)) * sign
        wide = valve.pocket_across / 2.0 * math.cos(math.radians(valve.pocket_angle))
        left, right = max(middle - wide, -half), min(middle + wide, half)
        left = max(left, line[-1][0] + 0.5)
        floor = [min(rim, rim - valve.pocket - (x - middle) * tilt) for x in (left, right)]
        line += [(left, rim), (left, floor[0]), (right, floor[1]), (right, rim)]
    return [*line, (half, rim)]


def draw(data: SectionData, *, width: float = 460.0) -> RoomSection:
    """Fit the bore into the width; the height follows."""
    scale = (width - 24.0) / (data.bore + 14.0)
    height = round((_ABOVE + _BELOW) * scale, 1)
    place = _Place(width / 2.0, height - _BELOW * scale, scale)
    half, left, right = data.bore / 2.0, 6.0, width - 6.0
    deck = place.at(0.0, 0.0)[1]
    walls = "".join(
        _points([(edge, deck), (place.at(side * half, 0.0)[0], deck), (place.at(side * half, 0.0)[0], height), (edge, height)])
        for side, edge in ((-1.0, left), (1.0, right))
    )
    drawn = [_valve(valve, data.gasket, place) for valve in data.valves]
    gasket_top = place.at(0.0, data.gasket)[1]
    edges = {valve.side: edge for valve, (_, edge) in zip(data.valves, drawn, strict=True)}
    # the roof runs from the gasket face at the bore up to each seat and over the plug between the valves
    inner = max((edge[1] for edge in edges.values()), default=4.0) + max((valve.head for valve in data.valves), default=20.0) * 0.22
    roof = [(left, gasket_top), place.at(-half, data.gasket)]
    for side in ("exhaust", "intake"):
        if side in edges:
            roof.append(place.at(*edges[side]))
        if side == "exhaust":
            roof.append(place.at(0.0, inner + 2.0))
    roof += [place.at(half, data.gasket), (right, gasket_top), (right, 0.0), (left, 0.0)]
    crown = [place.at(x, z) for x, z in _crown(data)]
    piston = _points([*crown, (crown[-1][0], height + 60.0), (crown[0][0], height + 60.0)])
    rings = tuple((crown[0][0], place.at(0.0, -data.deck - down)[1], crown[-1][0]) for down in (3.5, 7.5))
    return RoomSection(
        width=width, height=height, scale=round(scale, 4), walls=walls, roof=_points(roof), gasket=(left, gasket_top, right - left, max(deck - gasket_top, 1.0)), piston=piston, rings=rings,
        valves=tuple(valve for valve, _ in drawn),
    )  # fmt: skip
