"""All the lobes that one card may be: flanks of many laws, each solved to meet every number that the card tells.

The nearest flank to each draw is sought: Gauss and Newton with the least step, all flanks at once. What had to move far weighs little.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valvetrain.parts.cam_card import CamCard, check_card
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.lobe_laws import GRID, Integrals, LawKind, Laws, bank, integrals

Array = NDArray[np.float64]

MET = 2e-6  # m; nearer than this a height counts as met
_ROUNDS, _LONGEST = 10, 0.8
_SCALES = (0.6, 0.08, 0.45, 0.45, 0.30, 0.25)  # of ln T, crossing, slowing tilt, push tilt, ln ramp height, ln ramp slope: judgement, tried
_KNOWN_RAMP = 0.004
_REACH, _WIDTH = 3.2, 2.2  # how far a flank may move from its draw, and how its weight falls with that
_BEND = (-9.0, 20.0)  # acceleration over x that a flank of the trade keeps within. Source: judgement
_NOSE = 0.25  # share of its greatest that deceleration keeps at the nose
LEAST = 20  # members below which more flanks are drawn
_FEWEST = 4  # of the large bank; fewer do not speak for a card
_RAMP_POINTS = 17
# laws with corners or waves of their own are not what is drawn for a card, though they count in the band
_ROUGH = {LawKind.SPLINE, LawKind.ARCS, LawKind.CONSTANT, LawKind.SPRING_LIKE}


@dataclass(frozen=True, eq=False)
class Flanks:
    """Flanks with every number settled. `half`, `ramp_height`, `ramp_slope` (m, m/rad, rad of cam), `crossing`, `push`, `slow` one a member;
    `a`, `b` scale push and slowing of the flank of height `rise` m."""

    half: Array
    rise: Array
    ramp_height: Array
    ramp_slope: Array
    run: Array
    crossing: Array
    a: Array
    b: Array
    push: Integrals
    slow: Integrals

    def __len__(self) -> int:
        return len(self.half)

    def picked(self, which: NDArray[np.intp] | NDArray[np.bool_]) -> "Flanks":
        """Only some of the members."""
        cut = lambda table: Integrals(table.shape[which], table.once[which], table.twice[which])
        return Flanks(
            half=self.half[which], rise=self.rise[which], ramp_height=self.ramp_height[which], ramp_slope=self.ramp_slope[which],
            run=self.run[which], crossing=self.crossing[which], a=self.a[which], b=self.b[which], push=cut(self.push), slow=cut(self.slow),
        )  # fmt: skip

    def lift(self, angle: Array) -> Array:
        """Lift (m) of each member at cam angles (rad from the nose, (members, n))."""
        column = lambda values: values[:, None]
        half, rise, c = column(self.half), column(self.rise), column(self.crossing)
        r = column(self.ramp_slope) * half / rise
        x = 1.0 - angle / half
        before = x < c
        p2 = self.push.at(x / c)[2]
        n2 = self.slow.at((x - c) / (1.0 - c))[2]
        a, b = column(self.a), column(self.b)
        beyond = np.maximum(x - c, 0.0)
        end1, end2 = column(self.push.once[:, -1]), column(self.push.twice[:, -1])
        main = r * x + a * np.where(before, c**2 * p2, c**2 * end2 + c * end1 * beyond) - b * (1.0 - c) ** 2 * n2
        return np.asarray(np.where(x >= 0.0, column(self.ramp_height) + rise * main, self._ramp(angle - half)))

    def _ramp(self, past: Array) -> Array:
        """Lift on the ramp, `past` rad beyond the flank's end."""
        height, slope, run = self.ramp_height[:, None], self.ramp_slope[:, None], self.run[:, None]
        straight, curved = (1.0 - run) * height / slope, 2.0 * run * height / slope
        left = np.clip(1.0 - (past - straight) / curved, 0.0, 1.0)
        return np.where(past <= straight, height - slope * past, run * height * left**2)

    def slowing(self) -> tuple[Array, Array]:
        """Lift (m) and deceleration (m/rad^2, positive) at the nodes of the slowing part, arrays (members, NODES)."""
        c = self.crossing[:, None]
        x = c + (1.0 - c) * GRID
        return self.lift((1.0 - x) * self.half[:, None]), (self.rise * self.b / self.half**2)[:, None] * self.slow.shape

    def peak(self) -> Array:
        """Greatest acceleration of the push, m/rad^2."""
        return np.asarray(self.rise * self.a / self.half**2 * self.push.shape.max(axis=1))

    def curve(self, number: int, lean: float = 0.0) -> LiftCurve:
        """One member as a whole lobe; `lean` the share by which its shutting flank is narrower."""
        half, rise, c = float(self.half[number]), float(self.rise[number]), float(self.crossing[number])
        height, slope, run = float(self.ramp_height[number]), float(self.ramp_slope[number]), float(self.run[number])
        x = np.concatenate([c * GRID, (c + (1.0 - c) * GRID)[1:]])
        r = slope * half / rise
        a, b = float(self.a[number]), float(self.b[number])
        p, p1, p2 = self.push.shape[number], self.push.once[number], self.push.twice[number]
        n, n1, n2 = self.slow.shape[number], self.slow.once[number], self.slow.twice[number]
        speed = np.concatenate([r + a * c * p1, r + a * c * p1[-1] - b * (1.0 - c) * n1[1:]])
        bend = np.concatenate([a * p, -b * n[1:]])
        risen = a * c * (c * p2[-1] + p1[-1] * (1.0 - c) * GRID) - b * (1.0 - c) ** 2 * n2
        angle = (1.0 - x)[::-1] * half
        lift = height + rise * (r * x + np.concatenate([a * c**2 * p2, risen[1:]]))[::-1]
        velocity, acceleration = -rise / half * speed[::-1], rise / half**2 * bend[::-1]
        straight, curved = (1.0 - run) * height / slope, 2.0 * run * height / slope
        if straight > 1e-6:
            level = np.linspace(0.0, straight, _RAMP_POINTS)[1:]
            angle, lift = np.append(angle, half + level), np.append(lift, height - slope * level)
            velocity, acceleration = np.append(velocity, np.full(len(level), -slope)), np.append(acceleration, np.zeros(len(level)))
        out = np.linspace(0.0, 1.0, _RAMP_POINTS)[1:]
        angle = np.append(angle, half + straight + curved * out)
        lift = np.append(lift, run * height * (1.0 - out) ** 2)
        velocity = np.append(velocity, -slope * (1.0 - out))
        acceleration = np.append(acceleration, np.full(len(out), slope / curved))
        opens, shuts = 2.0 / (2.0 - lean), 2.0 * (1.0 - lean) / (2.0 - lean)
        flank = lambda scale: (angle * scale, lift, velocity / scale, acceleration / scale**2)
        o, s = flank(opens), flank(shuts)
        whole = [np.concatenate([sign * o[k][:0:-1], s[k]]) for k, sign in enumerate((-1.0, 1.0, -1.0, 1.0))]
        jerk = np.gradient(whole[3], whole[0])
        return LiftCurve(whole[0], whole[1], whole[2], whole[3], jerk)


