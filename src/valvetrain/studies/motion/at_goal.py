"""What the motion says of one speed: the least contact there, and the surge nearest to it."""

from dataclasses import dataclass

from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.motion.forces import least_contact, skips
from valvetrain.studies.motion.review import MotionReview, SurgeZone

_LIGHT = 0.1  # share of the seat force below which contact is light. Source: judgement


@dataclass(frozen=True)
class Contact:
    """Least contact (N) at a speed, its `share` of the force on the shut seat, whether the valve skips there, and the verdict."""

    least: float
    share: float
    skips: bool
    verdict: Verdict


def contact_at(motion: MotionReview, speed: float) -> Contact:
    """The contact of a swept motion at a crank speed (rev/s)."""
    assert motion.sweep
    assert motion.case
    least, skipping = least_contact(motion.sweep, speed), skips(motion.sweep, speed)
    share = least / max(float(sum(spring.preload for spring in motion.case.springs)), 1.0)
    return Contact(least, share, skipping, Verdict.SHORT if skipping else Verdict.SLIM if share < _LIGHT else Verdict.HOLDS)


def nearest_surge(motion: MotionReview, speed: float) -> tuple[SurgeZone | None, Verdict | None]:
    """The stretch where a spring rings nearest to a crank speed; slim with the speed inside, no verdict beside it, holds where none stands out."""
    if not motion.surge:
        return None, Verdict.HOLDS
    near = min(motion.surge, key=lambda zone: abs(zone.peak - speed))
    return near, Verdict.SLIM if near.low <= speed <= near.high else None
