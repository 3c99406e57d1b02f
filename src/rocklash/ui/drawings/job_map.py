"""The head from above while it is built: what is done at each valve, which one is now, and the numbers of findings."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, circle, drawing, path, rect, text


@dataclass(frozen=True)
class BuiltValve:
    """One valve: `state` done, now or ahead; `parts` what belongs to it, each done or not; `told` a word in its circle; numbers of its findings."""

    name: str
    side: str
    cylinder: int
    state: str
    parts: tuple[bool, ...] = ()
    told: str = ""
    findings: tuple[int, ...] = ()


def _valve(valve: BuiltValve, x: float, y: float, radius: float, *, up: bool) -> list[Shape]:
    css = {"done": "h-in", "now": "jm-now", "ahead": "h-unread"}[valve.state]
    drawn = [circle(css, x, y, radius)]
    if valve.state == "done" and not valve.told:
        drawn.append(path("jm-tick", f"M{x - 9} {y}l6 7 12-14"))
    if valve.told or valve.state != "done":
        drawn.append(
            text("s15 b mid" if valve.state != "ahead" else "s13 i2 mid", x, y + 5, valve.told or ("now" if valve.state == "now" else ""))
        )
    squares = y - radius - 13 if up else y + radius + 5
    for number, done in enumerate(valve.parts):
        left = x + 9.0 * (number - (len(valve.parts) - 1) / 2.0) - 3.5
        drawn.append(rect("jm-part-done" if done else "jm-part", left, squares, 7, 7))
    drawn.append(text("s12 mid", x, y - radius - 20 if up else y + radius + 28, valve.name))
    for number, finding in enumerate(valve.findings[:2]):
        left = x + radius - 12 + 18 * number
        drawn += [rect("jm-finding", left, y - radius - 2, 16, 16), text("s12 b mid", left + 8, y - radius + 10, str(finding))]
    return drawn


def draw(valves: list[BuiltValve], held: dict[int, str], spoken: str) -> Shape:
    """The map, 400 wide; `held` tells what holds a cylinder's valves (rope, air), by cylinder."""
    cylinders = sorted({valve.cylinder for valve in valves})
    width, top, bottom = 400.0, 62.0, 202.0
    cell = (width - 24.0) / max(len(cylinders), 1)
    most = max((sum(v.side == w.side and v.cylinder == w.cylinder for w in valves) for v in valves), default=1)
    spread = min(cell / most, 78.0)
    radius = max(min(27.0, spread / 2.0 - 3.0), 9.0)
    drawn = [
        rect("h-cast", 2, top - 42, width - 4, bottom - top + 76, rx=6),
        path("h-axis", f"M2 {(top + bottom) / 2}H{width - 2}"),
    ]
    for number, cylinder in enumerate(cylinders):
        x = round(12.0 + cell * (number + 0.5), 1)
        css = "jm-held" if held.get(cylinder) else "sheet edge"
        drawn += [circle(css, x, (top + bottom) / 2, 14), text("s15 b mid", x, (top + bottom) / 2 + 5, str(cylinder))]
        if held.get(cylinder):
            drawn.append(text("s12 b tslim", x + 18, (top + bottom) / 2 + 4, held[cylinder]))
    for valve in valves:
        mates = [each for each in valves if each.side == valve.side and each.cylinder == valve.cylinder]
        x = 12.0 + cell * (cylinders.index(valve.cylinder) + 0.5) + (mates.index(valve) - (len(mates) - 1) / 2.0) * spread
        up = valve.side == "exhaust"
        drawn += _valve(valve, round(x, 1), top + radius - 4 if up else bottom - radius, radius, up=up)
    return drawing("jobmap", f"0 0 {width} 250", spoken, *drawn)
