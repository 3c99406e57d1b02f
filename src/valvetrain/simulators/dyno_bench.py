"""A simulated inertia dyno: the run of an engine whose power leaves its course where its valves float. Stand-in and truth for the tests."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class DynoPlan:
    """Peak torque (N m) and its speed (rev/s), width of the hump (part), first and last speed (rev/s), inertia at the crank (kg m2),
    where float begins (rev/s, 0 for nowhere), loss a rev/s beyond it (part), noise of the torque (part), samples a second."""

    torque: float = 60.0
    at: float = 150.0
    wide: float = 0.55
    low: float = 60.0
    high: float = 210.0
    inertia: float = 0.25
    floats: float = 0.0
    loss: float = 0.0024
    noise: float = 0.006
    rate: int = 100


@dataclass(frozen=True, kw_only=True)
class DynoRun:
    """Time (s), crank speed (rev/s), torque (N m) as a dyno's file gives them."""

    time: Samples
    speed: Samples
    torque: Samples

    @property
    def power(self) -> Samples:
        """W."""
        return np.asarray(self.torque * 2.0 * math.pi * self.speed)


def torque_at(plan: DynoPlan, speed: Samples) -> Samples:
    """Torque of the engine without noise, N m."""
    hump = plan.torque * (1.0 - ((speed / plan.at - 1.0) / (1.35 * plan.wide)) ** 2 * 0.5 - 0.06 * np.sin(speed / plan.at * 9.0) ** 2)
    if plan.floats:
        hump = hump * (1.0 - plan.loss * np.maximum(speed - plan.floats, 0.0))
    return np.maximum(hump, 1.0)


def run(plan: DynoPlan, seed: int) -> DynoRun:
    """One run: the drum gathers speed by the torque until the end; after float the torque is rough as well."""
    draw = np.random.default_rng(seed)
    step = 1.0 / plan.rate
    speed = plan.low
    speeds: list[float] = []
    while speed < plan.high and len(speeds) < 200_000:
        speeds.append(speed)
        torque = float(torque_at(plan, np.array([speed]))[0])
        if torque <= 2.0:
            break
        speed += torque / (2.0 * math.pi * plan.inertia) * step
    course = np.array(speeds)
    clean = torque_at(plan, course)
    rough = np.where((course > plan.floats) & (plan.floats > 0.0), 3.0, 1.0)
    noisy = clean * (1.0 + plan.noise * rough * draw.standard_normal(len(course)))
    return DynoRun(time=np.arange(len(course), dtype=np.float64) * step, speed=course, torque=noisy)
