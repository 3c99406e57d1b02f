"""The margin bar of a check: a stop line at the limit, short to the left, room to the right, whisker for the spread."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, drawing, path, rect


@dataclass(frozen=True)
class MarginBar:
    """Pixels in a view box of 104 x 22; `stop` is the limit's line."""

    stop: float
    left: float
    width: float
    low: float
    high: float
    verdict: str

    def shape(self) -> Shape:
        """The whole drawing."""
        whisker = path("ink", f"M{self.low} 11H{self.high}M{self.low} 7v8M{self.high} 7v8")
        bar = rect(f"c-{self.verdict}", self.left, 6, self.width, 10)
        return drawing("bar", "0 0 104 22", "", path("hair", "M0 11H104"), bar, whisker, path("edge", f"M{self.stop} 1v20"))


def draw(margin: float, spread: float, verdict: str) -> MarginBar:
    """Scale each bar to itself: the larger of margin and spread reaches at most to the end of its side."""
    reach = max(abs(margin) + spread, 1e-12)
    stop, unit = 42.0, 38.0 / reach
    end = stop + margin * unit
    low, high = (min(max(stop + (margin + sign * spread) * unit, 1.0), 103.0) for sign in (-1, 1))
    return MarginBar(stop, round(min(stop, end), 1), round(abs(end - stop), 1), round(low, 1), round(high, 1), verdict)
