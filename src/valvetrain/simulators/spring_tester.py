"""A bench spring tester with a set of springs that nobody knows: friction, resolution, zero, one tired spring."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from valvetrain.parts.spring_readings import SpringReadings


@dataclass(frozen=True)
class HiddenSpring:
    """The truth about one spring: free length m, rate N/m when free, its rise N/m^2, solid height m."""

    free: float
    rate: float
    bend: float
    solid: float


@dataclass(frozen=True)
class SpringTesterStandIn:
    """One tester and a set of `springs` springs, fixed by `seed`. `top` m is the height of the first reading, `step` m between readings.

    `resolution` N of its dial, `friction` the share that its ram takes, `noise` N of a reading (standard deviation).
    """

    seed: int
    springs: int = 4
    top: float = 37.0e-3
    step: float = 1.0e-3
    readings_each: int = 13
    resolution: float = 1.0
    friction: float = 0.004
    noise: float = 0.8

    @cached_property
    def truth(self) -> tuple[HiddenSpring, ...]:
        """The hidden springs: for tests, never for a page."""
        draw = np.random.default_rng(self.seed)
        rate, free = draw.uniform(34e3, 44e3), self.top + draw.uniform(4.2e-3, 5.6e-3)
        bend = draw.choice([0.0, 0.0, 4e5])
        solid = self.top - self.step * (self.readings_each - 2) + draw.uniform(0.1e-3, 0.6e-3)
        springs = [
            HiddenSpring(
                free + draw.normal(0.0, 0.08e-3), rate * (1 + draw.normal(0.0, 0.008)), float(bend), solid + draw.normal(0.0, 0.03e-3)
            )
            for _ in range(self.springs)
        ]
        tired = int(draw.integers(self.springs))
        weak = springs[tired]
        springs[tired] = HiddenSpring(weak.free - draw.uniform(0.6e-3, 0.9e-3), weak.rate * 0.985, weak.bend, weak.solid)
        return tuple(springs)

    @property
    def count(self) -> int:
        """How many readings the whole set gives."""
        return self.springs * self.readings_each

    def readings(self, count: int) -> tuple[SpringReadings, ...]:
        """The first `count` readings as the dial shows them, spring after spring."""
        draw = np.random.default_rng(self.seed + 1)
        found = []
        for number, spring in enumerate(self.truth):
            height = np.asarray(self.top - self.step * np.arange(self.readings_each), dtype=np.float64)
            squeeze = np.maximum(spring.free - height, 0.0)
            load = squeeze * (spring.rate + spring.bend * squeeze)
            load += np.maximum(spring.solid - height, 0.0) * 40.0 * spring.rate  # closed coils
            shown = load * (1.0 + self.friction) + draw.normal(0.0, self.noise, len(height))
            shown = np.maximum(np.round(shown / self.resolution) * self.resolution, 0.0)
            left = min(max(count - number * self.readings_each, 0), self.readings_each)
            if left:
                found.append(SpringReadings(f"{number + 1}", height[:left], shown[:left]))
        return tuple(found)
