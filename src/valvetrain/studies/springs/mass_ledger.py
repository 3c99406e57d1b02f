"""Grams: what moves, what a change saves over the head, and what it buys in engine speed; rockers from their inertia."""

from dataclasses import dataclass, replace

from valvetrain.errors import ContradictionError
from valvetrain.formulas.rocker_inertia import STANDARD_GRAVITY, bar_inertia, pendulum_inertia, weighed_inertia
from valvetrain.formulas.separation import rotating_mass_at_valve
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train.side_figures import moving_mass, nominal_float_speed, weakest


@dataclass(frozen=True)
class Saving:
    """What a side's parts weigh against stock: kg a valve and over all its valves, rev/s that the difference buys with the springs that
    are proposed, and rev/s a gram less would buy next."""

    per_valve: float
    over_side: float
    bought: float
    per_gram: float


def _with_masses(side: TrainSide, other: TrainSide) -> TrainSide:
    """The side's springs and lobe with the other's parts; springs keep their own mass, for they are not a saving."""
    return replace(side, masses=other.masses)


def saving(stock: TrainSide, proposed: TrainSide) -> Saving:
    """Grams saved on the moving parts, springs left out of the comparison, and the rigid float they buy."""
    place = weakest(proposed)
    saved = sum(figure.value for figure in stock.masses.values()) - sum(figure.value for figure in proposed.masses.values())
    now = nominal_float_speed(proposed, place)
    before = nominal_float_speed(_with_masses(proposed, stock), place)
    gram = 1e-3 / moving_mass(proposed).value
    return Saving(saved, saved * len(proposed.positions), now - before, now * ((1.0 / (1.0 - gram)) ** 0.5 - 1.0))


def mean_of_weighings(masses: list[float], resolution: float = 0.1e-3) -> Figure:
    """One figure for parts weighed one by one (kg): their mean; the spread is theirs (k = 2) with the scale's (source: gum).

    Raises ContradictionError where they differ so much that they cannot be the same part.
    """
    middle = sum(masses) / len(masses)
    if max(masses) > 1.5 * min(masses):
        raise ContradictionError(
            f"These cannot be the same part: one weighs {min(masses) * 1e3:.1f} g, another {max(masses) * 1e3:.1f} g. Is one a slip, or a set?"
        )
    own = (sum((mass - middle) ** 2 for mass in masses) / (len(masses) - 1)) ** 0.5 if len(masses) > 1 else 0.0
    return Figure(middle, 2.0 * (own**2 + (resolution**2) / 12.0) ** 0.5, Basis.MEASURED)


def rocker_by_geometry(mass: float, valve_arm: float, other_arm: float) -> Figure:
    """Mass at the valve (kg) of a rocker or finger taken for an even bar; its real shape is a quarter off or so. Source: judgement"""
    at_valve = rotating_mass_at_valve(bar_inertia(mass, valve_arm, other_arm), valve_arm)
    return Figure(at_valve, 0.25 * at_valve, Basis.ESTIMATE)


def rocker_by_pendulum(mass: float, centre: float, swings: float, seconds: float, valve_arm: float) -> Figure:
    """Mass at the valve (kg) of a part that made `swings` whole swings from its pivot in `seconds`, its centre of mass `centre` (m) below.

    Spread: a fifth of a second on the watch, half a millimetre on the centre, k = 2. Raises OutOfRangeError for zeros.
    """
    period = seconds / swings if swings > 0 else 0.0
    at_valve = rotating_mass_at_valve(pendulum_inertia(mass, centre, period, STANDARD_GRAVITY), valve_arm)
    share = ((2.0 * 0.2 / seconds) ** 2 + (0.5e-3 / centre) ** 2 + 0.01**2) ** 0.5
    return Figure(at_valve, share * at_valve, Basis.MEASURED)


def rocker_by_weighing(valve_end: float, other_end: float, valve_arm: float, other_arm: float) -> Figure:
    """Mass at the valve (kg) from the two ends' readings: the middle between the least and the greatest that they allow."""
    low, high = (rotating_mass_at_valve(j, valve_arm) for j in weighed_inertia(valve_end, other_end, valve_arm, other_arm))
    return Figure((low + high) / 2.0, (high - low) / 2.0, Basis.MEASURED)
