"""The ways of shims over the head map, as arrows with letters that stand clear of valves, bore numbers and one another."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, circle, path, text

Point = tuple[float, float]
Disc = tuple[float, float, float]


@dataclass(frozen=True)
class MoveData:
    """A shim's way: from a valve (its name) or from outside (empty) into another, lettered; `done` once it was re-checked."""

    source: str
    target: str
    letter: str
    done: bool


@dataclass(frozen=True)
class MoveDrawn:
    """A move as drawn: line and arrow head (empty where the letter itself sits on the valve's rim), and where the letter stands."""

    line: str
    head: str
    x: float
    y: float
    letter: str
    done: bool

    def shapes(self, ball: float) -> list[Shape]:
        """Arrow, and the letter in its ball."""
        arrow = [path("h-move" if self.done else "h-move h-open", self.line), path("h-arrow", self.head)] if self.line else []
        letter = text("s12 b mid onblue", self.x, self.y, self.letter, dy=4.3)
        return [*arrow, circle("h-ball", self.x, self.y, ball), letter]


@dataclass(frozen=True)
class Ground:
    """Where the arrows are drawn: centres of the valves by name, their radius, the discs of the bore numbers, the middle line, the width."""

    valves: dict[str, Point]
    radius: float
    numbers: tuple[Disc, ...]
    middle: float
    width: float
    ball: float
    phone: bool


def _towards(point: Point, other: Point, way: float) -> Point:
    away = math.hypot(other[0] - point[0], other[1] - point[1]) or 1.0
    return point[0] + (other[0] - point[0]) / away * way, point[1] + (other[1] - point[1]) / away * way


def _room(at: Point, taken: Iterable[Disc]) -> float:
    return min((math.hypot(at[0] - x, at[1] - y) - radius for x, y, radius in taken), default=math.inf)


def _arrow(end: Point, seen_from: Point) -> str:
    angle = math.atan2(end[1] - seen_from[1], end[0] - seen_from[0])
    wings = [(end[0] - 9.0 * math.cos(angle + turn), end[1] - 9.0 * math.sin(angle + turn)) for turn in (0.4, -0.4)]
    return f"M{end[0]:.1f} {end[1]:.1f}L{wings[0][0]:.1f} {wings[0][1]:.1f}L{wings[1][0]:.1f} {wings[1][1]:.1f}Z"


def _bends(one: Point, other: Point, ground: Ground) -> list[Point]:
    """Points a curve may lean to, the usual one first: of one row round the wells between, of two rows through the middle of the head."""
    x, y = (one[0] + other[0]) / 2.0, one[1]
    if abs(one[1] - other[1]) < 1.0:
        return [(x, y + (ground.middle - y) * lean) for lean in (1.8, 1.2, 0.7, 2.3)]
    return [(x + aside * ground.radius, ground.middle) for aside in (0.0, 0.7, -0.7, 1.4, -1.4)]


def _between(move: MoveData, ground: Ground, taken: list[Disc]) -> MoveDrawn:
    """A curve from rim to rim, with its letter on it where there is most room; the usual curve where it has room enough."""
    one, other = ground.valves[move.source], ground.valves[move.target]
    best: tuple[float, Point, Point, Point, Point] | None = None
    for bend in _bends(one, other, ground):
        start, end = _towards(one, bend, ground.radius), _towards(other, bend, ground.radius + 3.0)
        for t in (0.5, 0.42, 0.58, 0.34, 0.66, 0.26, 0.74):
            own, mid, far = (1.0 - t) ** 2, 2.0 * t * (1.0 - t), t * t
            spot = own * start[0] + mid * bend[0] + far * end[0], own * start[1] + mid * bend[1] + far * end[1]
            room = min(_room(spot, taken), 1.1 * ground.ball)  # more room than this is no better
            if best is None or room > best[0] + 0.1:
                best = room, spot, start, bend, end
    assert best
    _, (x, y), start, bend, end = best
    line = f"M{start[0]:.1f} {start[1]:.1f}Q{bend[0]:.1f} {bend[1]:.1f} {end[0]:.1f} {end[1]:.1f}"
    return MoveDrawn(line, _arrow(end, bend), round(x, 1), round(y, 1), move.letter, move.done)


def _inwards(move: MoveData, ground: Ground, taken: list[Disc]) -> MoveDrawn:
    """From outside: a short straight arrow, or on a phone only the letter on the rim, on the side that has most room."""
    x2, y2 = ground.valves[move.target]
    down = 1.0 if y2 < ground.middle else -1.0
    reach = ground.radius + (4.0 if ground.phone else ground.ball + 14.0)
    turns = [math.radians(step) for step in range(-75, 76, 15)]
    spots = [(x2 + reach * math.sin(turn), y2 + down * reach * math.cos(turn)) for turn in turns]
    inside = [spot for spot in spots if ground.ball < spot[0] < ground.width - ground.ball]
    x, y = max(inside, key=lambda spot: round(_room(spot, taken), 1))
    if ground.phone:
        return MoveDrawn("", "", round(x, 1), round(y, 1), move.letter, move.done)
    start, end = _towards((x, y), (x2, y2), ground.ball), _towards((x2, y2), (x, y), ground.radius + 3.0)
    line = f"M{start[0]:.1f} {start[1]:.1f}L{end[0]:.1f} {end[1]:.1f}"
    return MoveDrawn(line, _arrow(end, start), round(x, 1), round(y, 1), move.letter, move.done)


def draw(moves: Iterable[MoveData], ground: Ground) -> tuple[MoveDrawn, ...]:
    """All moves whose valves are on the map, those between two valves first: they can give way least."""
    known = [move for move in moves if move.target in ground.valves]
    drawn: list[MoveDrawn] = []
    balls: list[Disc] = []
    for move in sorted(known, key=lambda each: each.source not in ground.valves):
        others = [(*place, ground.radius) for name, place in ground.valves.items() if name != move.target]
        taken = [*others, *ground.numbers, *balls]
        way = _between(move, ground, taken) if move.source in ground.valves else _inwards(move, ground, taken)
        drawn.append(way)
        balls.append((way.x, way.y, ground.ball))
    return tuple(drawn)
