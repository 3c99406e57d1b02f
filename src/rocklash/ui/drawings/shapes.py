"""What drawings are made of, and the one writer of them. Numbers are written as they are: a view box has no language."""

from collections.abc import Iterable
from html import escape
from typing import NamedTuple

from django.utils.safestring import SafeString, mark_safe

Attribute = str | float | None
Box = tuple[float, float, float, float]
"""Left, top, width, height."""

_RUNNING = frozenset({"text", "tspan"})
"""What holds words that run on; everywhere else shapes stand on lines of their own, so that two texts are never read as one word."""


class Shape(NamedTuple):
    """An element of a drawing: its tag, its attributes (None is left out), and what is in it."""

    tag: str
    attributes: dict[str, Attribute]
    inside: tuple["Shape | str", ...] = ()


class Figures(NamedTuple):
    """A drawing as a table: what its columns are called, and its rows, the first cell of each naming it."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


def shape(tag: str, css: str, inside: Iterable["Shape | str"] = (), /, **attributes: Attribute) -> Shape:
    """Any element; underscores of attribute names become hyphens."""
    return Shape(tag, {"class": css, **attributes} if css else attributes, tuple(inside))


def path(css: str, d: str, **more: Attribute) -> Shape:
    """A path."""
    return shape("path", css, d=d, **more)


def rect(css: str, x: float, y: float, width: float, height: float, **more: Attribute) -> Shape:
    """A rectangle by its upper left corner."""
    return shape("rect", css, x=x, y=y, width=width, height=height, **more)


def circle(css: str, x: float, y: float, r: float, **more: Attribute) -> Shape:
    """A circle by its centre."""
    return shape("circle", css, cx=x, cy=y, r=r, **more)


def steps(points: Iterable[tuple[float, float]]) -> str:
    """The path through points, written by its steps: half the bytes of its places, and a page is sent with every change. Empty below two."""
    taken, (x, y) = [], (0.0, 0.0)
    for across, up in points:
        # from where the steps so far have led, so that what is rounded does not add up
        right, down = round(across - x, 2), round(up - y, 2)
        taken.append(f"{right:g},{down:g}")
        x, y = x + right, y + down
    return f"M{taken[0]}l{' '.join(taken[1:])}" if len(taken) > 1 else ""


def _places(points: str) -> Iterable[tuple[float, float]]:
    return ((float(across), float(up)) for across, _, up in (pair.partition(",") for pair in points.split()))


def line(css: str, points: str) -> Shape:
    """An open line through `x,y x,y ...`."""
    return path(css, steps(_places(points)))


def outline(css: str, points: str) -> Shape:
    """A closed one."""
    return path(css, f"{steps(_places(points))}z")


def cells(css: str, boxes: Iterable[Box], **more: Attribute) -> Shape:
    """Boxes of one kind as one path, by the steps from one to the next; sizes to a tenth."""
    taken, (x, y) = [], (0.0, 0.0)
    for left, top, width, height in boxes:
        right, down, wide, high = round(left - x, 1), round(top - y, 1), round(width, 1), round(height, 1)
        taken.append(f"m{right:g},{down:g}h{wide:g}v{high:g}h-{wide:g}z")
        x, y = x + right, y + down
    return path(css, "".join(taken), **more)


def polygon(css: str, points: str | Iterable[tuple[float, float]]) -> Shape:
    """A closed outline."""
    return shape("polygon", css, points=points if isinstance(points, str) else " ".join(f"{x},{y}" for x, y in points))


def text(css: str, x: Attribute, y: Attribute, *words: "Shape | str", **more: Attribute) -> Shape:
    """Words at a place; css says how they are anchored."""
    return shape("text", css, words, x=x, y=y, **more)


def strong(words: str) -> Shape:
    """The words that count, within a text."""
    return shape("tspan", "b", (words,))


def group(css: str, *inside: Shape, **more: Attribute) -> Shape:
    """Shapes that move or hide together."""
    return shape("g", css, inside, **more)


def hatch(name: str, css: str, size: float = 7, *, turn: float | None = 45, ground: str = "", d: str = "") -> Shape:
    """A pattern of lines (or of `d`) in a square of `size`, on a `ground`, for `fill="url(#name)"`."""
    inside = [rect(ground, 0, 0, size, size)] if ground else []
    turned = None if turn is None else f"rotate({turn})"
    inside.append(path(css, d or f"M0 0V{size}"))
    return shape("pattern", "", inside, id=name, width=size, height=size, patternUnits="userSpaceOnUse", patternTransform=turned)


def dots(name: str, css: str, size: float, radius: float, *, ground: str = "") -> Shape:
    """A pattern of dots, the same way."""
    inside = [rect(ground, 0, 0, size, size)] if ground else []
    inside.append(circle(css, size / 2, size / 2, radius))
    return shape("pattern", "", inside, id=name, width=size, height=size, patternUnits="userSpaceOnUse")


def drawing(css: str, box: str, spoken: str, *inside: Shape, patterns: Iterable[Shape] = (), role: str = "img", **more: Attribute) -> Shape:
    """A whole drawing with its view box; `spoken` names it to who cannot see it, and without it the drawing is passed
    over. A name is short: figures stand in a table beside."""
    said: dict[str, Attribute] = {"role": role, "aria_label": spoken} if spoken else {"aria_hidden": "true"}
    defined = tuple(patterns)
    defs = (shape("defs", "", defined),) if defined else ()
    return shape("svg", css, (*defs, *inside), viewBox=box, **said, **more)


def _write(one: Shape, out: list[str]) -> None:
    out.append(f"<{one.tag}")
    for name, value in one.attributes.items():
        if value is not None:
            said = escape(value) if type(value) is str else round(value, 2) if isinstance(value, float) else value
            out.append(f' {name.replace("_", "-")}="{said}"')
    if not one.inside:
        out.append("/>")
        return
    out.append(">")
    apart = one.tag not in _RUNNING
    for place, each in enumerate(one.inside):
        if type(each) is str:
            out.append(escape(each))
            continue
        if apart and place:
            out.append("\n")
        _write(each, out)  # type: ignore[arg-type]
    out.append(f"</{one.tag}>")


def written(one: Shape) -> SafeString:
    """A shape as markup; every text and attribute in it is escaped."""
    out: list[str] = []
    _write(one, out)
    return mark_safe("".join(out))  # noqa: S308  (escaped piece by piece above)
