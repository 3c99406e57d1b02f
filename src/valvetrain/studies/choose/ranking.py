"""Which of the best trade-offs comes first, by what matters to the one who asks; and where another would."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from valvetrain.studies.choose.search import Found

Array = NDArray[np.float64]
MOST = 5.0  # of a weight


class Wish(StrEnum):
    """What a set may be better at."""

    FORCE = "least force"
    MASS = "lightest"
    PRICE = "cheapest"
    DAYS = "soonest"
    SERVICE = "longest service"


@dataclass(frozen=True, eq=False, kw_only=True)
class Ranking:
    """Sets by their place. `order` numbers of the sets, best first; `shares` (sets, wishes) what each wish adds to a set's score, of 1 in all; `turns`
    by wish: weight from which, going up from zero, which set (number) comes first."""

    order: NDArray[np.int64]
    shares: Array
    turns: dict[Wish, list[tuple[float, int]]]

    def score(self, number: int) -> float:
        """Of 1."""
        return float(self.shares[number].sum())


def _goodness(found: list[Found]) -> Array:
    """How good each set is at each wish, from 0, the worst of them, to 1, the best."""
    values = np.array([[each.force, each.mass, each.price, each.days, -min(each.service, 2000.0)] for each in found])
    least, most = values.min(axis=0), values.max(axis=0)
    return np.asarray(np.where(most > least, (most - values) / np.maximum(most - least, 1e-12), 1.0))


def rank(found: list[Found], weights: dict[Wish, float]) -> Ranking:
    """The sets by their weighted goodness; those that hold with room before those that just do, and those before what is not proven."""
    good = _goodness(found)
    codes = np.array([each.code for each in found])
    own = np.array([max(weights.get(wish, 0.0), 0.0) for wish in Wish])
    if own.sum() <= 0.0:
        own = np.ones(len(own))
    shares = good * own / own.sum()
    order = np.lexsort((np.arange(len(found)), -shares.sum(axis=1), codes))
    first = np.flatnonzero(codes == codes.min())
    turns = {}
    for place, wish in enumerate(Wish):
        rows: list[tuple[float, int]] = []
        for weight in np.linspace(0.0, MOST, 51):
            tried = own.copy()
            tried[place] = weight
            if tried.sum() <= 0.0:
                continue
            best = int(first[np.argmax(good[first] @ tried)])
            if not rows or rows[-1][1] != best:
                rows.append((float(weight), best))
        turns[wish] = rows
    return Ranking(order=order, shares=shares, turns=turns)


def weights_of(numbers: list[float]) -> dict[Wish, float]:
    """Weights in the order of the wishes."""
    return dict(zip(Wish, numbers, strict=True))
