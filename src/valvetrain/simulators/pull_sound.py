"""A simulated machine on a pull, and the microphone that rides with it: stand-in for a phone, and truth for the tests of the ear.

Firing pulses through damped pipe tones, unequal cylinders, intake, valve ticks, gear whine, hiss, wind in gusts, another engine,
cuts of a limiter, misfires, ticks of bouncing valves, a passing by. What is made depends on the seed alone.
"""

import math
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, fftconvolve, sosfilt

Samples = NDArray[np.float64]
_STEP: Final = 0.001  # s between points of the simulated run
_SOUND: Final = 343.2


class Giving(StrEnum):
    """How the simulated engine gives up."""

    LIMITER = "limiter"
    RAGGED = "ragged"
    CLATTER = "clatter"


@dataclass(frozen=True, kw_only=True)
class PullPlan:
    """One recording to be made. `angles` in rad of 4 pi, `top` in rev/s; loudnesses in dB of the engine's own; `rate` samples a second."""

    angles: tuple[float, ...]
    top: float
    giving: Giving
    seconds: float = 20.0
    gears: tuple[float, ...] = (2.1, 1.6, 1.27)
    wind: float = -10.0
    second: float | None = None
    gain: bool = False
    passing: float | None = None
    rate: int = 24_000


@dataclass(frozen=True, kw_only=True)
class PullSound:
    """The recording with what is true of it: time (s), speed (rev/s), whether the throttle is full, gear changes (s), end (s, rev/s)."""

    samples: Samples
    rate: int
    time: Samples
    speed: Samples
    full: NDArray[np.bool_]
    changes: tuple[float, ...]
    end_time: float
    end_speed: float


@dataclass(frozen=True, kw_only=True)
class _Run:
    time: Samples
    speed: Samples
    full: NDArray[np.bool_]
    changes: tuple[float, ...]
    end_time: float


def _course(plan: PullPlan, draw: np.random.Generator) -> _Run:
    """The run as it is driven: a start on a closed throttle, each gear pulled out, the last one held at its end, then closed."""
    steps = round(plan.seconds / _STEP)
    time = np.arange(steps, dtype=np.float64) * _STEP
    speed, full = np.empty(steps), np.zeros(steps, dtype=bool)
    ratios = plan.gears
    at, now, gear, changes, end = plan.top * draw.uniform(0.42, 0.5), "waiting", 0, [], 0.0
    shift = plan.top * draw.uniform(0.955, 0.985, len(ratios))
    share = np.array([1.0 / ratio for ratio in ratios])
    share = share / share.sum() * (plan.seconds - 5.0)
    since, target = 0.0, at
    wait, hold = draw.uniform(0.8, 1.4), draw.uniform(1.3, 1.9)
    soft = plan.giving is not Giving.LIMITER
    pull = [2.2 * plan.top * 0.42 / max(0.6, each) for each in share]
    for step in range(steps):
        since += _STEP
        if now == "waiting":
            at *= 1.0 + 0.02 * math.sin(2.0 * since) * _STEP
            if since > wait:
                now, since = "pulling", 0.0
        elif now == "pulling":
            last = gear == len(ratios) - 1
            goal = plan.top if last else shift[gear]
            near = max(0.0, 1.0 - at / (plan.top * (1.004 if soft else 1.12)))
            at += pull[gear] * min(1.0, 0.25 + (2.6 if soft else 2.0) * near) * _STEP * (min(1.0, 60.0 * near) if soft and last else 1.0)
            if at >= goal * (0.9985 if soft and last else 1.0):
                now, since = ("holding", 0.0) if last else ("changing", 0.0)
                if last:
                    end = step * _STEP
                else:
                    changes.append(step * _STEP)
                    target = at * ratios[gear + 1] / ratios[gear]
        elif now == "changing":
            at = target + (at - target) * math.exp(-_STEP / 0.045)
            if since > 0.24:
                now, since, gear = "pulling", 0.0, gear + 1
        elif now == "holding":
            if plan.giving is Giving.LIMITER:
                beat = 11.0
                at = plan.top * (1.0 - 0.007 * (since * beat % 1.0))
            elif plan.giving is Giving.RAGGED:
                at += (plan.top * (1.0 + 0.002 * math.sin(9.0 * since)) - at) * _STEP * 8.0
            else:
                at += (plan.top * (0.999 + 0.0015 * math.sin(5.0 * since)) - at) * _STEP * 8.0
            if since > hold:
                now, since = "closed", 0.0
        else:
            at = max(plan.top * 0.3, at * (1.0 - 0.28 * _STEP))
        speed[step] = at
        full[step] = now in ("pulling", "holding")
    return _Run(time=time, speed=speed, full=full, changes=tuple(changes), end_time=end)


