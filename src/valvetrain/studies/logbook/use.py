"""How an engine was used: hours by speed, out of an rpm log with its gaps named, or out of a few words."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError

Array = NDArray[np.float64]
BIN: Final = 250.0 / 60.0  # rev/s
_GAP: Final = 2.0  # s between two samples above which nothing is known of the engine in between
_HIGHEST: Final = 500.0  # rev/s; above it a pick-up has counted something else
# Shares of the running time at parts of the highest speed that is used. Source: judgement
PROFILES: Final[Mapping[str, tuple[tuple[float, float], ...]]] = {
    "street": ((0.30, 0.45), (0.50, 0.40), (0.75, 0.13), (0.95, 0.02)), "race": ((0.50, 0.10), (0.75, 0.30), (0.90, 0.40), (1.00, 0.20)),
    "drag": ((0.30, 0.55), (0.75, 0.15), (0.95, 0.20), (1.00, 0.10)), "kart": ((0.45, 0.10), (0.70, 0.25), (0.90, 0.45), (1.00, 0.20)),
    "water": ((0.40, 0.20), (0.85, 0.40), (1.00, 0.40)), "work": ((0.55, 0.15), (0.95, 0.85)),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Use:
    """Seconds at each speed bin (its lower end, rev/s), the highest that was seen, and what was left out, in words."""

    low: Array
    seconds: Array
    highest: float
    left_out: tuple[str, ...] = field(default=())

    @property
    def hours(self) -> float:
        """Running hours."""
        return float(self.seconds.sum()) / 3600.0

    @property
    def turns(self) -> float:
        """Turns of the crank."""
        return float((self.seconds * (self.low + BIN / 2.0)).sum())

    def above(self, speed: float) -> float:
        """Seconds above a speed (rev/s); a bin that holds it is shared linearly, the highest bin reaching as far as the highest speed seen."""
        top = np.minimum(self.low + BIN, max(self.highest, float(self.low[-1]) + 1e-9) if len(self.low) else 0.0)
        width = np.maximum(top - self.low, 1e-12)
        return float((self.seconds * np.clip((top - speed) / width, 0.0, 1.0)).sum())


def _binned(speed: Array, seconds: Array, left_out: Sequence[str]) -> Use:
    running = speed > 0.0
    place = np.floor(speed[running] / BIN).astype(int)
    weight = np.asarray(np.bincount(place, weights=seconds[running]) if len(place) else np.zeros(0), dtype=np.float64)
    low = np.asarray(np.arange(len(weight)) * BIN, dtype=np.float64)
    return Use(low=low, seconds=weight, highest=float(speed[running].max()) if len(place) else 0.0, left_out=tuple(left_out))


def of_log(time: Array, speed: Array) -> Use:
    """Use from a log: s and rev/s; each sample counts until the next one. Holes of over two seconds are left out and named.

    Raises OutOfRangeError for times that run back, or fewer than two samples.
    """
    if len(time) != len(speed) or len(time) < 2:
        raise OutOfRangeError("A log needs two samples at least, a time and a speed in each.")
    steps = np.diff(time)
    if (steps < 0.0).any():
        at = int(np.flatnonzero(steps < 0.0)[0])
        raise OutOfRangeError(f"Time runs back after {time[at]:.1f} s: is this more than one log, or is the column another one?")
    said = []
    holes = steps > _GAP
    if holes.any():
        first = int(np.flatnonzero(holes)[0])
        said.append(f"{int(holes.sum())} holes, {float(steps[holes].sum()):.0f} s in all, the first after {time[first]:.1f} s: left out")
    odd = ~np.isfinite(speed[:-1]) | (speed[:-1] < 0.0) | (speed[:-1] > _HIGHEST)
    if odd.any():
        said.append(f"{int(odd.sum())} samples below zero, above 30,000 rpm or no number: left out")
    keep = ~holes & ~odd
    return _binned(np.asarray(speed, dtype=float)[:-1][keep], steps[keep], said)


def of_profile(profile: str, hours: float, highest: float) -> Use:
    """Use from a few words: what kind, how many hours, and the highest speed that is used (rev/s). Raises OutOfRangeError for an unknown kind."""
    if profile not in PROFILES:
        raise OutOfRangeError(f"There is no use called “{profile}”: {', '.join(PROFILES)}.")
    if not (0.0 <= hours <= 1e5 and 0.0 < highest <= _HIGHEST):
        raise OutOfRangeError("Hours lie between zero and 100,000, the highest speed between zero and 30,000 rpm.")
    parts = PROFILES[profile]
    return _binned(np.array([part * highest for part, _ in parts]), np.array([share * hours * 3600.0 for _, share in parts]), ())


def together(uses: Sequence[Use]) -> Use:
    """Several uses as one: seconds of each bin added. Raises OutOfRangeError for none."""
    if not uses:
        raise OutOfRangeError("One use at least is wanted.")
    longest = max(uses, key=lambda each: len(each.low))
    seconds = np.zeros(len(longest.low))
    for each in uses:
        seconds[: len(each.seconds)] += each.seconds
    return Use(
        low=longest.low, seconds=seconds, highest=max(each.highest for each in uses), left_out=sum((each.left_out for each in uses), ())
    )


def stretched(use: Use, hours: float) -> Use:
    """The same shares of speeds over as many hours. Raises OutOfRangeError for a use that lasted no time."""
    if not (use.hours > 0.0 and math.isfinite(hours) and hours >= 0.0):
        raise OutOfRangeError("A use that lasted some time is wanted, and hours of zero or more.")
    return replace(use, seconds=use.seconds * (hours / use.hours))
