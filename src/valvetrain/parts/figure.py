"""A number that knows where it comes from and how sure it is."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from valvetrain.errors import OutOfRangeError


class Basis(StrEnum):
    """Where a figure comes from, best first."""

    MEASURED = "measured"
    MAKER = "maker"
    CARD = "card"
    ESTIMATE = "estimate"


@dataclass(frozen=True, slots=True)
class Figure:
    """An SI value, its spread and its basis.

    `spread` is the half width of the interval that holds the true value with about 95 % (k = 2, source: gum).
    """

    value: float
    spread: float = 0.0
    basis: Basis = Basis.CARD

    def __post_init__(self) -> None:
        if not (math.isfinite(self.value) and math.isfinite(self.spread) and self.spread >= 0.0):
            raise OutOfRangeError(f"A figure needs a finite value and a spread of zero or more, not {self.value} ± {self.spread}.")

    def plus(self, amount: float) -> "Figure":
        """The same figure moved by an exactly known amount."""
        return Figure(self.value + amount, self.spread, self.basis)


FigureMap = Mapping[str, Figure]


def estimate(value: float, share: float = 0.0, *, spread: float = 0.0) -> Figure:
    """An estimate with a spread given as a share of the value or outright."""
    return Figure(value, abs(value) * share or spread, Basis.ESTIMATE)
