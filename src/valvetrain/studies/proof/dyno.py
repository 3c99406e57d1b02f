"""Runs on a dyno or from a logger: binned, smoothed, corrected for the air, laid over one another, and the difference by bands."""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.signal import savgol_coeffs, savgol_filter

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.road_load import power_kept
from valvetrain.studies.proof.air import Air, Standard, factor

Samples = NDArray[np.float64]
BIN: Final = 100.0 / 60.0  # rev/s
_WINDOW, _DEGREE = 5, 2
_LEAST_POINTS = 8
MAKE_UP: Final = {"dyno": "dyno", "gear": "gear", "wheel": "wheel", "tyre": "tyre", "place": "measured at"}


@dataclass(frozen=True, kw_only=True)
class Run:
    """One run as it came: crank speed (rev/s) and power (W), one value each a sample, with what it was made on.

    `standard` is what the file's power is already corrected by; `boosted` engines are never corrected; `taken_off` is inertia (kg m2 at
    the crank) that a change between runs took off and that the dyno's acceleration counts as power (`gain` in rev/s2).
    """

    name: str
    speed: Samples
    power: Samples
    air: Air | None = None
    standard: Standard = Standard.NONE
    boosted: bool = False
    made_on: tuple[tuple[str, str], ...] = ()
    taken_off: float = 0.0
    gain: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Curve:
    """A run on an even grid of speeds: rev/s, W, N m, noise of the power (W, one sigma after smoothing), and the factor in it."""

    name: str
    speed: Samples
    power: Samples
    noise: Samples
    factor: float
    standard: Standard
    samples: int

    @property
    def torque(self) -> Samples:
        """N m."""
        return np.asarray(self.power / (2.0 * math.pi * self.speed))

    def peak_power(self) -> tuple[float, float]:
        """W, and the speed it stands at."""
        at = int(self.power.argmax())
        return float(self.power[at]), float(self.speed[at])

    def peak_torque(self) -> tuple[float, float]:
        """N m, and the speed it stands at."""
        torque = self.torque
        at = int(torque.argmax())
        return float(torque[at]), float(self.speed[at])


