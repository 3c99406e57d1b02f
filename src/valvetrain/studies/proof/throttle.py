"""Vacuum at full throttle against speed: how much is kept back, what size would cure it, and what that could bring at most."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.intake_vacuum import area_of_vacuum, curing_diameter, most_gained, pulsation_factor

NOTHING, CURE = 1500.0, 5000.0  # Pa: below nothing to gain, above worth curing; common practice, no source
_COEFFICIENT: Final = 0.82
_OPEN: Final = 1.0 / 3.0  # of the cycle that an intake takes


class Restriction(StrEnum):
    """How much a way keeps back."""

    NONE = "nothing to gain"
    SOME = "a little to gain"
    WORTH = "worth curing"


@dataclass(frozen=True, kw_only=True)
class Vacuum:
    """One reading at full throttle: speed (rev/s), vacuum behind the throttle (Pa below the air's), and before it, behind the filter, where read."""

    speed: float
    vacuum: float
    before: float | None = None


@dataclass(frozen=True, kw_only=True)
class Intake:
    """Throttle bore (m), throttles, cylinders, swept volume of all (m3), filling, air (Pa, kg/m3), and whether the gauge is damped."""

    bore: float
    throttles: int
    cylinders: int
    swept: float
    filling: float = 0.95
    pressure: float = 101325.0
    density: float = 1.18
    damped: bool = True


@dataclass(frozen=True, kw_only=True)
class ThrottleResult:
    """At the speed of greatest vacuum: rev/s, Pa, verdict, bore that leaves 15 mbar (m), most gained (part), the share of the filter's side,
    effective bore that the vacuum tells (m), and the factor by which pulses raise the mean reading of a throttle of one or two cylinders."""

    speed: float
    vacuum: float
    restriction: Restriction
    cure: float
    gain: float
    filter_share: float | None
    effective_bore: float
    pulses: float


def judge(readings: Sequence[Vacuum], intake: Intake) -> ThrottleResult:
    """What full-throttle readings tell. Raises OutOfRangeError without a reading, or for a vacuum that no running engine has."""
    if not readings:
        raise OutOfRangeError("Give at least one reading: speed and vacuum at full throttle.")
    if any(not 0.0 <= reading.vacuum < 0.5 * intake.pressure for reading in readings):
        raise OutOfRangeError("A vacuum at full throttle lies between nothing and half the air's pressure. Was the throttle open?")
    worst = max(readings, key=lambda reading: reading.vacuum)
    restriction = Restriction.NONE if worst.vacuum <= NOTHING else Restriction.SOME if worst.vacuum <= CURE else Restriction.WORTH
    pulses = pulsation_factor(max(1, round(intake.cylinders / intake.throttles)), _OPEN)
    flow = intake.swept / 2.0 * worst.speed * intake.filling / intake.throttles
    effective = area_of_vacuum(flow, intake.density, worst.vacuum / pulses) / _COEFFICIENT if worst.vacuum > 1.0 else math.inf
    return ThrottleResult(
        speed=worst.speed, vacuum=worst.vacuum, restriction=restriction,
        cure=curing_diameter(intake.bore, worst.vacuum, NOTHING) if worst.vacuum > NOTHING else intake.bore,
        gain=most_gained(intake.pressure, worst.vacuum, NOTHING) if worst.vacuum > NOTHING else 0.0,
        filter_share=worst.before / worst.vacuum if worst.before is not None and worst.vacuum > 0.0 else None,
        effective_bore=math.sqrt(4.0 * effective / math.pi) if math.isfinite(effective) else math.inf,
        pulses=pulses,
    )  # fmt: skip