def _times(phase: Samples, time: Samples, angle: float) -> Samples:
    """When the crank (phase in turns) passes an angle of the four-stroke cycle."""
    first, last = phase[0] / 2.0, phase[-1] / 2.0
    counts = np.arange(math.ceil(first - angle / (4.0 * math.pi)), math.floor(last - angle / (4.0 * math.pi)) + 1)
    return np.interp((counts + angle / (4.0 * math.pi)) * 2.0, phase, time)


def _strikes(times: Samples, sizes: Samples, rate: int, length: int) -> Samples:
    """Pulses between samples, shared by the two beside them."""
    out = np.zeros(length + 2)
    place = times * rate
    low = np.floor(place).astype(np.int64)
    keep = (low >= 0) & (low < length)
    low, part, sizes = low[keep], (place - low)[keep], sizes[keep]
    np.add.at(out, low, sizes * (1.0 - part))
    np.add.at(out, low + 1, sizes * part)
    return out[:length]


def _ringing(rate: int, tones: list[tuple[float, float, float]], seconds: float = 0.05) -> Samples:
    """Answer of a pipe to one pulse: damped tones (Hz, s, size)."""
    time = np.arange(round(seconds * rate)) / rate
    return np.asarray(sum(size * np.exp(-time / decay) * np.sin(2.0 * math.pi * tone * time) for tone, decay, size in tones))


def _level(samples: Samples, decibel: float, reference: float) -> Samples:
    size = float(np.sqrt(np.mean(samples**2)))
    return samples * (reference * 10.0 ** (decibel / 20.0) / size) if size else samples


def _engine(plan: PullPlan, run: _Run, draw: np.random.Generator) -> Samples:
    """The engine alone."""
    rate, length = plan.rate, round(plan.seconds * plan.rate)
    phase = np.concatenate(([0.0], np.cumsum(run.speed[:-1] * _STEP)))
    cylinders = len(plan.angles)
    strength = 1.0 + 0.12 * draw.standard_normal(cylinders)
    exhaust, intake, ticks = np.zeros(length), np.zeros(length), np.zeros(length)
    held = (run.time > run.end_time) & run.full & (run.end_time > 0.0)
    for cylinder, angle in enumerate(plan.angles):
        times = _times(phase, run.time, angle)
        loud = np.where(np.interp(times, run.time, run.full.astype(float)) > 0.5, 1.0, 0.16)
        ending = np.interp(times, run.time, held.astype(float)) > 0.5
        sizes = strength[cylinder] * loud * (1.0 + 0.07 * draw.standard_normal(len(times)))
        if plan.giving is Giving.LIMITER:
            sizes[ending & ((times - run.end_time) * 11.0 % 1.0 > 0.45)] *= 0.06
        elif plan.giving is Giving.RAGGED:
            sizes[ending & (draw.random(len(times)) < 0.38)] *= 0.05
        exhaust += _strikes(times, sizes, rate, length)
        intake += _strikes(times + 0.002, sizes * 0.5, rate, length)
        for part in (0.31, 0.56):
            shut = _times(phase, run.time, angle + part * 4.0 * math.pi)
            ticks += _strikes(shut, np.ones(len(shut)), rate, length)
    pipe = [
        (draw.uniform(110, 230), 0.010, 1.0),
        (draw.uniform(330, 520), 0.006, 0.8),
        (draw.uniform(800, 1200), 0.003, 0.5),
        (draw.uniform(1700, 2600), 0.0015, 0.3),
    ]
    sound = fftconvolve(exhaust, _ringing(rate, pipe))[:length]
    sound += (
        0.4 * fftconvolve(intake, _ringing(rate, [(draw.uniform(240, 420), 0.006, 1.0), (draw.uniform(600, 900), 0.004, 0.6)]))[:length]
    )
    size = float(np.sqrt(np.mean(sound**2)))
    click = _ringing(rate, [(3300.0, 0.0008, 1.0), (5200.0, 0.0006, 0.8)], 0.01)
    sound += _level(fftconvolve(ticks, click)[:length], -24.0, size)
    grid = np.arange(length) / rate
    turned = np.interp(grid, run.time, phase)
    fast = np.interp(grid, run.time, run.speed) / plan.top
    sound += _level(fast * np.sin(2.0 * math.pi * 23.7 * turned), -26.0, size)
    sound += _level(fast * draw.standard_normal(length), -26.0, size)
    if plan.giving is Giving.CLATTER:
        coming = np.clip((np.interp(grid, run.time, run.speed) / plan.top - 0.965) / 0.03, 0.0, 1.0) * (
            np.interp(grid, run.time, run.full.astype(float)) > 0.5
        )
        bounce = np.zeros(length)
        for angle in plan.angles:
            for part in (0.62, 0.66, 0.69):
                times = _times(phase, run.time, angle + part * 4.0 * math.pi)
                times = times + 0.0003 * draw.standard_normal(len(times))
                bounce += _strikes(times, draw.exponential(1.0, len(times)), rate, length)
        rattle = (
            fftconvolve(bounce, _ringing(rate, [(3000.0, 0.0012, 1.0), (4700.0, 0.001, 1.0), (7000.0, 0.0007, 0.7)], 0.01))[:length]
            * coming
        )
        there = float(np.sqrt(np.mean(rattle[coming > 0.5] ** 2))) if (coming > 0.5).any() else 0.0
        if there:
            sound += rattle * size * 10.0 ** (-9.0 / 20.0) / there
    return np.asarray(sound / size)


