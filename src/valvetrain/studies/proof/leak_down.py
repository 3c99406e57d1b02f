"""A leak-down test: what percent and pair are worth, the leak's area that travels between testers, and where it hisses."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from scipy.optimize import brentq

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.cylinder_tests import leak_area, leak_share

GOOD, USABLE, REPAIR = 0.08, 0.15, 0.20  # common practice, no source
USUAL_REGULATED, USUAL_RESTRICTOR = 550e3, 1.0e-3  # Pa gauge, m: supposed where a tester is not described
_REFERENCE: Final = (551.58e3, 1.016e-3)  # 80 psi and 0.040 in, as aircraft practice has it: the tester that percents are brought to


class Hiss(StrEnum):
    """Where air is heard."""

    INTAKE = "intake"
    EXHAUST = "exhaust"
    CRANKCASE = "breather or crankcase"
    COOLANT = "coolant bubbles"
    NEXT = "next cylinder's plug hole"
    NOWHERE = "nowhere"


POINTS_AT: Final = {
    Hiss.INTAKE: "intake valve or seat, or its clearance",
    Hiss.EXHAUST: "exhaust valve or seat, or its clearance",
    Hiss.CRANKCASE: "rings or bore",
    Hiss.COOLANT: "head gasket or a crack",
    Hiss.NEXT: "head gasket between the two",
    Hiss.NOWHERE: "nothing that can be heard",
}


class Soundness(StrEnum):
    """How tight a cylinder is, by the percent on the reference tester."""

    GOOD = "good"
    USABLE = "usable"
    WATCH = "watch"
    REPAIR = "repair"


@dataclass(frozen=True, kw_only=True)
class Tester:
    """Regulated pressure (Pa gauge), restrictor's bore (m) and the air's pressure (Pa). `told` says whether both were told or supposed."""

    regulated: float = USUAL_REGULATED
    restrictor: float = USUAL_RESTRICTOR
    ambient: float = 101325.0
    told: bool = False

    @property
    def area(self) -> float:
        """The restrictor's area, m2."""
        return math.pi / 4.0 * self.restrictor**2


@dataclass(frozen=True, kw_only=True)
class LeakReading:
    """One cylinder: pressure behind the restrictor (Pa gauge), and where it hisses."""

    cylinder: int
    behind: float
    hisses: tuple[Hiss, ...] = ()


@dataclass(frozen=True, kw_only=True)
class LeakResult:
    """One cylinder: part lost on its own tester, leak's area (m2), percent that the reference tester would show, and the verdict on that."""

    cylinder: int
    lost: float
    area: float
    on_reference: float
    soundness: Soundness
    hisses: tuple[Hiss, ...]


def reading_on(area: float, tester: Tester) -> float:
    """Pressure behind the restrictor (Pa gauge) that a leak of an area (m2) leaves on a tester. Raises OutOfRangeError for no area."""
    if area < 0.0:
        raise OutOfRangeError("A leak's area must not lie below zero.")
    if area == 0.0:
        return tester.regulated

    def off(behind: float) -> float:
        return leak_area(tester.regulated, behind, tester.ambient, tester.area) - area

    low, high = 1.0, tester.regulated * (1.0 - 1e-9)
    if off(low) < 0.0:
        return 0.0
    return float(brentq(off, low, high, xtol=1e-3))


def _verdict(lost: float) -> Soundness:
    return (
        Soundness.GOOD if lost <= GOOD else Soundness.USABLE if lost <= USABLE else Soundness.WATCH if lost <= REPAIR else Soundness.REPAIR
    )


def judge(readings: Sequence[LeakReading], tester: Tester) -> tuple[LeakResult, ...]:
    """What each cylinder loses. The verdict is that of the reference tester, because percent travels badly.

    Raises OutOfRangeError for a pressure behind the restrictor above the regulated one.
    """
    reference = Tester(regulated=_REFERENCE[0], restrictor=_REFERENCE[1], ambient=tester.ambient)
    out = []
    for reading in readings:
        if reading.behind > tester.regulated:
            raise OutOfRangeError("The pressure behind the restrictor must not lie above the regulated one.")
        lost = leak_share(tester.regulated, reading.behind)
        area = leak_area(tester.regulated, reading.behind, tester.ambient, tester.area) if reading.behind > 0.0 else math.inf
        there = leak_share(reference.regulated, reading_on(area, reference)) if math.isfinite(area) else 1.0
        out.append(
            LeakResult(
                cylinder=reading.cylinder, lost=lost, area=area, on_reference=there, soundness=_verdict(there), hisses=reading.hisses
            )
        )
    return tuple(out)
