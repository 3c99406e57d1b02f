"""What a use takes out of a spring: turns counted by rainflow, harm summed after Miner, told as a band, or as a ratio to a use that is known to last.

Never as hours of life: wire scatters by a factor of eight each way, and rust or a scratch breaks springs first.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.damage import Below, doubt_of_life, reversed_stress, slope_exponent, turns_borne
from valvetrain.studies.logbook.rainflow import Turn
from valvetrain.studies.logbook.use import BIN, Use

STRESS_DOUBT, MATERIAL_DOUBT = 0.05, 0.25  # one sigma: part of the stress, log10 of the life. Source: judgement
_RATIO_LEFT: Final = 2.0  # factor of two set-ups' quotient that is left open: material and most of the stress cancel. Source: judgement
_ABSURD: Final = 10.0  # mean lives used, even at the band's kind end
WATCH, OVER = 0.1, 1.0  # of a life used, between which it is watched


class Wear(StrEnum):
    """What a band of damage comes to."""

    ENDLESS = "hardly anything used"
    WATCH = "to be watched"
    OVER = "past what wire can take in the mean"


@dataclass(frozen=True, kw_only=True)
class Strength:
    """Of one wire, Pa: endurance limit (reversed) and torsional ultimate."""

    endurance: float
    ultimate: float


@dataclass(frozen=True, kw_only=True)
class Damage:
    """Share of a mean life that is used, with the ends that hold it with some 95 %, and what that comes to."""

    middle: float
    low: float
    high: float

    @property
    def absurd(self) -> bool:
        """Whether it is rather the wire as told that cannot be."""
        return self.low > _ABSURD

    @property
    def wear(self) -> Wear:
        """By the whole band: endless below, over above, to be watched across."""
        return Wear.ENDLESS if self.high < WATCH else Wear.OVER if self.low > OVER else Wear.WATCH


def harm(turns: Iterable[Turn], wire: Strength, below: Below = Below.LESS) -> float:
    """Miner's sum over counted turns (ranges and means in Pa): parts of a mean life. Source: miner.

    A turn whose mean reaches the ultimate breaks the wire at once: the sum is then infinite.
    """
    total = 0.0
    for turn in turns:
        if turn.range <= 0.0:
            continue
        if turn.mean >= wire.ultimate:
            return math.inf
        stress = reversed_stress(turn.range / 2.0, max(turn.mean, 0.0), wire.ultimate)
        total += turn.count / turns_borne(stress, wire.endurance, wire.ultimate, below)
    return total


def harm_of_use(use: Use, per_turn: Mapping[float, float]) -> float:
    """Miner's sum of a use: `per_turn` gives the harm of one turn of the cam at some crank speeds (rev/s); between them it goes straight in the
    logarithm, outside them it stays. Raises OutOfRangeError without a speed, or for harm below zero.
    """
    if not per_turn:
        raise OutOfRangeError("The harm of a turn is wanted at one speed at least.")
    speeds = np.array(sorted(per_turn))
    values = np.array([per_turn[each] for each in speeds])
    if (values < 0.0).any():
        raise OutOfRangeError("Harm lies above zero.")
    middle = use.low + BIN / 2.0
    cam_turns = use.seconds * middle / 2.0
    if np.isinf(values).any() and (cam_turns[middle >= speeds[np.isinf(values)].min()] > 0.0).any():
        return math.inf
    logs = np.log(np.maximum(np.where(np.isinf(values), 1.0, values), 1e-30))
    return float((cam_turns * np.exp(np.interp(middle, speeds, logs))).sum())


def banded(total: float, wire: Strength) -> Damage:
    """A sum with the band that stress and wire leave open (two sigma)."""
    wide = 10.0 ** (2.0 * doubt_of_life(slope_exponent(wire.endurance, wire.ultimate), STRESS_DOUBT, MATERIAL_DOUBT))
    return Damage(middle=total, low=total / wide, high=total * wide)


@dataclass(frozen=True, kw_only=True)
class Against:
    """One use or set-up against another that is known to last: times as much harm, with the ends left open."""

    times: float
    low: float
    high: float

    @property
    def told(self) -> bool:
        """Whether the two differ by more than is left open."""
        return not self.low <= 1.0 <= self.high


def against(total: float, known: float) -> Against:
    """Harm against that of a use or a set-up which lasted. Raises OutOfRangeError where the known one holds none."""
    if known <= 0.0 or not math.isfinite(known):
        raise OutOfRangeError("The use that is known to last must hold some harm that can be counted.")
    times = total / known
    return Against(times=times, low=times / _RATIO_LEFT, high=times * _RATIO_LEFT)
