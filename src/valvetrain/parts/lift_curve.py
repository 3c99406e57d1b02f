"""A cam as a lift curve over the cam angle, made from what a cam card tells."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from valvetrain.errors import ContradictionError
from valvetrain.formulas.cam_curves import flank_exponents, polynomial_coefficients, unit_lift

_USUAL_FULLNESS = 8.0  # 2-8-14-20-26, source stoddart1953; used when one duration is all that is known
_FULLNESS_RANGE = (3.5, 22.0)
_FADE = 0.6  # the ramp's speed dies away over this share of the main half event, so that velocity has no step
_RUN_IN = math.radians(5.0)
_POINTS = 241


@dataclass(frozen=True)
class CamCard:
    """What a cam card tells, in SI: lifts at the valve in m without clearance taken off, durations in crank radians.

    `heights` holds one or two pairs (lift, crank duration). `ramp_height` m and `ramp_slope` m per rad of cam describe
    the clearance ramp; `ramp_known` False lets a second height settle a lower ramp when the flank alone cannot.
    `lobe_centre` is the crank angle from overlap TDC.
    """

    lift: float
    heights: tuple[tuple[float, float], ...]
    lobe_centre: float
    ramp_height: float
    ramp_slope: float
    ramp_known: bool = True


@dataclass(frozen=True)
class LiftCurve:
    """Half of a symmetric lobe, nose first: arrays over the cam angle from the nose.

    `angle` rad, `lift` m, `velocity` m/rad (falling side, so negative or zero), `acceleration` m/rad^2; equal shapes.
    `half_event` rad is where the main event meets the ramp, `fullness` the flank parameter p.
    """

    angle: NDArray[np.float64]
    lift: NDArray[np.float64]
    velocity: NDArray[np.float64]
    acceleration: NDArray[np.float64]
    half_event: float
    fullness: float

    def duration_at(self, height: float) -> float:
        """Crank angle (rad) between the two flanks at a lift (m). Raises ContradictionError above full lift."""
        if not 0.0 < height < float(self.lift[0]):
            raise ContradictionError(f"There is no duration at {height * 1000:.2f} mm: full lift is {self.lift[0] * 1000:.2f} mm.")
        return 4.0 * float(np.interp(-height, -self.lift, self.angle))

    def area(self) -> float:
        """Lift summed over the whole event, m rad of cam."""
        return 2.0 * float(np.trapezoid(self.lift, self.angle))


def _ramp(card: CamCard, half: float, angle: NDArray[np.float64]) -> tuple[NDArray[np.float64], ...]:
    """Lift, velocity and acceleration of the ramp alone at `angle` from the nose."""
    fade, slope, run_in = _FADE * half, _slope(card), _RUN_IN
    if slope <= 0.0:
        zero = np.zeros_like(angle)
        return zero, zero, zero
    straight = card.ramp_height / slope - run_in / 2.0
    # u runs 0..1 over the fade, w over the run-in; the speed follows a smoothstep there, its integral is u^3 - u^4/2
    u = np.clip((angle - (half - fade)) / fade, 0.0, 1.0)
    w = np.clip((half + straight + run_in - angle) / run_in, 0.0, 1.0)
    level = np.clip(angle - half, 0.0, straight)
    total = slope * (fade / 2.0 + straight + run_in / 2.0)
    travelled = slope * (fade * (u**3 - u**4 / 2.0) + level + run_in * (0.5 - (w**3 - w**4 / 2.0)))
    speed = np.where(angle < half, 3 * u**2 - 2 * u**3, 3 * w**2 - 2 * w**3)
    bend = np.where(angle < half, (6 * u - 6 * u**2) / fade, -(6 * w - 6 * w**2) / run_in)
    return total - travelled, -slope * speed, -slope * bend


def _slope(card: CamCard) -> float:
    # A low ramp is a slow one: its run-in is never shortened.
    return min(card.ramp_slope, 2.0 * card.ramp_height / _RUN_IN)


def _main_lift(card: CamCard, half: float) -> float:
    return card.lift - card.ramp_height - _slope(card) * _FADE * half / 2.0


def _lift_at(card: CamCard, half: float, fullness: float, angle: NDArray[np.float64]) -> NDArray[np.float64]:
    terms = polynomial_coefficients(*flank_exponents(fullness))
    return _main_lift(card, half) * unit_lift(terms, angle / half) + _ramp(card, half, angle)[0]


def _half_event(card: CamCard, fullness: float, height: float, duration: float) -> float:
    """Half event (cam rad) that gives this crank duration at this lift."""
    angle = np.array([duration / 4.0])
    miss = lambda half: float(_lift_at(card, half, fullness, angle)[0]) - height
    low, high = duration / 4.0 * 0.5, duration / 4.0 * 4.0
    if miss(low) > 0.0 or miss(high) < 0.0 or _main_lift(card, high) <= 0.0:
        raise ContradictionError(
            f"A lift of {card.lift * 1000:.2f} mm and {math.degrees(duration):.0f}° at {height * 1000:.2f} mm cannot both be."
        )
    return float(brentq(miss, low, high, xtol=1e-10))


def _solve_two(card: CamCard) -> tuple[CamCard, float, float]:
    """Card with its ramp settled, half event and fullness that meet both heights."""
    (low_height, low_duration), (high_height, high_duration) = sorted(card.heights)
    given = (
        f"{math.degrees(low_duration):.0f}° at {low_height * 1000:.2f} mm and "
        f"{math.degrees(high_duration):.0f}° at {high_height * 1000:.2f} mm cannot both be"
    )
    if low_height == high_height or low_duration <= high_duration:
        raise ContradictionError(f"{given}: the lower height must have the longer duration.")

    def miss(fullness: float, ramp_height: float) -> float:
        tried = replace(card, ramp_height=ramp_height)
        half = _half_event(tried, fullness, high_height, high_duration)
        return float(_lift_at(tried, half, fullness, np.array([low_duration / 4.0]))[0]) - low_height

    ends = [miss(end, card.ramp_height) for end in _FULLNESS_RANGE]
    if ends[0] * ends[1] <= 0.0:
        fullness = float(brentq(miss, *_FULLNESS_RANGE, args=(card.ramp_height,), xtol=1e-6))
        return card, _half_event(card, fullness, high_height, high_duration), fullness
    if not card.ramp_known:
        # The ramp was only assumed: a lower one lets the valve shut sooner, down to none at all.
        for fullness in (_USUAL_FULLNESS, *_FULLNESS_RANGE):
            if miss(fullness, 0.0) * miss(fullness, card.ramp_height) <= 0.0:
                height = float(brentq(lambda h, p=fullness: miss(p, h), 0.0, card.ramp_height, xtol=1e-10))
                settled = replace(card, ramp_height=height)
                return settled, _half_event(settled, fullness, high_height, high_duration), fullness
    fits = sorted(_duration_with(card, fullness, (high_height, high_duration), low_height) for fullness in _FULLNESS_RANGE)
    raise ContradictionError(
        f"{given} on a lobe of {card.lift * 1000:.2f} mm with this ramp: with the second, the first lies between "
        f"{math.degrees(fits[0]):.0f}° and {math.degrees(fits[1]):.0f}°."
    )


def _duration_with(card: CamCard, fullness: float, known: tuple[float, float], height: float) -> float:
    half = _half_event(card, fullness, *known)
    angle = np.linspace(0.0, half * 1.6, 2000)
    lift = _lift_at(card, half, fullness, angle)
    return 4.0 * float(np.interp(-height, -lift, angle))


@lru_cache(maxsize=512)
def from_card(card: CamCard) -> LiftCurve:
    """Lift curve that meets every number of the card (source: stoddart1953 for the polynomial).

    Raises ContradictionError naming the numbers when no lobe of this family meets them all.
    """
    if not 1 <= len(card.heights) <= 2:
        raise ContradictionError("A card needs a duration at one or two stated heights.")
    for height, duration in card.heights:
        if not 0.0 < height < card.lift:
            raise ContradictionError(f"A duration at {height * 1000:.2f} mm cannot be: the lobe lifts {card.lift * 1000:.2f} mm.")
        if not 0.0 < duration < 2.5 * math.pi:
            raise ContradictionError(f"A duration of {math.degrees(duration):.0f} crank degrees cannot be.")
    if card.ramp_height >= 0.5 * card.lift:
        raise ContradictionError("The clearance ramp cannot be half of the lift or more.")
    if len(card.heights) == 2:
        card, half, fullness = _solve_two(card)
    else:
        fullness = _USUAL_FULLNESS
        half = _half_event(card, fullness, *card.heights[0])
    end = half + (card.ramp_height / _slope(card) + _RUN_IN if _slope(card) > 0.0 else 0.0)
    angle = np.linspace(0.0, end, _POINTS)
    terms = polynomial_coefficients(*flank_exponents(fullness))
    ramp = _ramp(card, half, angle)
    main = _main_lift(card, half)
    lift, velocity, acceleration = (main / half**order * unit_lift(terms, angle / half, order) + ramp[order] for order in range(3))
    return LiftCurve(angle, lift, velocity, acceleration, half_event=half, fullness=fullness)