def binned(run: Run, width: float = BIN, window: int = _WINDOW) -> Curve:
    """Median of bins of equal speed, then a smoothing parabola over `window` bins. Only the longest rise in speed counts.

    Raises OutOfRangeError for a run that is too short or holds no rise.
    """
    if len(run.speed) != len(run.power) or len(run.speed) < _LEAST_POINTS:
        raise OutOfRangeError(f"“{run.name}” has {len(run.speed)} points; {_LEAST_POINTS} with speed and power are the least.")
    place = np.floor(run.speed / width + 1e-9).astype(np.int64)
    speeds, powers, spreads, counts = [], [], [], []
    order = np.argsort(place, kind="stable")
    edges = np.flatnonzero(np.diff(place[order])) + 1
    for part in np.split(order, edges):
        power = run.power[part]
        middle = float(np.median(power))
        speeds.append(float(np.median(run.speed[part])))
        powers.append(middle)
        spreads.append(float(np.median(np.abs(power - middle))) * 1.4826)
        counts.append(len(part))
    first, last = math.ceil(min(speeds) / width - 1e-9), math.floor(max(speeds) / width + 1e-9)
    grid = np.arange(first, last + 1, dtype=np.float64) * width
    if len(grid) < _LEAST_POINTS:
        raise OutOfRangeError(
            f"“{run.name}” spans {round((speeds[-1] - speeds[0]) * 60):,} rpm; at least {round(_LEAST_POINTS * width * 60):,} are needed."
        )
    power = np.interp(grid, speeds, powers)
    rough = power.copy()
    size = min(window, len(grid) - (len(grid) + 1) % 2)
    if size >= 3:
        power = savgol_filter(power, size, min(_DEGREE, size - 1))
    left = math.sqrt(float(savgol_coeffs(size, min(_DEGREE, size - 1))[size // 2])) if size >= 3 else 1.0
    noise = left * np.maximum(
        np.interp(grid, speeds, np.array(spreads) / np.sqrt(np.array(counts))),
        float(np.std(rough - power)) / math.sqrt(max(1e-9, 1.0 - left**2)),
    )
    return Curve(name=run.name, speed=grid, power=power, noise=noise, factor=1.0, standard=run.standard, samples=len(run.speed))


def both_ways(out: Curve, back: Curve, single: float, mean: float) -> Curve:
    """The mean of a pull there and back on one road, over the speeds both have; `single` and `mean` are one sigma of one
    pull and of the mean as parts of the power, where no sample scatters more.

    Slope and steady wind are added to one and taken off the other, so that they leave the mean. Raises OutOfRangeError where the two share too little.
    """
    low, high = max(out.speed[0], back.speed[0]), min(out.speed[-1], back.speed[-1])
    grid = out.speed[(out.speed >= low) & (out.speed <= high)]
    if len(grid) < 5:
        raise OutOfRangeError(f"“{out.name}” and “{back.name}” share too few speeds to be averaged.")
    there, again = (np.interp(grid, each.speed, each.power) for each in (out, back))
    own = np.hypot(*(np.interp(grid, each.speed, each.noise) for each in (out, back))) / 2.0
    power = (there + again) / 2.0
    scattered = own > 1.1 * single * power / math.sqrt(2.0)
    return replace(
        out, name=f"{out.name} and {back.name}", speed=grid, power=power, noise=np.where(scattered, own, mean * power), samples=out.samples + back.samples
    )  # fmt: skip


def brought_to(run: Run, standard: Standard, width: float = BIN) -> Curve:
    """A run's curve as of one standard. Raises OutOfRangeError where that cannot be had, with what is missing."""
    curve = binned(run, width)
    if run.taken_off:  # inertia taken off shows as power on an accelerating dyno though the engine makes none
        shown = np.array([power_kept(run.taken_off, float(speed), run.gain) for speed in curve.speed])
        curve = replace(curve, power=curve.power - shown)
    if run.standard is standard:
        return replace(curve, standard=standard)
    if run.boosted:
        if run.standard is Standard.NONE:
            return replace(curve, standard=Standard.NONE)
        raise OutOfRangeError(
            f"“{run.name}” is of a boosted engine and corrected by {run.standard}: no such factor holds for it. Give it as measured."
        )
    if run.air is None:
        raise OutOfRangeError(
            f"“{run.name}” is {run.standard if run.standard is not Standard.NONE else 'not corrected'} and its air is not known: "
            f"it cannot be brought to {standard}. Give pressure, temperature and humidity of its day."
        )
    times = factor(run.air, standard) / factor(run.air, run.standard)
    return replace(curve, power=curve.power * times, noise=curve.noise * times, factor=factor(run.air, standard), standard=standard)


def common_standard(runs: Sequence[Run], wished: Standard = Standard.SAE_J1349) -> Standard:
    """The standard that all runs can be brought to: the wished one, else the one they all carry. Raises OutOfRangeError where none is."""
    if any(run.boosted for run in runs):
        if all(run.standard is Standard.NONE for run in runs):
            return Standard.NONE
        corrected = next(run for run in runs if run.standard is not Standard.NONE)
        raise OutOfRangeError(
            f"“{corrected.name}” is corrected by {corrected.standard}, and a boosted engine has no such factor. Give every run as measured."
        )
    kinds = {run.standard for run in runs}
    movable = all(run.air is not None for run in runs)
    if movable or kinds == {wished}:
        return wished
    if len(kinds) == 1:
        return kinds.pop()
    missing = next(run for run in runs if run.air is None)
    raise OutOfRangeError(
        f"These runs are corrected in different ways ({', '.join(sorted(kinds))}), and the air of “{missing.name}” is not known: "
        "laid over one another they would show the air, not the engine. Give its pressure, temperature and humidity."
    )


def differences(runs: Sequence[Run]) -> tuple[str, ...]:
    """What the runs were not made alike in: words for each of dyno, gear, wheel, tyre, place."""
    out = []
    for key, words in MAKE_UP.items():
        told = {dict(run.made_on).get(key, "") for run in runs}
        if len(told) > 1:
            out.append(f"{words}: {', '.join(sorted(each or 'not known' for each in told))}")
    return tuple(out)


@dataclass(frozen=True, kw_only=True)
class Band:
    """Power gained between two speeds (rev/s): part of the first run's, weighted by time spent there as well, and the noise of it."""

    low: float
    high: float
    gain: float
    by_time: float
    noise: float


@dataclass(frozen=True, kw_only=True)
class Comparison:
    """Second run less first on their common grid: rev/s, W, N m, and the spread (W, two sigma) below which nothing is told."""

    speed: Samples
    power: Samples
    torque: Samples
    spread: Samples
    bands: tuple[Band, ...]
    in_use: Band | None


def gain_between(first: Curve, second: Curve, low: float, high: float) -> Band:
    """Area gained between two speeds, ends interpolated. Raises OutOfRangeError where the runs do not reach that far."""
    if low >= high or low < max(first.speed[0], second.speed[0]) - 1e-9 or high > min(first.speed[-1], second.speed[-1]) + 1e-9:
        raise OutOfRangeError(f"Both runs must reach from {low * 60:,.0f} to {high * 60:,.0f} rpm.")
    grid = np.unique(
        np.concatenate(
            (
                [low],
                first.speed[(first.speed > low) & (first.speed < high)],
                second.speed[(second.speed > low) & (second.speed < high)],
                [high],
            )
        )
    )
    one, two = np.interp(grid, first.speed, first.power), np.interp(grid, second.speed, second.power)
    gain = float(np.trapezoid(two, grid) / np.trapezoid(one, grid) - 1.0)
    weight = grid / one
    by_time = float(np.trapezoid(weight * two, grid) / np.trapezoid(weight * one, grid) - 1.0)
    noise = float(
        np.sqrt(np.mean(np.interp(grid, first.speed, first.noise) ** 2 + np.interp(grid, second.speed, second.noise) ** 2)) / one.mean()
    )
    return Band(low=float(low), high=float(high), gain=gain, by_time=by_time, noise=noise / math.sqrt(max(1.0, len(grid) / _WINDOW)))


def compare(first: Curve, second: Curve, in_use: tuple[float, float] | None = None, *, least: float = 500.0 / 60.0) -> Comparison:
    """Second less first, with bands in which it is gained or lost by more than the noise, each at least `least` wide, and the range in use."""
    low, high = max(first.speed[0], second.speed[0]), min(first.speed[-1], second.speed[-1])
    if high - low < least:
        raise OutOfRangeError("These runs share less than 500 rpm.")
    grid = first.speed[(first.speed >= low - 1e-9) & (first.speed <= high + 1e-9)]
    power = np.interp(grid, second.speed, second.power) - np.interp(grid, first.speed, first.power)
    spread = 2.0 * np.sqrt(np.interp(grid, first.speed, first.noise) ** 2 + np.interp(grid, second.speed, second.noise) ** 2)
    sign = np.where(power > spread, 1, np.where(power < -spread, -1, 0))
    bands = []
    for value, group in itertools.groupby(range(len(grid)), key=lambda index: int(sign[index])):
        part = list(group)
        if value and grid[part[-1]] - grid[part[0]] >= least:
            bands.append(gain_between(first, second, float(grid[part[0]]), float(grid[part[-1]])))
    lives = None
    if in_use is not None:
        begin, end = max(in_use[0], low), min(in_use[1], high)
        if end - begin >= least:
            lives = gain_between(first, second, begin, end)
    return Comparison(speed=grid, power=power, torque=power / (2.0 * math.pi * grid), spread=spread, bands=tuple(bands), in_use=lives)


def range_in_use(shift: float, ratios: Sequence[float]) -> tuple[float, float]:
    """Speeds between which an engine lives: from where the widest gear change lets it fall to, up to the change (rev/s); ratios high to low."""
    if len(ratios) < 2:
        return 0.75 * shift, shift
    return shift * min(two / one for one, two in itertools.pairwise(ratios)), shift
