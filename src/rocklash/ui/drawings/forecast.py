"""A forecast's band as a green box with its middle, and the result as a square: blue inside, a red triangle beyond."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, drawing, path, rect


@dataclass(frozen=True)
class ForecastBar:
    """`place` of the result: 0 the middle, 1 the band's end; None while there is none. Drawn in 150 x 20 pixels."""

    place: float | None

    def shape(self) -> Shape:
        """The whole drawing."""
        parts = [path("hair", "M0 10H150"), rect("h-band", 45, 4, 60, 12), path("fo-middle", "M75 4V16")]
        if self.place is not None:
            x = round(75.0 + 30.0 * max(-2.3, min(2.3, self.place)), 1)
            if abs(self.place) <= 1.0:
                parts.append(rect("fo-in", x - 4, 6, 8, 8))
            else:
                way = "l5 9h-10z" if self.place > 0 else "l5 -9h-10z"
                parts.append(path("fo-out", f"M{x} {5.5 if self.place > 0 else 14.5}{way}"))
        return drawing("forecast", "0 0 150 20", "", *parts)
