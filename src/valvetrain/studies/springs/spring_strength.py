"""What a spring of known wire bears: stress shut and open, against set and against fatigue over the planned hours, and its surge."""

import math
from dataclasses import dataclass

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.coil_springs import active_coils, shear_stress, surge_frequency
from valvetrain.formulas.spring_fatigue import (
    Wire,
    endurance_goodman,
    goodman_factor,
    least_coil_gaps,
    tensile_strength,
    torsional_ultimate,
    torsional_yield,
    turns_to_failure,
)
from valvetrain.parts.figure import FigureMap
from valvetrain.parts.spring import PackedSpring, spring_ends, spring_wire
from valvetrain.studies.checks.check import Verdict

_USUAL_SURGE = 10.0  # times camshaft frequency that production engines keep their first surge above. Source: trade
_NEAR_SET = 0.95  # strengths of wire scatter by some 5 %: nearer than this to its yield a spring may set. Source: judgement
_SURE = 1.15  # factor of safety from which a fatigue verdict holds: strengths of wire scatter by about that much. Source: judgement


@dataclass(frozen=True)
class SpringStrength:
    """One spring, SI: stresses Pa corrected for curvature; `surge` Hz; `turns` of the cam in the planned hours, `life` that are expected.

    `gap` m left between all coils at full lift, `gap_wanted` what the standard asks of moving springs.
    """

    shut: float
    open: float
    moving: float | None
    yields: float
    fatigue: float
    fatigue_moving: float | None
    surge: float
    surge_ratio: float
    turns: float
    life: float
    gap: float
    gap_wanted: float
    wire: Wire
    verdict: Verdict
    words: str


def strength_of(
    packed: PackedSpring, figures: FigureMap, facts: dict[str, str], height: float, lift: float, goal_speed: float, hours: float,
    moving_force: float | None = None,
) -> SpringStrength | None:  # fmt: skip
    """Strength of one spring at its own height shut (m) and valve lift (m), at a crank speed (rev/s) over planned running seconds.

    `moving_force` (N) is the greatest force anywhere in it at speed. None without wire, mean diameter and coils.
    """
    if not {"wire_diameter", "mean_diameter", "total_coils"} <= figures.keys():
        return None
    wire, mean = figures["wire_diameter"].value, figures["mean_diameter"].value
    grade, spring = spring_wire(facts), packed.spring
    coils = active_coils(figures["total_coils"].value, spring_ends(facts))
    peened = facts.get("peened", "") == "yes"
    low, high = spring.force(height), spring.force(height - lift)
    shut, opened = shear_stress(low, wire, mean), shear_stress(high, wire, mean)
    tensile = tensile_strength(wire, grade)
    ultimate = torsional_ultimate(tensile)
    endurance = endurance_goodman(ultimate, peened=peened)

    def factor(top: float) -> float:
        return goodman_factor((top - shut) / 2.0, (top + shut) / 2.0, endurance, ultimate)

    moving = shear_stress(moving_force, wire, mean) if moving_force and moving_force > high else None
    top = moving or opened
    try:
        life = turns_to_failure((top - shut) / 2.0, (top + shut) / 2.0, endurance, ultimate)
    except OutOfRangeError:
        life = 0.0
    # only the active coils surge (shigley, sec. 10-8)
    surge = surge_frequency(spring.rate_at(height), spring.mass.value * coils / figures["total_coils"].value)
    turns = goal_speed / 2.0 * hours
    gap = height - lift - spring.solid_height.value
    yields = torsional_yield(tensile, grade)
    verdict, words = _words(opened, moving, yields, factor(top), life, turns)
    return SpringStrength(
        shut=shut, open=opened, moving=moving, yields=yields, fatigue=factor(opened), fatigue_moving=factor(moving) if moving else None, surge=surge, surge_ratio=surge / (goal_speed / 2.0), turns=turns, life=life,
        gap=gap, gap_wanted=least_coil_gaps(wire, mean, coils), wire=grade, verdict=verdict, words=words,
    )  # fmt: skip


def _words(opened: float, moving: float | None, yields: float, factor: float, life: float, turns: float) -> tuple[Verdict, str]:
    when = "at full lift" if moving is None else "at speed"
    top = max(opened, moving or 0.0)
    shares = f"stress at full lift is {opened / yields:.0%} of what new wire can take" + (
        f", at speed {moving / yields:.0%}" if moving is not None else ""
    )
    if opened > yields:
        return Verdict.SHORT, f"the wire sets: its {shares}"
    if moving is not None and moving > yields:
        return Verdict.SHORT, f"the wire sets at speed, by surge: its {shares}"
    if life < turns:
        return Verdict.SHORT, f"expected to break after {_millions(life)} turns of the cam, {_millions(turns)} are planned; its {shares}"
    if top > _NEAR_SET * yields:
        return Verdict.SLIM, f"close to setting: its {shares}"
    if factor >= _SURE:
        return Verdict.HOLDS, f"endless by the textbook, with a factor of {factor:.2f} {when}; its {shares}"
    if math.isinf(life):
        return Verdict.SLIM, f"just endless by the textbook, factor {factor:.2f} {when}; wire scatters by more; its {shares}"
    return Verdict.SLIM, f"expected to last {_millions(life)} turns of the cam, {_millions(turns)} are planned; its {shares}"


def _millions(turns: float) -> str:
    return f"{turns / 1e6:.1f} million" if turns >= 1e5 else f"{turns:,.0f}"


def surge_words(found: SpringStrength) -> str:
    """The first surge against the usual distance from the camshaft's frequency."""
    side = "above" if found.surge_ratio >= _USUAL_SURGE else "below"
    return f"{found.surge:.0f} Hz, {found.surge_ratio:.1f} times the camshaft at the goal; {side} the usual 10 to 13"
