"""A simulated starter motor with a clamp around its cable: stand-in for the meter, and truth for the tests of relative compression."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.formulas.slider_crank import piston_travel

Samples = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class StarterPlan:
    """One trace: firing angles (rad of 4 pi), part of its pressure that each cylinder has, clamp's noise (A), time (s), and battery.

    The pressure course is p_a (V_ivc/V)^n from intake closing to exhaust opening; V in m3, J in kg m2, friction in N m and N m s."""

    angles: tuple[float, ...]
    pressure: tuple[float, ...]
    seconds: float = 4.0
    noise: float = 4.0
    voltage: float = 12.2
    fade: float = 0.0
    resistance: float = 0.032
    ratio: float = 18.0
    constant: float = 0.0155
    inertia: float = 0.045
    friction: float = 12.0
    drag: float = 0.35
    bore: float = 0.067
    stroke: float = 0.0425
    rod: float = 0.085
    trapped: float = 8.5
    exponent: float = 1.28
    rate: int = 2000


@dataclass(frozen=True, kw_only=True)
class StarterTrace:
    """Time (s), current (A), mark (1 near the top of compression of cylinder 1, as an ignition pick-up would give it), speed (rev/s)."""

    time: Samples
    current: Samples
    mark: Samples
    speed: Samples


def _torque_table(plan: StarterPlan) -> Samples:
    """Gas torque of one cylinder at full pressure over the four-stroke cycle, top of compression at 0."""
    angle = np.linspace(-2.0 * math.pi, 2.0 * math.pi, 2881)
    drop = piston_travel(plan.stroke, plan.rod, 0.0, angle)
    chamber = 1.0 / (plan.trapped - 1.0)
    closed = np.abs(angle) < math.radians(130.0)
    at_close = float(piston_travel(plan.stroke, plan.rod, 0.0, np.array([math.radians(130.0)]))[0])
    volume = chamber * at_close + drop
    pressure = np.where(closed, ((chamber * at_close + at_close) / volume) ** plan.exponent - 1.0, 0.0)
    arm = np.gradient(drop, angle)
    return np.asarray(101325.0 * pressure * math.pi / 4.0 * plan.bore**2 * arm)


def make(plan: StarterPlan, seed: int, *, speed: float = 2.0) -> StarterTrace:
    """The trace of a plan; the same seed gives the same."""
    draw = np.random.default_rng(seed)
    table = _torque_table(plan)
    step = 1.0 / (plan.rate * 2)
    count = round(plan.seconds / step)
    time, current, turn, mark = (np.empty(count) for _ in range(4))
    angle, spin = draw.uniform(0.0, 4.0 * math.pi), 2.0 * math.pi * speed * 0.2
    cycle = 4.0 * math.pi
    for number in range(count):
        gas = 0.0
        for place, part in zip(plan.angles, plan.pressure, strict=True):
            at = (angle - place + 2.0 * math.pi) % cycle
            gas += part * table[int(at / cycle * 2880.0)]
        volts = plan.voltage * (1.0 - plan.fade * number * step / plan.seconds)
        amps = (volts - plan.constant * plan.ratio * spin) / plan.resistance
        amps = max(0.0, amps)
        push = plan.constant * plan.ratio * amps * 0.9 - plan.friction - plan.drag * spin + gas
        spin = max(0.0, spin + push / plan.inertia * step)
        angle += spin * step
        time[number], current[number], turn[number] = number * step, amps, spin / (2.0 * math.pi)
        mark[number] = 1.0 if (angle - plan.angles[0]) % cycle < 0.25 else 0.0
    every = slice(None, None, 2)
    return StarterTrace(
        time=time[every], current=current[every] + plan.noise * draw.standard_normal(len(time[every])), mark=mark[every], speed=turn[every]
    )


def even(count: int, weak: Sequence[tuple[int, float]] = ()) -> StarterPlan:
    """An evenly firing engine whose cylinders named in `weak` (firing place from 0) have only a part of their pressure."""
    parts = [1.0] * count
    for place, part in weak:
        parts[place] = part
    return StarterPlan(angles=tuple(4.0 * math.pi * each / count for each in range(count)), pressure=tuple(parts))
