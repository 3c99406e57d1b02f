"""A camshaft with its caps, and the bolts of a head, from above: in which order they are drawn down."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, circle, drawing, path, rect, text

_WIDTH = 560.0


@dataclass(frozen=True)
class CapMark:
    """One cap: station, place in the order, its load in words, whether it takes the thrust."""

    station: float
    turn: int
    load: str
    thrust: bool


@dataclass(frozen=True)
class LobeMark:
    """One lobe: station, name, and whether it pushes."""

    station: float
    name: str
    pushes: bool


def camshaft(caps: list[CapMark], lobes: list[LobeMark], spoken: str) -> Shape:
    """The shaft, drive end on the left."""
    stations = [cap.station for cap in caps] + [lobe.station for lobe in lobes]
    low, high = min(stations) - 0.2, max(stations) + 0.2
    at = lambda station: round(30.0 + (_WIDTH - 60.0) * (station - low) / (high - low), 1)
    drawn = [rect("fa-shaft", 12, 56, _WIDTH - 24, 14), circle("fa-shaft", 14, 63, 15)]
    for number, lobe in enumerate(lobes):
        x = at(lobe.station)
        drawn.append(rect("fa-pushes" if lobe.pushes else "fa-lobe", x - 8, 46 if lobe.pushes else 52, 16, 34 if lobe.pushes else 22))
        drawn.append(text("s12 mid", x, 100 + 13 * (number % 2), lobe.name))
    for cap in caps:
        x = at(cap.station)
        drawn += [rect("fa-thrust" if cap.thrust else "fa-cap", x - 12, 38, 24, 50, rx=3), circle("sheet edge", x, 63, 11)]
        drawn += [text("s15 b mid", x, 68, str(cap.turn)), text("s12 b mid", x, 30, cap.load)]
        if cap.thrust:
            drawn.append(text("s12 i2 mid", x, 14, "thrust, last"))
    return drawing("fromabove", f"0 0 {_WIDTH} 120", spoken, *drawn)


def head_bolts(bolts: list[tuple[int, int, int]], spoken: str) -> Shape:
    """Bolts by (row, column, place in the order); the numbers are the order."""
    rows, columns = (max(each[place] for each in bolts) + 1 for place in (0, 1))
    step = min((_WIDTH - 80.0) / max(columns - 1, 1), 90.0)
    left = (_WIDTH - step * (columns - 1)) / 2.0
    drawn = [rect("h-cast", left - 34, 8, step * (columns - 1) + 68, 52.0 * (rows - 1) + 60, rx=6)]
    ordered = sorted(bolts, key=lambda each: each[2])
    where = [(left + step * column, 38.0 + 52.0 * row) for row, column, _ in ordered]
    drawn.append(path("fa-way", "M" + "L".join(f"{x} {y}" for x, y in where)))
    for (x, y), (_, _, turn) in zip(where, ordered, strict=True):
        drawn += [circle("sheet edge", x, y, 15), text("s15 b mid", x, y + 5, str(turn))]
    return drawing("fromabove", f"0 0 {_WIDTH} {52.0 * (rows - 1) + 76}", spoken, *drawn)