@dataclass(frozen=True, eq=False)
class Family:
    """The lobes that a card may be, where the card is told. `weights` sum to 1; `lean` the share by which a shutting flank is narrower;
    `nominal` one of them that stands in the middle, with every number of the card as it is told; `durations` how many the card told."""

    flanks: Flanks
    weights: Array
    kinds: tuple[LawKind, ...]
    lean: Array
    nominal: LiftCurve
    durations: int

    def __len__(self) -> int:
        return len(self.weights)

    def curve(self, number: int) -> LiftCurve:
        """One member as a whole lobe, its zero where the lobe centre is taken to be."""
        found = self.flanks.curve(number, float(self.lean[number]))
        return found.centred() if self.lean[number] else found


def _settle(
    laws: Laws, z: Array, lift: float, usual: tuple[float, float], scales: Array, near: Flanks | None = None, moved: int = -1
) -> Flanks:
    """Flanks at places `z` (6, members): ln half event, crossing, slowing tilt, push tilt, ln ramp height, ln ramp slope, each over its scale.

    `near` are flanks from which only place `moved` differs: shapes whose tilt stayed are taken from there.
    """
    half = np.exp(z[0] * scales[0])
    crossing = np.clip(laws.crossing + z[1] * scales[1], 0.08, 0.75)
    tilt = lambda shape, amount: np.maximum(shape * (1.0 + amount[:, None] * (GRID - 0.5)), 0.0)
    slow = near.slow if near and moved != 2 else integrals(tilt(laws.slowing, z[2] * scales[2]))
    push = near.push if near and moved != 3 else integrals(tilt(laws.push, z[3] * scales[3]))
    ramp_height, ramp_slope = usual[0] * np.exp(z[4] * scales[4]), usual[1] * np.exp(z[5] * scales[5])
    ramp_height = np.minimum(ramp_height, 0.45 * lift)
    rise = lift - ramp_height
    r, c = ramp_slope * half / rise, crossing
    p1, p2, n1, n2 = push.once[:, -1], push.twice[:, -1], slow.once[:, -1], slow.twice[:, -1]
    # slope zero and full height at the nose: two equations for the two scales
    m11, m12, m21, m22 = c * p1, -(1.0 - c) * n1, c**2 * p2 + c * (1.0 - c) * p1, -((1.0 - c) ** 2) * n2
    determinant = m11 * m22 - m12 * m21
    a = (-r * m22 - m12 * (1.0 - r)) / determinant
    b = (m11 * (1.0 - r) + r * m21) / determinant
    return Flanks(
        half=half,
        rise=rise,
        ramp_height=ramp_height,
        ramp_slope=ramp_slope,
        run=laws.run,
        crossing=crossing,
        a=a,
        b=b,
        push=push,
        slow=slow,
    )


