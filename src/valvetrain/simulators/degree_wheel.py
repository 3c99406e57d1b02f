"""A degree wheel and a dial indicator on an engine whose cam nobody knows: backlash, resolution, a cosine error, noise, a slip."""

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from valvetrain.parts.cam_card import CamCard, from_card
from valvetrain.parts.lift_curve import LiftCurve


@dataclass(frozen=True)
class WheelStandIn:
    """One instrument on one hidden cam, fixed by its seed. Angles rad of the crank, lengths m.

    `step` is what the crank is turned between readings; `resolution` of the indicator; `noise` of a reading (standard deviation);
    `backlash` of the chain, taken up over the first readings; `tilt` of the indicator off the valve's axis; `slips` readings go wrong.
    """

    seed: int
    step: float = math.radians(2.0)
    resolution: float = 0.01e-3
    noise: float = 0.004e-3
    backlash: float = math.radians(1.5)
    tilt: float = math.radians(4.0)
    slips: int = 2

    @cached_property
    def truth(self) -> LiftCurve:
        """The hidden cam's lift at the valve: for tests, never for a page."""
        draw = np.random.default_rng(self.seed)
        lift, duration = draw.uniform(8.2e-3, 10.2e-3), math.radians(draw.uniform(238, 258))
        return from_card(CamCard(lift, ((1e-3, duration),), draw.uniform(0.2e-3, 0.35e-3), 0.018e-3 * 180 / math.pi))

    @cached_property
    def centre(self) -> float:
        """Where the hidden lobe centre stands, crank rad after overlap TDC."""
        return math.radians(np.random.default_rng(self.seed + 1).uniform(100.0, 112.0))

    @cached_property
    def _angles(self) -> np.ndarray:
        reach = 2.0 * float(self.truth.angle[-1]) + math.radians(12.0)
        return np.arange(self.centre - reach, self.centre + reach, self.step)

    @property
    def count(self) -> int:
        """How many readings one pass over the lobe gives."""
        return len(self._angles)

    def readings(self, count: int) -> list[tuple[float, float]]:
        """The first `count` readings as the instrument shows them: crank angle (rad from overlap TDC) and indicator (m)."""
        draw = np.random.default_rng(self.seed + 2)
        angles = self._angles
        # the slack of the chain is taken up over the first tenth of the pass: the cam lags until then
        lag = self.backlash * np.clip(1.0 - np.arange(len(angles)) / (0.1 * len(angles)), 0.0, 1.0)
        shown = self.truth.lift_at((angles - lag - self.centre) / 2.0) / math.cos(self.tilt) + draw.normal(0.0, self.noise, len(angles))
        wrong = draw.choice(np.arange(len(angles) // 5, 4 * len(angles) // 5), self.slips, replace=False)
        shown[wrong] += draw.choice([-1.0, 1.0], self.slips) * draw.uniform(0.15e-3, 0.4e-3, self.slips)
        shown = np.round(shown / self.resolution) * self.resolution
        return [(float(angle), float(lift)) for angle, lift in zip(angles[:count], shown[:count], strict=True)]


def as_text(readings: list[tuple[float, float]]) -> str:
    """Readings as the open log the product reads: one line each, crank degrees and mm."""
    lines = [f"{math.degrees(angle):.1f};{lift * 1e3:.3f}" for angle, lift in readings]
    return "\n".join(["crank deg;lift (mm)", *lines]) + "\n"
