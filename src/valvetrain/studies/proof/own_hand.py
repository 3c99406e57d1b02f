"""A hand's own pairs of promise and re-check: the spread of its readings, and what such pairs cannot see.

With the same person, blades and micrometer a constant bias of the blade and the micrometer's zero cancel in the promise: pairs show the
spread only. Never is a bias told from own pairs; another hand, a gap of known size, or a gauge block shows it.
"""

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from valvetrain.errors import OutOfRangeError
from valvetrain.studies.proof.normal import Belief

DEFAULT_HALF: Final = 0.01e-3  # m, the trade's
PRIOR: Final = Belief(mean=0.0, spread=DEFAULT_HALF / math.sqrt(3.0), mean_worth=1.0, spread_worth=4.0)
ENOUGH, ENOUGH_OF_A_KIND = 8, 5
_SLIP: Final = 4.0  # spreads from which a pair is set aside, named
MICROMETER: Final = 3.4e-6  # m, one sigma of a thickness by micrometer; judgement


@dataclass(frozen=True, kw_only=True)
class Pair:
    """What a shim promised and what the re-check read (m), which valve and kind of gap it was, whether another hand re-checked, and by what
    the two shims were known (both by micrometer, or one by its label)."""

    promised: float
    read: float
    valve: str = ""
    kind: str = ""
    other_hand: bool = False
    by_label: bool = False

    @property
    def error(self) -> float:
        """Re-check less promise."""
        return self.read - self.promised


@dataclass(frozen=True, kw_only=True)
class Hand:
    """What is known of a hand: pairs that count, half width of the next pair (m, 95 %), spread of one blade reading (m, one sigma), pairs
    set aside, and whether it is used in place of the trade's."""

    pairs: int
    half: float
    blade: float
    slips: tuple[Pair, ...]
    used: bool

    @property
    def wider(self) -> bool:
        """Whether the hand's own band is wider than the trade's."""
        return self.half > DEFAULT_HALF


class Seen(StrEnum):
    """What a kind of pair can show."""

    SPREAD = "spread only"
    ZERO = "the micrometer's zero too"
    BIAS = "the blade's bias too"


def sees(pair: Pair) -> Seen:
    """What a pair can show beside the spread."""
    return Seen.BIAS if pair.other_hand else Seen.ZERO if pair.by_label else Seen.SPREAD


def design_rank(*, other_hand: bool = False, by_label: bool = False, known_gap: bool = False, known_shim: bool = False) -> int:
    """How many of (blade bias, micrometer zero) a way of pairing sees: the rank of its design."""
    return int(other_hand or known_gap or by_label or known_shim)


def learn(pairs: Sequence[Pair], kind: str = "") -> Hand:
    """The hand after its pairs; with `kind` of that kind of gap only, where it has enough of its own."""
    own = [pair for pair in pairs if not pair.other_hand and not pair.by_label]
    special = [pair for pair in own if pair.kind == kind]
    enough = ENOUGH
    if kind and len(special) >= ENOUGH_OF_A_KIND:
        own, enough = special, ENOUGH_OF_A_KIND
    middle = statistics.median([pair.error for pair in own]) if own else 0.0
    scale = max(1.4826 * statistics.median([abs(pair.error - middle) for pair in own]), 3e-6) if len(own) >= 4 else math.inf
    slips = tuple(pair for pair in own if abs(pair.error - middle) > _SLIP * scale)
    counted = [pair.error for pair in own if pair not in slips]
    belief = PRIOR.after_all(counted)
    square = (belief.spread**2 - 2.0 * MICROMETER**2) / 2.0
    return Hand(
        pairs=len(counted), half=belief.half_width(), blade=math.sqrt(max(square, (0.5e-6) ** 2)), slips=slips, used=len(counted) >= enough
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Zero:
    """A micrometer's zero from readings of a block of known size: m, and its uncertainty (one sigma)."""

    zero: float
    uncertainty: float

    @property
    def told(self) -> bool:
        """Whether it stands clear of zero at two sigma."""
        return abs(self.zero) > 2.0 * self.uncertainty


def zero_of(readings: Sequence[float], size: float, block: float = 1e-6) -> Zero:
    """Zero of a micrometer (or bias of a blade) from readings of a known size (m); `block` is the size's own uncertainty.

    Raises OutOfRangeError for fewer than three readings.
    """
    if len(readings) < 3:
        raise OutOfRangeError("Three readings of the block are the least; five are better.")
    off = [reading - size for reading in readings]
    return Zero(zero=statistics.fmean(off), uncertainty=math.hypot(statistics.stdev(off) / math.sqrt(len(off)), block))