def _rounding(durations: Array) -> float:
    """How far the durations of a card (crank rad) may be rounded: half a degree where all are whole, else a twentieth."""
    degrees = np.degrees(durations)
    return math.radians(0.5 if np.allclose(degrees, np.round(degrees), atol=1e-6) else 0.05)


def solve(laws: Laws, card: CamCard) -> tuple[Flanks, Array, NDArray[np.bool_]]:
    """Flanks nearest to their laws that meet the card, how far each moved, and whether each met it."""
    heights = np.array([height for height, _ in card.heights])
    durations = np.array([duration for _, duration in card.heights])
    wanted = (durations[:, None] + _rounding(durations) * laws.rounding[: len(durations)]).T / 4.0
    scales = np.array([*_SCALES[:4], _KNOWN_RAMP if card.ramp_known else _SCALES[4], _SCALES[5]])
    usual = (max(card.ramp_height, 1e-6), max(card.ramp_slope, 1e-6))
    start = np.log(1.12 * wanted.max(axis=1) + 0.02)
    # a known ramp's height is taken as told, whatever the draw: its scale is small, so its score is what a draw of it would be
    z0 = np.array([
        start / scales[0], np.zeros(len(laws)), laws.slowing_tilt / scales[2], laws.push_tilt / scales[3],
        np.log(laws.ramp_height) / _SCALES[4], np.log(laws.ramp_slope) / scales[5],
    ])  # fmt: skip
    z = z0.copy()

    def miss(flanks: Flanks) -> Array:
        return np.asarray((flanks.lift(wanted) - heights) / card.lift)

    step = 1e-4
    for _ in range(_ROUNDS):
        here = _settle(laws, z, card.lift, usual, scales)
        off = miss(here)
        if float(np.abs(off).max()) * card.lift < 0.2 * MET:
            break
        jacobian = np.empty((len(laws), len(heights), 6))
        for number in range(6):
            moved = z.copy()
            moved[number] += step
            jacobian[:, :, number] = (miss(_settle(laws, moved, card.lift, usual, scales, here, number)) - off) / step
        away = (z - z0).T
        away[:, 0] = 0.0  # the length of the event is what the card tells: it costs nothing
        tied = jacobian.copy()
        # the half event is nearly free: its share of the least step is made cheap
        cheap = np.array([5.0, 1.0, 1.0, 1.0, 1.0, 1.0])
        tied *= cheap
        target = np.einsum("mkj,mj->mk", jacobian, away) - off
        square = np.einsum("mkj,mlj->mkl", tied, tied) + 1e-12 * np.eye(len(heights))
        go = np.einsum("mkj,mk->mj", tied, np.linalg.solve(square, target[:, :, None])[:, :, 0]) * cheap
        new = np.concatenate([z[:1].T + go[:, :1], z0[1:].T + go[:, 1:]], axis=1).T
        change = np.clip(new - z, -_LONGEST, _LONGEST)
        change[0] = np.clip(change[0], -0.4, 0.4)
        z = z + change
    flanks = _settle(laws, z, card.lift, usual, scales)
    met: NDArray[np.bool_] = np.abs(flanks.lift(wanted) - heights).max(axis=1) < MET
    distance: Array = np.sqrt(((z - z0)[1:] ** 2).sum(axis=0))
    return flanks, distance, met


