"""A new lobe inside the one it is ground from, both to scale on one centre."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, circle, drawing, line, path, text

WIDTH, HEIGHT = 300.0, 250.0


@dataclass(frozen=True)
class TwoLobes:
    """Outlines as points and base circles' radii in pixels about the cam's centre."""

    old: str
    new: str
    radii: tuple[float, float]
    centre: tuple[float, float]
    spoken: str

    def shape(self) -> Shape:
        """The whole drawing."""
        x, y = self.centre
        return drawing(
            "twolobes", f"0 0 {WIDTH} {HEIGHT}", self.spoken, circle("p-stock", x, y, self.radii[0]), circle("p-proposed", x, y, self.radii[1]), line("p-stock", self.old),
            line("p-proposed", self.new), path("hair", f"M{x - 8} {y}h16M{x} {y - 8}v16"), text("s12 mid i2", x, HEIGHT - 4, "grey dashes: as it is; blue: ground"),
        )  # fmt: skip


def two_lobes(old: list[tuple[float, float]], new: list[tuple[float, float]], radii: tuple[float, float], spoken: str) -> TwoLobes:
    """Place outlines (mm, nose up) and base circles (mm)."""
    top = max(y for _, y in old)
    scale = min((HEIGHT - 34.0) / (top + radii[0]), (WIDTH - 20.0) / (2.0 * max(radii[0], *(abs(x) for x, _ in old))))
    centre = (WIDTH / 2.0, 10.0 + top * scale)

    def points(outline: list[tuple[float, float]]) -> str:
        return " ".join(f"{centre[0] + x * scale:.2f},{centre[1] - y * scale:.2f}" for x, y in outline)

    return TwoLobes(points(old), points(new), (round(radii[0] * scale, 2), round(radii[1] * scale, 2)), centre, spoken)
