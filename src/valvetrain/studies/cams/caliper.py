"""Two lobes known by their heights alone: what a caliper can tell of them, and what it cannot (common practice, no source)."""

import math
from dataclasses import dataclass

from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.units import QuantityKind, UnitSystem, quantity


@dataclass(frozen=True)
class CaliperAnswer:
    """How much higher the second lobe lifts at the valve, m with spread (k = 2), and whether both base circles were measured."""

    more: Figure
    bases_known: bool

    def sentence(self, system: UnitSystem) -> str:
        """What the two measurements say, with the caution that belongs to heights alone."""
        amount = quantity(abs(self.more.value), QuantityKind.LENGTH, system)
        told = f"{amount} {'more' if self.more.value >= 0 else 'less'} lift at the valve"
        if self.bases_known:
            return f"By lobe height less base circle: {told}."
        return (
            f"By height alone: {told}, if both base circles are equal. A reground cam has a smaller one, and then lifts more than its "
            "height shows: measure both across the heel. Heights say nothing of duration."
        )


def compare(first: FigureMap, second: FigureMap, ratio: float) -> CaliperAnswer | None:
    """Compare two cams by `lobe_height` and, where measured, `base_diameter`; None unless both heights are known.

    Lift is height less base circle; without the base circles the difference of heights is that of lifts only if they are equal.
    """
    if not ("lobe_height" in first and "lobe_height" in second):
        return None
    bases = [cam["base_diameter"] for cam in (first, second) if "base_diameter" in cam]
    heights = (first["lobe_height"], second["lobe_height"])
    more = heights[1].value - heights[0].value
    spread = math.hypot(heights[0].spread, heights[1].spread)
    known = len(bases) == 2
    if known:
        more -= bases[1].value - bases[0].value
        spread = math.hypot(spread, *(base.spread for base in bases))
    figure = Figure(more * ratio, spread * ratio, max((height.basis for height in heights), key=list(Basis).index))
    return CaliperAnswer(figure, known)
