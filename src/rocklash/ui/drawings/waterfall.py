"""What is left of a gap: a full bar, bars that take from it, and the rest, over the line of the limit. Drawn in 300 x 80 pixels."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, drawing, path, rect, text

_BARS, _REACH = 104.0, 150.0


@dataclass(frozen=True)
class Fall:
    """One bar: words, figure, what it is (`rest`, `less` or `left`), from where to where it reaches in the unit of the others."""

    words: str
    figure: str
    kind: str
    start: float
    end: float


@dataclass(frozen=True)
class Waterfall:
    """The bars in their order, the limit, and what the longest bar may stand for, in one unit."""

    falls: tuple[Fall, ...]
    limit: float
    most: float

    def shape(self) -> Shape:
        """The whole drawing; what is below zero has no bar."""
        unit = _REACH / self.most
        drawn: list[Shape] = []
        for number, fall in enumerate(self.falls):
            y, left = 20.0 * number, max(fall.start, 0.0) * unit
            width = max(fall.end, 0.0) * unit - left
            drawn.append(text("s12", 0, y, fall.words, dy=12))
            drawn.append(rect(f"w-{fall.kind}", round(_BARS + left, 1), y, round(width, 1), 15))
            drawn.append(text("s12 b end", 298, y, fall.figure, dy=12))
        return drawing("waterfall", "0 0 300 80", "", *drawn, path("edge", f"M{round(_BARS + self.limit * unit, 1)} 0V78"))
