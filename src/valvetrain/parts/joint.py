"""Draws of a side's unknown figures that belong together: what one row says of a mass goes with what it says of the spring."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.parts.figure import Figure

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False, repr=False)
class Joint:
    """Rows drawn together. `columns` by the figure's name: how far each row lies from the figure, SI; `figures` those they were drawn for.

    `weights` (sum 1) say how well each row agrees with what is known of the stock engine; `order` sorts the rows by the stock train's float,
    so that few of them can stand for all. `key` names the content. `told` is the share of all rows that agreed, None where nothing was asked;
    `limiter` the crank speed (rev/s) that the stock engine is taken to hold, None where that is not taken or not believed.
    """

    figures: Mapping[str, Figure]
    columns: Mapping[str, Array]
    weights: Array
    order: NDArray[np.intp]
    key: str
    told: float | None = None
    limiter: float | None = None

    def __repr__(self) -> str:
        return f"Joint({self.key})"

    def column(self, name: str, figure: Figure) -> Array | None:
        """Values of one figure over the rows; None where the figure is not among them or is known otherwise by now."""
        own = self.figures.get(name)
        if own is None or own.spread != figure.spread or own.basis is not figure.basis:
            return None
        return np.asarray(figure.value + self.columns[name])

    def picks(self, count: int) -> NDArray[np.intp]:
        """`count` rows that stand for even shares of the weight, from the lowest float to the highest."""
        at = (np.arange(count) + 0.5) / count
        share = np.cumsum(self.weights[self.order])
        return self.order[np.minimum(np.searchsorted(share / share[-1], at), len(self.order) - 1)]
