"""Prediction against result: whether a band held, and what the workshop's bands are worth."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from scipy.stats import beta

MEANT: Final = 0.95  # what a band is meant to catch


@dataclass(frozen=True, kw_only=True)
class Forecast:
    """What was said before a test: kind, middle, low and high, and the result where there is one (SI)."""

    kind: str
    middle: float
    low: float
    high: float
    result: float | None = None

    @property
    def inside(self) -> bool | None:
        """Whether the result lies in the band; None without a result."""
        return None if self.result is None else self.low <= self.result <= self.high

    @property
    def place(self) -> float | None:
        """Where the result lies: 0 in the middle, 1 at the band's end, beyond it more; negative below."""
        if self.result is None:
            return None
        side = self.high - self.middle if self.result >= self.middle else self.middle - self.low
        return (self.result - self.middle) / side if side > 0.0 else 0.0


@dataclass(frozen=True, kw_only=True)
class Score:
    """Of a kind of prediction: how many had a result, how many held, what share of bands so good would hold (low and high, 95 %), and the mean
    place of the results in their bands (the bias: above zero the model says too little)."""

    kind: str
    count: int
    held: int
    low: float
    high: float
    bias: float

    @property
    def too_narrow(self) -> bool:
        """Whether so many misses are no accident: even the kind end of the interval lies below what was meant."""
        return self.high < MEANT


def score(kind: str, forecasts: Sequence[Forecast]) -> Score:
    """Score of one kind over the forecasts that have a result."""
    told = [each for each in forecasts if each.result is not None]
    held = sum(bool(each.inside) for each in told)
    count = len(told)
    low = float(beta.ppf(0.025, held, count - held + 1)) if held else 0.0
    high = float(beta.ppf(0.975, held + 1, count - held)) if held < count else 1.0
    bias = sum(each.place or 0.0 for each in told) / count if count else 0.0
    return Score(kind=kind, count=count, held=held, low=low, high=high, bias=bias)


def by_kind(forecasts: Sequence[Forecast]) -> tuple[Score, ...]:
    """Scores of every kind with a result, most told first."""
    kinds = {each.kind for each in forecasts if each.result is not None}
    found = [score(kind, [each for each in forecasts if each.kind == kind]) for kind in kinds]
    return tuple(sorted(found, key=lambda each: (-each.count, each.kind)))
