"""What a cam card tells, and the lift curve that meets every number of it."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline
from scipy.optimize import brentq, least_squares

from valvetrain.errors import ContradictionError
from valvetrain.formulas.cam_curves import flank_exponents, polynomial_coefficients, unit_lift
from valvetrain.parts.lift_curve import LiftCurve, both_flanks
from valvetrain.units import LENGTH, amount

Array = NDArray[np.float64]

_USUAL_FULLNESS = 8.0  # 2-8-14-20-26, source stoddart1953; used when one duration is all that is known
_FULLNESS_RANGE = (3.5, 22.0)
_FADE = 0.6  # the ramp's speed dies away over this share of the main half event, so that velocity has no step
_RUN_IN = math.radians(5.0)
_POINTS = 241
_MOST_HEIGHTS = 6
_BEND = 0.25  # a third height may speed up or slow down the flank by this share, no more. Source: judgement


@dataclass(frozen=True)
class CamCard:
    """What a cam card tells, in SI: lifts at the valve in m without clearance taken off, durations in crank radians.

    `heights` holds one to six pairs (lift, crank duration). `ramp_height` m and `ramp_slope` m per rad of cam describe
    the clearance ramp; `ramp_known` False lets a second height settle a lower ramp when the flank alone cannot.
    """

    lift: float
    heights: tuple[tuple[float, float], ...]
    ramp_height: float
    ramp_slope: float
    ramp_known: bool = True


def _ramp(card: CamCard, half: float, angle: Array) -> tuple[Array, ...]:
    """Lift, velocity, acceleration and jerk of the ramp alone at `angle` from the nose."""
    fade, slope, run_in = _FADE * half, _slope(card), _RUN_IN
    if slope <= 0.0:
        zero = np.zeros_like(angle)
        return zero, zero, zero, zero
    straight = card.ramp_height / slope - run_in / 2.0
    # u runs 0..1 over the fade, w over the run-in; the speed follows a smoothstep there, its integral is u^3 - u^4/2
    u = np.clip((angle - (half - fade)) / fade, 0.0, 1.0)
    w = np.clip((half + straight + run_in - angle) / run_in, 0.0, 1.0)
    level = np.clip(angle - half, 0.0, straight)
    total = slope * (fade / 2.0 + straight + run_in / 2.0)
    travelled = slope * (fade * (u**3 - u**4 / 2.0) + level + run_in * (0.5 - (w**3 - w**4 / 2.0)))
    main = angle < half
    speed = np.where(main, 3 * u**2 - 2 * u**3, 3 * w**2 - 2 * w**3)
    bend = np.where(main, (6 * u - 6 * u**2) / fade, -(6 * w - 6 * w**2) / run_in)
    moving_u, moving_w = (u > 0.0) & (u < 1.0), (w > 0.0) & (w < 1.0)
    twist = np.where(main, moving_u * (6 - 12 * u) / fade**2, moving_w * (6 - 12 * w) / run_in**2)
    return total - travelled, -slope * speed, -slope * bend, -slope * twist


def _slope(card: CamCard) -> float:
    # A low ramp is a slow one: its run-in is never shortened.
    return min(card.ramp_slope, 2.0 * card.ramp_height / _RUN_IN)


def _main_lift(card: CamCard, half: float) -> float:
    return card.lift - card.ramp_height - _slope(card) * _FADE * half / 2.0


def _lift_at(card: CamCard, half: float, fullness: float, angle: Array) -> Array:
    terms = polynomial_coefficients(*flank_exponents(fullness))
    return _main_lift(card, half) * unit_lift(terms, angle / half) + _ramp(card, half, angle)[0]


def _half_event(card: CamCard, fullness: float, height: float, duration: float) -> float:
    """Half event (cam rad) that gives this crank duration at this lift."""
    angle = np.array([duration / 4.0])
    miss = lambda half: float(_lift_at(card, half, fullness, angle)[0]) - height
    low, high = duration / 4.0 * 0.5, duration / 4.0 * 4.0
    if miss(low) > 0.0 or miss(high) < 0.0 or _main_lift(card, high) <= 0.0:
        raise ContradictionError(
            f"A lift of {amount(card.lift, LENGTH)} and {math.degrees(duration):.0f}° at {amount(height, LENGTH)} cannot both be."
        )
    return float(brentq(miss, low, high, xtol=1e-10))


def _pair(low: tuple[float, float], high: tuple[float, float]) -> str:
    """`252° at 0.20 mm and 248° at 1.00 mm cannot both be`."""
    first, second = (f"{math.degrees(duration):.0f}° at {amount(height, LENGTH)}" for height, duration in (low, high))
    return f"{first} and {second} cannot both be"


def _solve_two(card: CamCard, low: tuple[float, float], high: tuple[float, float]) -> tuple[CamCard, float, float]:
    """Card with its ramp settled, half event and fullness that meet a lower and a higher height."""
    (low_height, low_duration), (high_height, high_duration) = low, high

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
    fits = sorted(_duration_with(card, fullness, high, low_height) for fullness in _FULLNESS_RANGE)
    raise ContradictionError(
        f"{_pair(low, high)} on a lobe of {amount(card.lift, LENGTH)} with this ramp: with the second, the first lies between "
        f"{math.degrees(fits[0]):.0f}° and {math.degrees(fits[1]):.0f}°."
    )


def _duration_with(card: CamCard, fullness: float, known: tuple[float, float], height: float) -> float:
    half = _half_event(card, fullness, *known)
    return 4.0 * _angle_of(card, half, fullness, height)


def _angle_of(card: CamCard, half: float, fullness: float, height: float) -> float:
    """Cam angle from the nose (rad) at which the untouched flank has this lift."""
    angle = np.linspace(0.0, half * 1.6, 4000)
    return float(np.interp(-height, -_lift_at(card, half, fullness, angle), angle))


def _solve_many(card: CamCard) -> tuple[CamCard, float, float]:
    """Card with its ramp settled, half event and fullness that come nearest to three or more heights, by least squares in angle."""
    heights = np.array([height for height, _ in card.heights])
    wanted = np.array([duration / 4.0 for _, duration in card.heights])
    grid = np.linspace(0.0, float(wanted.max()) * 1.5, 1500)

    def unpack(x: Array) -> tuple[CamCard, float, float]:
        return (card if card.ramp_known else replace(card, ramp_height=float(x[2]))), float(x[0]), float(x[1])

    def misses(x: Array) -> Array:
        lift = _lift_at(*unpack(x), grid)
        return np.asarray(np.interp(-heights, -lift, grid) - wanted)

    start = [1.15 * float(wanted.max()), _USUAL_FULLNESS, max(card.ramp_height, 1e-9)]
    low = [0.9 * float(wanted.min()), _FULLNESS_RANGE[0], 0.0]
    high = [3.0 * float(wanted.max()), _FULLNESS_RANGE[1], max(card.ramp_height, 2e-9)]
    count = 2 if card.ramp_known else 3
    found = least_squares(misses, start[:count], bounds=(low[:count], high[:count]), x_scale=[1.0, 8.0, 1e-4][:count])
    return unpack(found.x)


def check_card(card: CamCard) -> None:
    """Raise ContradictionError with a sentence for numbers that no lobe could have."""
    if not 1 <= len(card.heights) <= _MOST_HEIGHTS:
        raise ContradictionError(f"A card needs a duration at one to {_MOST_HEIGHTS} stated heights.")
    for height, duration in card.heights:
        if not 0.0 < height < card.lift:
            raise ContradictionError(f"A duration at {amount(height, LENGTH)} cannot be: the lobe lifts {amount(card.lift, LENGTH)}.")
        if not 0.0 < duration < 2.5 * math.pi:
            raise ContradictionError(f"A duration of {math.degrees(duration):.0f} crank degrees cannot be.")
    if card.ramp_height >= 0.5 * card.lift:
        raise ContradictionError("The clearance ramp cannot be half of the lift or more.")
    given = sorted(card.heights)
    for low, high in pairwise(given):
        if low[0] == high[0] or low[1] <= high[1]:
            raise ContradictionError(f"{_pair(low, high)}: the lower height must have the longer duration.")


def _warp(card: CamCard, half: float, fullness: float) -> CubicSpline | None:
    """From the angle on the lobe asked for to the angle on the lobe that only comes near three or more heights.

    None where there are fewer. Raises ContradictionError naming the height that does not go with the others.
    """
    if len(card.heights) < 3:
        return None
    given = sorted(card.heights, reverse=True)
    wanted = np.array([0.0, *(duration / 4.0 for _, duration in given), given[-1][1] / 4.0 * 1.6])
    has = [0.0, *(_angle_of(card, half, fullness, height) for height, _ in given)]
    has.append(has[-1] + wanted[-1] - wanted[-2])
    warp = CubicSpline(wanted, np.array(has), bc_type="natural")
    speed = warp(np.linspace(0.0, wanted[-2], 400), 1)
    if float(np.abs(speed - 1.0).max()) > _BEND:
        gap = {pair: abs(_angle_of(card, half, fullness, pair[0]) - pair[1] / 4.0) for pair in card.heights}
        height, duration = max(gap, key=lambda pair: gap[pair])
        fits = 4.0 * math.degrees(_angle_of(card, half, fullness, height))
        raise ContradictionError(
            f"{math.degrees(duration):.0f}° at {amount(height, LENGTH)} does not go with the other durations: "
            f"a smooth lobe through them has about {fits:.0f}° there."
        )
    return warp


@lru_cache(maxsize=512)
def from_card(card: CamCard) -> LiftCurve:
    """Lift curve that meets every number of the card (source: stoddart1953 for the polynomial).

    Raises ContradictionError naming the numbers when no lobe of this family meets them all.
    """
    check_card(card)
    if len(card.heights) == 1:
        fullness = _USUAL_FULLNESS
        half = _half_event(card, fullness, *card.heights[0])
    elif len(card.heights) == 2:
        card, half, fullness = _solve_two(card, min(card.heights), max(card.heights))
    else:
        card, half, fullness = _solve_many(card)
    warp = _warp(card, half, fullness)
    end = half + (card.ramp_height / _slope(card) + _RUN_IN if _slope(card) > 0.0 else 0.0)
    if warp is not None:
        last = float(warp.x[-1])
        end = (
            last + (end - float(warp(last))) / float(warp(last, 1))
            if float(warp(last)) < end
            else float(brentq(lambda a: warp(a) - end, 0.0, last))
        )
    angle = np.linspace(0.0, end, _POINTS)
    base = angle if warp is None else np.asarray(warp(angle))
    terms = polynomial_coefficients(*flank_exponents(fullness))
    ramp = _ramp(card, half, base)
    main = _main_lift(card, half)
    lift, velocity, bend, twist = (main / half**order * unit_lift(terms, base / half, order) + ramp[order] for order in range(4))
    if warp is not None:  # chain rule through the warp
        w1, w2, w3 = (np.asarray(warp(angle, order)) for order in (1, 2, 3))
        twist = twist * w1**3 + 3.0 * bend * w1 * w2 + velocity * w3
        bend = bend * w1**2 + velocity * w2
        velocity = velocity * w1
    return both_flanks(angle, (lift, velocity, bend, twist))
