"""A compression test: what the gauge read on each cylinder, dry and with oil, under which conditions, and what that points to.

The order of causes and the limits of the spread are common practice without a source; a maker's figures win.
"""

import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.cylinder_tests import cranking_gauge, spread_of_highest, wet_ratio
from valvetrain.studies.proof.cranking import Expected

EVEN, UNEVEN = 0.10, 0.15  # of the highest
_RISE: Final = 0.06  # of the dry reading, beyond what the oil's own volume does
_NEXT = 0.05  # by which two neighbours may differ and still be low together
_BUILD = 0.75  # first pull over the last: below it the pressure builds up pull by pull


class Condition(StrEnum):
    """What has to be so for a gauge's figure to mean something."""

    WARM = "engine warm"
    CANNOT_START = "cannot start (ignition and fuel off)"
    PLUGS_OUT = "all plugs out"
    THROTTLE_OPEN = "throttle wide open"
    OIL = "oil level and grade right"
    AIR_PATH = "air filter and path free"
    BATTERY = "battery charged, starter good"


class Cause(StrEnum):
    """What a low cylinder usually has, in the order in which it is looked for."""

    CLEARANCE = "clearance too small"
    VALVE = "valve or seat leaks"
    RING = "rings or bore worn"
    GASKET = "head gasket between"
    OIL_VOLUME = "the oil's own volume"
    CRANKING = "cranked slowly, throttle or air path shut"
    TIMING = "cam a tooth out"
    CARBON = "carbon on the crown, or oil in the chamber"
    RATIO = "compression ratio other than entered"
    BUILDS = "pressure builds up pull by pull: rings more than valves"


class Evenness(StrEnum):
    """How far the cylinders lie apart, of the highest."""

    SINGLE = "one cylinder"
    EVEN = "even"
    WATCH = "watch"
    UNEVEN = "uneven"


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What one cylinder read, in Pa over the air's: last needle of each pull dry, the same with oil, first stroke of the first pull where told."""

    cylinder: int
    dry: tuple[float, ...]
    wet: tuple[float, ...] = ()
    first: float | None = None


@dataclass(frozen=True, kw_only=True)
class Oil:
    """Oil that was put in for the wet pulls (m3), with the chamber's volume (m3), trapped ratio and exponent it acts on."""

    volume: float
    chamber: float
    trapped: float
    exponent: float

    @property
    def rise(self) -> float:
        """By how much the gauge rises for the oil's own volume alone, of the dry reading. Nothing where the oil fills the chamber."""
        if self.volume >= 0.9 * self.chamber:
            return 0.0
        wet = cranking_gauge(1e5, wet_ratio(self.trapped, self.volume, self.chamber), self.exponent)
        return wet / cranking_gauge(1e5, self.trapped, self.exponent) - 1.0


@dataclass(frozen=True, kw_only=True)
class CylinderResult:
    """One cylinder: Pa, spread of its pulls, share of the highest, rise when wet beyond the oil's own, and causes in order."""

    cylinder: int
    pressure: float
    repeat: float
    of_highest: float
    rise: float | None
    low: bool
    causes: tuple[Cause, ...]


@dataclass(frozen=True, kw_only=True)
class CompressionResult:
    """The whole test. `level` is -1 below, 0 inside, 1 above what was expected, None where nothing could be expected."""

    cylinders: tuple[CylinderResult, ...]
    spread: float
    evenness: Evenness
    level: int | None
    expected: Expected | None
    causes: tuple[Cause, ...]
    unmet: tuple[Condition, ...]

    @property
    def trend_only(self) -> bool:
        """Whether something was not as it has to be, so that only the same test the same way may be compared."""
        return bool(self.unmet)


def _causes(
    number: int, low: set[int], pressure: dict[int, float], reading: Reading, rise: float | None, tight: set[int]
) -> tuple[Cause, ...]:
    """Causes of one low cylinder in the order in which they are looked for, what speaks for one first."""
    order = [Cause.CLEARANCE, Cause.VALVE, Cause.RING, Cause.GASKET]
    beside = {number - 1, number + 1} & low
    if any(abs(pressure[number] / pressure[other] - 1.0) < _NEXT for other in beside):
        order = [Cause.GASKET, *(each for each in order if each is not Cause.GASKET)]
    if rise is not None:
        ring = rise > _RISE
        order.sort(key=lambda cause: (cause is not Cause.RING) if ring else cause is Cause.RING)
    if number in tight:
        order = [Cause.CLEARANCE, *(each for each in order if each is not Cause.CLEARANCE)]
    if reading.first is not None and reading.dry and reading.first < _BUILD * reading.dry[-1] * 0.6:
        order = [Cause.BUILDS, *order]
    return tuple(order)


def judge(
    readings: Sequence[Reading], *, met: Sequence[Condition] = tuple(Condition), band: Expected | None = None, oil: Oil | None = None, tight: Sequence[int] = ()
) -> CompressionResult:  # fmt: skip
    """What a test says. `tight` are cylinders with a clearance below its range. The spread's base is the highest cylinder.

    Raises OutOfRangeError for a test without a dry reading, or with one that is no pressure.
    """
    read = [reading for reading in readings if reading.dry]
    if not read:
        raise OutOfRangeError("No cylinder has a dry reading: one pull on each is the least.")
    if any(value <= 0.0 for reading in read for value in (*reading.dry, *reading.wet)):
        raise OutOfRangeError("A gauge pressure must lie above zero. A cylinder that gives none at all is written as 0.1 bar.")
    pressure = {reading.cylinder: statistics.median(reading.dry) for reading in read}
    highest = max(pressure.values())
    spread = spread_of_highest(min(pressure.values()), highest)
    evenness = (
        Evenness.SINGLE if len(read) == 1 else Evenness.EVEN if spread <= EVEN else Evenness.WATCH if spread <= UNEVEN else Evenness.UNEVEN
    )
    low = {number for number, value in pressure.items() if value < (1.0 - EVEN) * highest}
    own = oil.rise if oil else 0.0
    results, rises = [], []
    for reading in read:
        number = reading.cylinder
        rise = statistics.median(reading.wet) / pressure[number] - 1.0 - own if reading.wet else None
        if rise is not None:
            rises.append(rise)
        causes = _causes(number, low, pressure, reading, rise, set(tight)) if number in low else ()
        results.append(
            CylinderResult(
                cylinder=number, pressure=pressure[number], repeat=(max(reading.dry) - min(reading.dry)) / pressure[number],
                of_highest=pressure[number] / highest, rise=rise, low=number in low, causes=causes,
            )
        )  # fmt: skip
    level: int | None = None
    whole: list[Cause] = []
    if band is not None:
        middle = statistics.median(pressure.values())
        level = -1 if middle < band.low else 1 if middle > band.high else 0
        if level < 0:
            whole = [Cause.CRANKING, *((Cause.CLEARANCE,) if tight else ()), Cause.TIMING, Cause.RING, Cause.RATIO]
        elif level > 0:
            whole = [Cause.CARBON, Cause.RATIO]
    if len(rises) > 1 and min(rises) > _RISE and max(rises) - min(rises) < _RISE and oil is None:
        whole.append(Cause.OIL_VOLUME)
    return CompressionResult(
        cylinders=tuple(results), spread=spread, evenness=evenness, level=level, expected=band, causes=tuple(whole),
        unmet=tuple(each for each in Condition if each not in met),
    )  # fmt: skip
