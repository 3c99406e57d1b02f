"""A normal course of which neither mean nor spread is known, learned from a few values: for a hand's pairs and for a workshop's own results.

Source: conjugate normal model (Gelman et al., Bayesian Data Analysis); JCGM 100 for the half width.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from scipy.stats import t as student


@dataclass(frozen=True, kw_only=True)
class Belief:
    """Mean, spread (one sigma), what the mean is worth in values, and what the spread is worth."""

    mean: float
    spread: float
    mean_worth: float
    spread_worth: float

    def after(self, value: float) -> "Belief":
        """The belief with one more value."""
        worth = self.mean_worth + 1.0
        mean = (self.mean_worth * self.mean + value) / worth
        freedom = self.spread_worth + 1.0
        square = (self.spread_worth * self.spread**2 + self.mean_worth / worth * (value - self.mean) ** 2) / freedom
        return Belief(mean=mean, spread=math.sqrt(square), mean_worth=worth, spread_worth=freedom)

    def after_all(self, values: Iterable[float]) -> "Belief":
        """The belief with more values, one after the other."""
        belief = self
        for value in values:
            belief = belief.after(value)
        return belief

    def half_width(self, share: float = 0.95) -> float:
        """Half width of the band in which the next value lies with this probability, about the mean."""
        return float(student.ppf(0.5 + share / 2.0, self.spread_worth)) * self.spread * math.sqrt(1.0 + 1.0 / self.mean_worth)
