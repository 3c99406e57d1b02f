"""Valve and spring of one instant, and the forces at the valve as bars; the page moves them with its slider."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, drawing, group, path, rect, text

_PLACES = (106, 156, 206)


@dataclass(frozen=True)
class Instant:
    """Bars as (name, css), the force in the unit shown that fills one, and the pixels of a shown unit of lift."""

    bars: tuple[tuple[str, str], ...]
    most: float
    unit: str
    travel: float

    def shape(self) -> Shape:
        """The whole drawing."""
        valve = group(
            "", path("k-part", "M33 22h6v138l14 12h-34l14-12z"), path("k-part", "M18 30h36v6h-36z"), data_valve="", data_scale=self.travel
        )
        coil = path("train-coil", "M20 36L52 96", data_coil="", data_top="36", data_foot="96")
        drawn = [path("f-body", "M6 96H26V176H6zM46 96H66V176H46z"), path("hair", "M6 96H66"), valve, coil, path("hair", "M84 156H228")]
        for x, (name, css) in zip(_PLACES, self.bars, strict=False):
            bar = (rect(css, -13, 0, 26, 0), text("s12 b mid", None, -4, "", data_figure=""), text("s12 mid i2", None, 16, name))
            drawn.append(group("", *bar, data_bar=name, data_most=self.most, transform=f"translate({x} 156)"))
        said = f"Valve and spring of this instant, and the forces at the valve in {self.unit}; they follow the slider."
        return drawing("bars", "0 0 230 190", said, *drawn, text("s12 i2", 84, 187, f"{self.unit} at the valve, now"))