def _wind(length: int, rate: int, draw: np.random.Generator) -> Samples:
    """Wind over a microphone: low, and in gusts."""
    sos = butter(1, [20.0, 420.0], btype="bandpass", fs=rate, output="sos")
    gust = np.interp(
        np.arange(length) / rate,
        np.arange(0.0, length / rate + 1.0, 0.7),
        0.4 + draw.exponential(0.6, math.ceil(length / rate / 0.7 + 2))[: len(np.arange(0.0, length / rate + 1.0, 0.7))],
    )
    return np.asarray(sosfilt(sos, draw.standard_normal(length)) * gust)


def make(plan: PullPlan, seed: int) -> PullSound:
    """The recording of a plan; the same seed gives the same sound."""
    draw = np.random.default_rng(seed)
    run = _course(plan, draw)
    length = round(plan.seconds * plan.rate)
    sound = _engine(plan, run, draw)
    sound += _level(_wind(length, plan.rate, draw), plan.wind, 1.0)
    if plan.second is not None:
        other_top = plan.top * draw.uniform(0.6, 0.9)
        other = replace(plan, angles=(0.0, 2.0 * math.pi), top=other_top, giving=Giving.LIMITER, seconds=plan.seconds)
        wave = other_top * (0.8 + 0.15 * np.sin(run.time * draw.uniform(0.3, 0.9) + draw.uniform(0.0, 6.0)))
        sound += _level(
            _engine(other, replace(run, speed=wave, full=np.ones_like(run.full), end_time=plan.seconds), draw), plan.second, 1.0
        )
    grid = np.arange(length) / plan.rate
    if plan.passing is not None:  # it comes, passes at 6 m, and goes
        way = plan.passing * (grid - plan.seconds / 2.0)
        far = np.hypot(way, 6.0)
        sound = np.interp(grid - (far - 6.0) / _SOUND, grid, sound) * 6.0 / far
        sound += _level(draw.standard_normal(length), -50.0, 1.0)
    if plan.gain:  # a recorder that evens out what it hears
        power = sosfilt(butter(1, 1.5, fs=plan.rate, output="sos"), sound**2)
        sound = sound / np.sqrt(np.maximum(power, 1e-3))
    sound = 0.5 * sound / max(1e-9, float(np.max(np.abs(sound))))
    return PullSound(
        samples=sound, rate=plan.rate, time=run.time, speed=run.speed, full=run.full, changes=run.changes, end_time=run.end_time, end_speed=plan.top
    )  # fmt: skip
