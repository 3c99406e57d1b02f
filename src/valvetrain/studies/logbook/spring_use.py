"""What a use takes out of each spring of a side: stress over one turn of the cam at every speed of the swept motion, counted and summed.

The course is the force at the retainer's end; where the surge makes some coil carry more, one turn up to that force counts instead, whichever harms
more. Speeds below the sweep's least are taken as its least.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from valvetrain.errors import ValveTrainError
from valvetrain.formulas.coil_springs import shear_stress
from valvetrain.formulas.damage import impact_energy
from valvetrain.formulas.spring_fatigue import endurance_goodman, tensile_strength, torsional_ultimate
from valvetrain.kernels import valve_motion as kernel
from valvetrain.parts.figure import FigureMap
from valvetrain.parts.spring import spring_wire
from valvetrain.studies.logbook.damage import Damage, Strength, banded, harm, harm_of_use
from valvetrain.studies.logbook.rainflow import Turn, joined, of_one_turn
from valvetrain.studies.logbook.use import Use
from valvetrain.studies.motion.sweep import Sweep

_DIGITS = 1.0  # N to which like turns are put together before they are summed
_FIRST, _PER_SPRING = 3, 4  # channels of a trace before the springs', and for each spring


@dataclass(frozen=True, kw_only=True)
class SpringUse:
    """One spring over a use: its harm with the band, the speed (rev/s) above which half of it arises, and whether its peening was told."""

    number: int
    total: float
    damage: Damage
    half_above: float
    peening_told: bool


def strength_of_wire(figures: FigureMap, facts: Mapping[str, str]) -> Strength | None:
    """Endurance and ultimate of a spring's wire; None where the wire is not known or lies outside the tables."""
    if not {"wire_diameter", "mean_diameter"} <= figures.keys():
        return None
    try:
        ultimate = torsional_ultimate(tensile_strength(figures["wire_diameter"].value, spring_wire(dict(facts))))
        return Strength(endurance=endurance_goodman(ultimate, peened=facts.get("peened", "") == "yes"), ultimate=ultimate)
    except ValveTrainError:
        return None


@dataclass(frozen=True, kw_only=True)
class LoadTurns:
    """What one turn of the cam does to a spring at each swept crank speed (rev/s): counted turns of force (N), and one whole turn up to the force of the coil
    that carries most. Small beside the sweep it is taken from, and of no wire in particular."""

    by_speed: Mapping[float, tuple[Turn, tuple[Turn, ...]]]


def load_turns(sweep: Sweep, number: int) -> LoadTurns:
    """Spring `number` of a side, outer first."""
    first = _FIRST + _PER_SPRING * number
    found = {}
    for place, speed in enumerate(sweep.speed):
        course = np.maximum(sweep.trace[first + kernel.TOP_FORCE, :, place].astype(float), 0.0)
        most, low = max(float(sweep.trace[first + kernel.COIL_FORCE, :, place].max()), 0.0), float(course.min())
        found[float(speed)] = Turn(most - low, (most + low) / 2.0, 1.0), tuple(joined(of_one_turn(course), _DIGITS))
    return LoadTurns(by_speed=found)


def harm_by_speed(loads: LoadTurns, figures: FigureMap, wire: Strength) -> dict[float, float]:
    """Harm of one turn of the cam at each swept speed (rev/s), in a spring of this wire. Raises OutOfRangeError for a wire that no spring is wound of."""
    per_newton = shear_stress(1.0, figures["wire_diameter"].value, figures["mean_diameter"].value)

    def stressed(turn: Turn) -> Turn:
        return Turn(turn.range * per_newton, turn.mean * per_newton, turn.count)

    return {
        speed: max(harm([stressed(whole)], wire), harm(map(stressed, counted), wire)) for speed, (whole, counted) in loads.by_speed.items()
    }


@dataclass(frozen=True, kw_only=True)
class SpringHarm:
    """Harm of one turn of the cam in one spring by crank speed (rev/s), for each strength that its wire may have."""

    kinds: tuple[tuple[Strength, Mapping[float, float]], ...]

    @property
    def peening_told(self) -> bool:
        """Whether one strength is known."""
        return len(self.kinds) == 1


def spring_harm(loads: LoadTurns, figures: FigureMap, facts: Mapping[str, str]) -> SpringHarm | None:
    """Over the swept speeds; None where its wire is not known. Peening changes a life more than anything else: where nobody told it, both
    strengths are kept."""
    told = facts.get("peened", "")
    kinds = [facts] if told in ("yes", "no") else [{**facts, "peened": each} for each in ("yes", "no")]
    found = []
    for each in kinds:
        wire = strength_of_wire(figures, each)
        if wire is None:
            return None
        found.append((wire, harm_by_speed(loads, figures, wire)))
    return SpringHarm(kinds=tuple(found))


def used_by(use: Use, harms: SpringHarm, number: int) -> SpringUse:
    """One spring over a use: where peening was not known the band holds both strengths, about their geometric middle."""
    found = []
    for wire, by_speed in harms.kinds:
        total = harm_of_use(use, by_speed)
        found.append((total, banded(total, wire), by_speed))
    middle = math.exp(sum(math.log(max(total, 1e-300)) for total, _, _ in found) / len(found))
    damage = Damage(middle=middle, low=min(each.low for _, each, _ in found), high=max(each.high for _, each, _ in found))
    hardest, _, by_speed = max(found, key=lambda each: each[0])
    return SpringUse(
        number=number, total=middle, damage=damage, half_above=_half_above(use, by_speed, hardest), peening_told=harms.peening_told
    )


def spring_use(use: Use, sweep: Sweep, number: int, figures: FigureMap, facts: Mapping[str, str]) -> SpringUse | None:
    """One spring of a sweep over a use; None where its wire is not known."""
    harms = spring_harm(load_turns(sweep, number), figures, facts)
    return used_by(use, harms, number) if harms is not None else None


def _half_above(use: Use, by_speed: Mapping[float, float], total: float) -> float:
    """The speed above which half of the harm arises, rev/s; 0 where there is none to speak of."""
    if not 0.0 < total < float("inf"):
        return 0.0
    parts = [
        harm_of_use(Use(low=use.low[place : place + 1], seconds=use.seconds[place : place + 1], highest=use.highest), by_speed)
        for place in range(len(use.low))
    ]
    fallen = np.cumsum(parts[::-1])[::-1]
    at = int(np.flatnonzero(fallen >= total / 2.0)[-1])
    return float(use.low[at])


@dataclass(frozen=True, kw_only=True)
class SeatStruck:
    """The hardest touch of the seat within the swept speeds of a use: J, at which speed (rev/s); and the softest of them likewise."""

    energy: float
    speed: float
    softest: float
    softest_speed: float


def seat_struck(use: Use, sweep: Sweep) -> SeatStruck | None:
    """How hard the seat is struck within the speeds of a use; None where the sweep holds none of them."""
    within = (sweep.speed <= use.highest * 1.005) & np.isfinite(sweep.seating)
    if not within.any():
        return None
    speeds, touch = sweep.speed[within], np.abs(sweep.seating[within])
    hard, soft = int(touch.argmax()), int(touch.argmin())
    return SeatStruck(
        energy=impact_energy(sweep.case.mass, float(touch[hard])), speed=float(speeds[hard]), softest=impact_energy(sweep.case.mass, float(touch[soft])),
        softest_speed=float(speeds[soft]),
    )  # fmt: skip
