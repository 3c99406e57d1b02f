"""What a set-up knows of one cam, resolved to lift curves at the valve: the one that is drawn, and all that it may be."""

import zlib
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ContradictionError
from valvetrain.parts.cam_card import CamCard, from_card
from valvetrain.parts.cam_drive import Contact, Drive, outline_from_radius, valve_from_lobe
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.lobe import Lobe, StatedAt, from_lobe
from valvetrain.parts.lobe_family import Family, family_of

Array = NDArray[np.float64]

_POINTS = 49  # of the slowing part of each lobe, for the float of a rigid train


@dataclass(frozen=True)
class CamSource:
    """A card or a lobe, where its lifts are told, and the follower they come through.

    `base` is the base circle's radius, m; `drive` the follower. `exact` says that its geometry is known and not assumed.
    """

    shape: CamCard | Lobe
    at: StatedAt
    drive: Drive
    base: float
    exact: bool = False

    @property
    def curve(self) -> LiftCurve:
        """Lift curve at the valve, before clearance: measured, or one in the middle of all that meet the card."""
        return _resolve(self)

    @property
    def lobes(self) -> "Lobes | None":
        """All lobes that the card may be, at the valve; None where the lobe itself is known, or the card is met by the polynomial alone."""
        return _lobes(self) if isinstance(self.shape, CamCard) else None


@dataclass(frozen=True, eq=False)
class Lobes:
    """The lobes that a card may be, at the valve before clearance. Arrays (members, points): `lift` m and deceleration `slows` m/rad^2 over the
    slowing part; `peak` acceleration m/rad^2, `weights` (sum 1) one a member."""

    family: Family
    source: CamSource
    lift: Array
    slows: Array
    peak: Array
    weights: Array

    def curve(self, number: int) -> LiftCurve:
        """One member as a whole lobe at the valve."""
        return _member(self.source, number)

    def rows(self, count: int) -> NDArray[np.intp]:
        """A member for each of `count` rows, as often as its weight asks, in an order that follows from the card alone."""
        return _rows(self.source, count)

    def table(self, count: int) -> tuple[Array, Array]:
        """Lift (m) and 1 / deceleration (rad^2/m, infinite where the lobe does not slow) of `count` rows, (rows, points)."""
        return _table(self.source, count)


@lru_cache(maxsize=256)
def _family(source: CamSource) -> Family | None:
    assert isinstance(source.shape, CamCard)
    known = source.exact and source.drive.contact is Contact.FLAT
    scale = source.drive.ratio if source.at is StatedAt.VALVE else 1.0
    return family_of(source.shape, source.base * scale if known else 0.0)


def _nominal(source: CamSource) -> LiftCurve:
    if isinstance(source.shape, Lobe):
        return from_lobe(source.shape)
    found = _family(source)
    return found.nominal if found else from_card(source.shape)


def _at_valve(source: CamSource, raw: LiftCurve) -> LiftCurve:
    if source.at is StatedAt.VALVE:
        return raw
    if source.at is StatedAt.FOLLOWER or not source.exact:
        return raw.times(source.drive.ratio)
    outline = outline_from_radius(source.base, raw.angle, raw.lift, source.drive.sense)
    return valve_from_lobe(source.drive, source.base, outline).centred()


@lru_cache(maxsize=256)
def _resolve(source: CamSource) -> LiftCurve:
    return _at_valve(source, _nominal(source))


@lru_cache(maxsize=4096)
def _member(source: CamSource, number: int) -> LiftCurve:
    family = _family(source)
    assert family
    return _at_valve(source, family.curve(number))


@lru_cache(maxsize=512)
def _rows(source: CamSource, count: int) -> NDArray[np.intp]:
    found = _lobes(source)
    assert found
    at = np.searchsorted(np.cumsum(found.weights), (np.arange(count) + 0.5) / count)
    own = np.random.default_rng(zlib.crc32(repr(source.shape).encode()))
    return own.permutation(np.minimum(at, len(found.weights) - 1))


def easing(slows: Array) -> Array:
    """1 / deceleration, infinite where there is none."""
    return np.asarray(np.divide(1.0, slows, out=np.full(slows.shape, np.inf), where=slows > 0.0))


@lru_cache(maxsize=48)
def _table(source: CamSource, count: int) -> tuple[Array, Array]:
    lobes = source.lobes
    assert lobes
    member = lobes.rows(count)
    return lobes.lift[member], easing(lobes.slows)[member]


@lru_cache(maxsize=256)
def _lobes(source: CamSource) -> Lobes | None:
    family = _family(source)
    if family is None:
        return None
    if source.at is StatedAt.RADIUS and source.exact:
        return _bent(source, family)
    scale = 1.0 if source.at is StatedAt.VALVE else source.drive.ratio
    lift, slows = family.flanks.slowing()
    pick = np.linspace(0, lift.shape[1] - 1, _POINTS).astype(int)
    steeper = ((2.0 - family.lean) / (2.0 * (1.0 - family.lean))) ** 2  # the narrower flank decides
    return Lobes(
        family, source, scale * lift[:, pick], scale * slows[:, pick] * steeper[:, None], scale * family.flanks.peak() * steeper, family.weights
    )  # fmt: skip


def _bent(source: CamSource, family: Family) -> Lobes | None:
    """The same where the follower's path bends the lobe's own lift: member by member; those that the face cannot follow fall out."""
    lift, slows, peak, keep = [], [], [], []
    for number in range(len(family)):
        try:
            curve = _member(source, number)
        except ContradictionError:
            keep.append(False)
            continue
        keep.append(True)
        down = np.flatnonzero(curve.acceleration < 0.0)
        pick = down[np.linspace(0, len(down) - 1, _POINTS).astype(int)]
        lift.append(curve.lift[pick])
        slows.append(-curve.acceleration[pick])
        peak.append(float(curve.acceleration.max()))
    if sum(keep) < len(keep) / 2:
        return None
    numbers = np.cumsum(keep) - 1
    weights = np.where(keep, family.weights, 0.0)
    place = np.where(keep, np.maximum(numbers, 0), 0)  # members that fell out keep their number, with no weight
    return Lobes(family, source, np.array(lift)[place], np.array(slows)[place], np.array(peak)[place], weights / weights.sum())
