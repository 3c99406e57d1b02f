"""The workshop's own results as priors: what its engines taught about a figure, with the count, beside what the trade supposes."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from valvetrain.errors import OutOfRangeError
from valvetrain.studies.proof.normal import Belief

LEAST: Final = 3  # results below which a prior is not used


class Learned(StrEnum):
    """Figures that a workshop learns about."""

    STIFFNESS = "stiffness of the train"
    DAMPING = "damping of the springs"
    LOAD_LOSS = "load that springs lose"
    RECESSION = "recession of the seats"
    BLADE = "feel of the blade"


@dataclass(frozen=True, kw_only=True)
class OwnPrior:
    """A learned figure: middle and half width (95 %) for the next engine, the trade's own, how many results, and whether it may be used."""

    what: Learned
    middle: float
    low: float
    high: float
    trade: tuple[float, float, float]
    count: int

    @property
    def usable(self) -> bool:
        """Whether there are enough results."""
        return self.count >= LEAST


def learn(what: Learned, trade: tuple[float, float, float], results: Sequence[float]) -> OwnPrior:
    """What results (SI, above zero) make of the trade's middle, low and high (95 %): both in the logarithm, because all are scale figures.

    Raises OutOfRangeError for results that are not above zero.
    """
    if any(not (result > 0.0 and math.isfinite(result)) for result in results):
        raise OutOfRangeError(f"Results for the {what} must lie above zero.")
    middle, low, high = trade
    spread = (math.log(high) - math.log(low)) / (2.0 * 2.776)  # a band of 95 of 100 with four values' worth of knowledge
    belief = Belief(mean=math.log(middle), spread=spread, mean_worth=1.0, spread_worth=4.0).after_all(math.log(each) for each in results)
    half = belief.half_width()
    return OwnPrior(
        what=what,
        middle=math.exp(belief.mean),
        low=math.exp(belief.mean - half),
        high=math.exp(belief.mean + half),
        trade=trade,
        count=len(results),
    )
