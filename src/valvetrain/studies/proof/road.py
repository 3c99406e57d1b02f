"""Power from a pull on the road: speed over time from GPS or an rpm log, with mass, drag and slope.

One run alone is off by some 3.6 % (one sigma), of which 2.9 % is common to it: both ways on one road, and the mean, remove slope and most
of the wind.
"""

import math
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.signal import savgol_filter

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.road_load import power_of_air, power_of_gain, power_of_road

Samples = NDArray[np.float64]
COMMON, POINT = 0.029, 0.021  # parts of the power, one sigma: common to a run, and a point's own
_WINDOW: Final = 11
_GRAVITY: Final = 9.80665


@dataclass(frozen=True, kw_only=True)
class Vehicle:
    """Mass with rider (kg), what the wheels count as (kg, J / r^2), drag area (m2), rolling, air (kg/m3), slope (rise over way)."""

    mass: float
    turning: float = 0.0
    drag_area: float = 0.5
    rolling: float = 0.015
    density: float = 1.2
    slope: float = 0.0


def power_at_wheel(time: Samples, speed: Samples, vehicle: Vehicle, window: int = _WINDOW) -> Samples:
    """Power at the driven wheel (W) from speed (m/s) over evenly spaced time (s): a parabola over `window` points gives speed and gain.

    Raises OutOfRangeError for fewer points than the window, or times that do not run on.
    """
    if len(time) < window:
        raise OutOfRangeError(f"The pull has {len(time)} points; {window} are the least.")
    steps = np.diff(time)
    if (steps <= 0.0).any():
        raise OutOfRangeError("Time stands still or runs back in this pull.")
    step = float(np.median(steps))
    grid = np.arange(time[0], time[-1] + 0.5 * step, step)
    even = np.interp(grid, time, speed)
    smooth = savgol_filter(even, window, 2)
    gain = savgol_filter(even, window, 2, deriv=1, delta=step)
    weight = vehicle.mass * _GRAVITY
    power = np.array(
        [
            power_of_gain(v, a, vehicle.mass, vehicle.turning) + power_of_air(v, vehicle.density, vehicle.drag_area) + power_of_road(v, weight, vehicle.rolling, vehicle.slope)
            for v, a in zip(smooth.tolist(), gain.tolist(), strict=True)
        ]
    )  # fmt: skip
    return np.asarray(np.interp(time, grid, power))


def crank_speed(speed: Samples, circumference: float, ratio: float) -> Samples:
    """Crank speed (rev/s) in one gear, of road speed (m/s), rolling circumference (m) and whole ratio."""
    return np.asarray(speed / circumference * ratio)


def density_of(pressure: float, temperature: float) -> float:
    """Of dry air, kg/m3, from Pa and K."""
    return pressure / (287.05 * temperature)


def doubt_of_run(*, both_ways: bool) -> float:
    """One sigma of a run's power, part of it; common errors but mass fall away when both ways are averaged."""
    return math.hypot(COMMON / (2.0 if both_ways else 1.0), POINT / math.sqrt(2.0 if both_ways else 1.0))
