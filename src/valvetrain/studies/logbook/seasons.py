"""Springs over seasons: load lost against hours run, which to use again, and what a season costs with a treatment or a better spring."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from valvetrain.errors import OutOfRangeError

RENEW: Final = 0.06  # of the new load: what lost more is renewed. Source: trade
_REACH: Final = 10.0  # times the hours run; what lies further off is not known. Source: judgement
_TESTER: Final = 0.012  # of a load: what two runs of a tester leave open. Source: judgement


@dataclass(frozen=True, kw_only=True)
class LoadTest:
    """Springs of one set tested at one height: engine hours then, the least and the middle load (N) of them, how many."""

    hours: float
    least: float
    middle: float
    count: int


@dataclass(frozen=True, kw_only=True)
class LoadLife:
    """What a set lost: tests with the share of the new load that the weakest and the middle one lost, the hours left until the weakest is to be renewed
    (None as the most: not within reach), and whether it may be used again now (None: the tester cannot tell)."""

    lost: tuple[tuple[float, float, float], ...]
    left: tuple[float, float | None]
    again: bool | None


def load_life(new: float, tests: Sequence[LoadTest]) -> LoadLife:
    """A set against its load when new (N) at the same height, tests oldest first.

    Springs settle fastest at first. The fastest that is plausible is therefore the loss since new over the hours since new, the slowest that between the
    last two tests, each moved by what the tester leaves open. Raises OutOfRangeError for no test, loads that are none, or hours that do not grow.
    """
    if not tests or new <= 0.0 or any(test.least <= 0.0 or test.middle < test.least for test in tests):
        raise OutOfRangeError("A set needs its load when new and at least one test with loads above zero.")
    if any(later.hours <= before.hours for before, later in pairwise(tests)) or tests[0].hours < 0.0:
        raise OutOfRangeError("Engine hours must grow from test to test.")
    lost = tuple((test.hours, 1.0 - test.least / new, 1.0 - test.middle / new) for test in tests)
    hours, now, _ = lost[-1]
    again = None if abs(now - RENEW) < _TESTER else now < RENEW
    before = next(((at, share) for at, share, _ in reversed(lost[:-1])), (0.0, 0.0))
    fast = (now + _TESTER) / max(hours, 1e-9)
    slow = (now - before[1] - math.sqrt(2.0) * _TESTER) / max(hours - before[0], 1e-9)
    room_least, room_most = max(0.0, RENEW - now - _TESTER), max(0.0, RENEW - now + _TESTER)
    least = room_least / fast if fast > 0.0 else 0.0
    most = room_most / slow if slow > 0.0 else math.inf
    return LoadLife(lost=lost, left=(least, most if most <= _REACH * hours else None), again=again)


@dataclass(frozen=True, kw_only=True)
class SeasonCost:
    """Sets a season and their cost a season, least and most."""

    sets: tuple[float, float]
    cost: tuple[float, float]


def season_cost(price: float, life: tuple[float, float], season: tuple[float, float]) -> SeasonCost:
    """Cost of a season of `season` hours (least, most) with sets of a price that last `life` hours (least, most).

    Hours used up are paid, whether or not a set is done when the season ends. Raises OutOfRangeError for figures at or below zero.
    """
    if not (math.isfinite(price) and price >= 0.0) or not 0.0 < life[0] <= life[1] or not 0.0 < season[0] <= season[1]:
        raise OutOfRangeError("Price, life and season lie above zero, each from its least to its most.")
    sets = season[0] / life[1], season[1] / life[0]
    return SeasonCost(sets=sets, cost=(price * sets[0], price * sets[1]))


def pays(plain: SeasonCost, better: SeasonCost) -> bool | None:
    """Whether the better one costs less a season; None while the bands overlap. The same seasons stand behind both, so that this is strict."""
    if better.cost[1] < plain.cost[0]:
        return True
    return False if better.cost[0] > plain.cost[1] else None


def least_factor(price: float, better: float) -> float:
    """How many times longer a set of the price `better` must last to cost no more. Raises OutOfRangeError for a price at or below zero."""
    if price <= 0.0 or better <= 0.0:
        raise OutOfRangeError("Prices lie above zero.")
    return better / price