def family_of(card: CamCard, base: float = 0.0, without: LawKind | None = None) -> Family | None:
    """The lobes that meet a card, or None where hardly any does. `base` m is the base circle's radius, at the scale of the card's lifts, where a
    flat face rides on a lobe of known size, else 0. `without` leaves one kind of law out. Raises ContradictionError for a card that cannot be."""
    check_card(card)
    return _family(card, base, without)


@lru_cache(maxsize=256)
def _family(card: CamCard, base: float, without: LawKind | None) -> Family | None:
    for large in (False, True):
        laws = bank(without, large=large)
        flanks, moved, met = solve(laws, card)
        with np.errstate(invalid="ignore", over="ignore"):
            good = met & (moved < _REACH) & _sound(flanks, base)
        if int(good.sum()) >= LEAST:
            break
    if int(good.sum()) < _FEWEST:
        return None
    weights = np.exp(-0.5 * (moved[good] / _WIDTH) ** 2)
    weights /= weights.sum()
    kept = np.flatnonzero(good)
    flanks, lean = flanks.picked(good), laws.lean[good]
    kinds = tuple(laws.kind[number] for number in kept)
    middle = _middle(flanks, weights, kinds, lean)
    exact, _, meets = solve(laws.one(int(kept[middle])), card)
    nominal = exact.curve(0) if meets[0] else flanks.curve(middle)
    return Family(flanks, weights, kinds, lean, nominal, len(card.heights))


def _middle(flanks: Flanks, weights: Array, kinds: tuple[LawKind, ...], lean: Array) -> int:
    """The member in the middle of all by what it asks of a spring that opens to three times its seat force, and by its peak."""
    lift, slows = flanks.slowing()
    full = lift.max(axis=1, keepdims=True)
    holds = np.log(np.min(np.where(slows > 0.0, (1.0 + 2.0 * lift / full) / np.maximum(slows, 1e-12), np.inf), axis=1)) / 2.0
    peak = np.log(flanks.peak())
    order = np.argsort(holds)
    middle = holds[order][np.searchsorted(np.cumsum(weights[order]), 0.5)]
    order = np.argsort(peak)
    top = peak[order][np.searchsorted(np.cumsum(weights[order]), 0.5)]
    away = np.abs(holds - middle) / 0.06 + np.abs(peak - top) / 0.3
    away += np.where(lean > 0.0, 10.0, 0.0) + np.array([2.0 if kind in _ROUGH else 0.0 for kind in kinds])
    return int(np.argmin(away))


def _sound(flanks: Flanks, base: float) -> NDArray[np.bool_]:
    """Flanks that a maker would grind: both scales above zero, lift that only rises, no wild acceleration, a nose that still slows."""
    greatest = flanks.slow.shape.max(axis=1)
    low = -flanks.b * greatest
    high = flanks.a * flanks.push.shape.max(axis=1)
    sound = np.asarray((flanks.a > 0.0) & (flanks.b > 0.0) & (low > _BEND[0]) & (high < _BEND[1]), dtype=np.bool_)
    sound &= flanks.slow.shape[:, -1] > _NOSE * greatest
    c = flanks.crossing[:, None]
    r = flanks.ramp_slope * flanks.half / flanks.rise
    speed_up = r[:, None] + flanks.a[:, None] * c * flanks.push.once
    speed_down = (
        r[:, None] + (flanks.a * flanks.crossing * flanks.push.once[:, -1])[:, None] - flanks.b[:, None] * (1.0 - c) * flanks.slow.once
    )
    sound &= (speed_up.min(axis=1) > -1e-9) & (speed_down.min(axis=1) > -1e-6)
    if base > 0.0:
        lift, slows = flanks.slowing()
        sound &= (base + lift - slows).min(axis=1) > 1e-3
    return np.asarray(sound)


def members(laws: Laws, lift: float, half: Array, ramp: tuple[float, float]) -> Flanks:
    """Flanks of given half events (cam rad) as their laws have them: hidden lobes for stand-ins and studies."""
    scales = np.array(_SCALES)
    z = np.array([
        np.log(half) / scales[0], np.zeros(len(laws)), laws.slowing_tilt / scales[2], laws.push_tilt / scales[3],
        np.log(laws.ramp_height) / scales[4], np.log(laws.ramp_slope) / scales[5],
    ])  # fmt: skip
    return _settle(laws, z, lift, ramp, scales)


def sound(flanks: Flanks) -> NDArray[np.bool_]:
    """Which flanks a maker would grind, as a family keeps them."""
    return _sound(flanks, 0.0)
