"""What a set-up knows of one cam, resolved to the lift curve at the valve."""

from dataclasses import dataclass
from functools import lru_cache

from valvetrain.parts.cam_card import CamCard, from_card
from valvetrain.parts.cam_drive import Drive, outline_from_radius, valve_from_lobe
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.lobe import Lobe, StatedAt, from_lobe


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
        """Lift curve at the valve, before clearance."""
        return _resolve(self)


@lru_cache(maxsize=256)
def _resolve(source: CamSource) -> LiftCurve:
    raw = from_card(source.shape) if isinstance(source.shape, CamCard) else from_lobe(source.shape)
    if source.at is StatedAt.VALVE:
        return raw
    if source.at is StatedAt.FOLLOWER or not source.exact:
        return raw.times(source.drive.ratio)
    outline = outline_from_radius(source.base, raw.angle, raw.lift, source.drive.sense)
    return valve_from_lobe(source.drive, source.base, outline).centred()
