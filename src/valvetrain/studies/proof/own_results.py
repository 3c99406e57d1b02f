"""The workshop's own results as priors: what its engines taught about a figure, with the count, beside what the trade supposes.

Engines scatter about a middle that is not known, by a spread that is not known either; each result has a doubt of its own. The trade's band
is where that begins: its middle is worth one engine, its spread four. All in the logarithm, for all are scale figures. Source: normal model
with unknown mean and spread (Gelman et al., Bayesian Data Analysis, random effects), integrated over the spread on a grid.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np
from scipy.optimize import brentq
from scipy.special import logsumexp, ndtr

from valvetrain.errors import OutOfRangeError

LEAST: Final = 3  # results below which a prior is not used
_FREEDOM: Final = 4.0  # values that the trade's spread is worth
_T95: Final = 2.776  # half width of a band of 95 of 100 in spreads, with four values' worth of knowledge (Student)
_STEPS: Final = 160  # of the grid over the spread between engines
_WIDEST: Final = 0.98  # of the doubt before, left after: an observation that narrows less tells nothing of that figure


class Learned(StrEnum):
    """Figures that a workshop learns about; stiffness and damping as parts of what the trade supposes."""

    STIFFNESS = "stiffness of the train"
    DAMPING = "damping of the springs"
    LOAD_LOSS = "load that springs lose"
    RECESSION = "recession of the seats"
    BLADE = "feel of the blade"


# Middle and ends (95 %): parts of the trade's, parts of the load over the springs' life so far, m/h of clearance, m. Source: judgement, but the
# blade's, which is the trade's hundredth; stiffness and damping as `estimates.VIBRATION` has them
TRADE: Final = {
    Learned.STIFFNESS: (1.0, 0.5, 2.0), Learned.DAMPING: (1.0, 0.4, 2.5), Learned.LOAD_LOSS: (0.03, 0.008, 0.11),
    Learned.RECESSION: (1.0e-6, 0.15e-6, 6.7e-6), Learned.BLADE: (0.01e-3, 0.004e-3, 0.025e-3),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Result:
    """One result of one engine (SI, above zero) and its own doubt (one sigma of the logarithm)."""

    value: float
    doubt: float = 0.0


@dataclass(frozen=True, kw_only=True)
class OwnPrior:
    """A learned figure: middle and ends (95 %) for the next engine, the trade's own, how many results, and whether it may be used."""

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


def told_by(score: float, left: float, share: float, part: float = 1.0) -> Result | None:
    """What one observation alone says of a figure that was believed to be `part` of the trade's, give or take a k = 2 factor of 1 + `share`: the
    belief that it was mixed with is taken out again. `score` is by how many standard deviations the figure moved, `left` what part of its
    doubt stayed. None where it told next to nothing.

    Source: product of two normal courses in the logarithm.
    """
    if not 0.0 < left < _WIDEST or share <= 0.0:
        return None
    prior = math.log1p(share) / 2.0
    gained = 1.0 / left**2 - 1.0  # in units of the belief's own precision
    middle = score / left**2 / gained * prior
    return Result(value=part * math.exp(min(max(middle, -3.0), 3.0)), doubt=prior / math.sqrt(gained))


def learn(what: Learned, results: Sequence[Result], trade: tuple[float, float, float] | None = None) -> OwnPrior:
    """What results (SI, above zero) make of the trade's middle, low and high (95 %) for the next engine.

    Raises OutOfRangeError for results that are not above zero.
    """
    if any(not (each.value > 0.0 and math.isfinite(each.value) and each.doubt >= 0.0) for each in results):
        raise OutOfRangeError(f"Results for the {what} must lie above zero.")
    usual = trade or TRADE[what]
    middle, low, high = usual
    spread = (math.log(high) - math.log(low)) / (2.0 * _T95 * math.sqrt(2.0))  # the next engine: about a middle that is worth one itself
    taus = spread * np.exp(np.linspace(math.log(0.02), math.log(30.0), _STEPS))
    y = np.array([math.log(each.value) for each in results])
    own = np.array([each.doubt for each in results])
    weight = 1.0 / (taus[:, None] ** 2 + own[None, :] ** 2)
    first = 1.0 / taus**2
    variance = 1.0 / (first + weight.sum(axis=1))
    mean = variance * (first * math.log(middle) + weight @ y)
    misfit = first * (math.log(middle) - mean) ** 2 + (weight * (y[None, :] - mean[:, None]) ** 2).sum(axis=1)
    like = 0.5 * (np.log(first) + np.log(weight).sum(axis=1) + np.log(variance)) - 0.5 * misfit
    like += -_FREEDOM * np.log(taus) - _FREEDOM * spread**2 / (2.0 * taus**2)
    shares = np.exp(like - logsumexp(like))
    wide = np.sqrt(variance + taus**2)

    def at(part: float) -> float:
        ends = float((mean - 12.0 * wide).min()), float((mean + 12.0 * wide).max())
        return math.exp(brentq(lambda x: float(shares @ ndtr((x - mean) / wide)) - part, *ends))

    return OwnPrior(what=what, middle=at(0.5), low=at(0.025), high=at(0.975), trade=usual, count=len(results))
