"""A valve spring as a straight line of force over height, known from a card, a tester or its wire."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from valvetrain.errors import ContradictionError
from valvetrain.formulas import coil_springs
from valvetrain.formulas.coil_springs import OIL_HARDENED_SHEAR_MODULUS, STEEL_DENSITY, Ends
from valvetrain.formulas.spring_fatigue import Wire
from valvetrain.formulas.tapered_springs import cone_rate, series_rate
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.units import LENGTH, amount

# Shares of the value, k = 2: what hand-measured wire and coils leave open on rate (d^4, D^3) and mass. Source: judgement.
_RATE_FROM_WIRE, _MASS_FROM_WIRE = 0.06, 0.05


STRAIGHT = Figure(0.0)  # the bend of a spring whose load rises in a straight line
# Share of a spring's wire in its active coils while nobody counted them: 5 to 9 coils, one dead at each end. Source: judgement
USUAL_ACTIVE = Figure(0.70, 0.10, Basis.ESTIMATE)


@dataclass(frozen=True)
class Spring:
    """Force in N at a height in m: `load + rate x + bend x^2`, x = `load_height` - height. All figures SI; `bend` 0 is a straight line.

    `active` is the share of the mass that is in the active coils; of the rest half moves with the retainer and half lies on the seat.
    """

    rate: Figure
    load: Figure
    load_height: Figure
    solid_height: Figure
    mass: Figure
    bend: Figure = STRAIGHT
    active: Figure = USUAL_ACTIVE

    @property
    def active_mass(self) -> float:
        """Mass of the active coils, kg: what surges (source: shigley, sec. 10-8)."""
        return self.mass.value * self.active.value

    @property
    def end_mass(self) -> float:
        """Mass of the dead coil under the retainer, kg: it moves with the valve."""
        return self.mass.value * (1.0 - self.active.value) / 2.0

    def force(self, height: float) -> float:
        """Nominal force (N) at a height (m); below zero means the spring has come loose."""
        squeeze = self.load_height.value - height
        return self.load.value + squeeze * (self.rate.value + self.bend.value * squeeze)

    def rate_at(self, height: float) -> float:
        """Nominal slope of force over height (N/m) at a height (m)."""
        return self.rate.value + 2.0 * self.bend.value * (self.load_height.value - height)

    @property
    def free_length(self) -> float:
        """Height (m) at which the force is zero; where a bent line never reaches it, the tangent's."""
        bend, rate, load = self.bend.value, self.rate.value, self.load.value
        root = rate**2 - 4.0 * bend * load
        if bend == 0.0 or root < 0.0:
            return self.load_height.value + load / rate
        return self.load_height.value + 2.0 * load / (rate + math.sqrt(root))


@dataclass(frozen=True)
class PackedSpring:
    """A spring in a pack; `step` (m) is how much higher its lower seat is than the outer's."""

    spring: Spring
    step: Figure


_SHEAR_MODULUS = {Wire.MUSIC: 81.5e9, Wire.HARD_DRAWN: 81.5e9}  # patented cold-drawn; others are oil-hardened (en10270)
_FORM_SPREAD = {"cylinder": 0.0, "cone": 0.04, "beehive": 0.04}  # of the rate, for coils that close early. Source: judgement


def spring_ends(facts: Mapping[str, str]) -> Ends:
    """How a spring's ends are made, as told of the part; closed and ground where nothing is told."""
    return Ends(facts["ends"]) if facts.get("ends") else Ends.CLOSED_GROUND


def spring_wire(facts: Mapping[str, str]) -> Wire:
    """The grade of a spring's wire, as told of the part; chrome-silicon, usual for valves, where nothing is told."""
    return Wire(facts["wire"]) if facts.get("wire") else Wire.CHROME_SILICON


def active_share(figures: FigureMap, facts: Mapping[str, str]) -> Figure:
    """Share of the wire in active coils, from coils counted and how the ends are made; the usual one where nobody counted."""
    total = figures.get("total_coils")
    if "active_coils" in figures:
        active = figures["active_coils"]
        count = total.value if total else active.value + 2.0
        if active.value >= count:
            raise ContradictionError(
                f"{active.value:g} active coils of {count:g} in all cannot be: the coils that lie flat at the ends do not count as active."
            )
        return Figure(active.value / count, 0.02 if total else 0.04, active.basis)
    if total is None:
        return USUAL_ACTIVE
    active_count = coil_springs.active_coils(total.value, spring_ends(facts))
    known = 0.02 if facts.get("ends") else 0.04
    return Figure(min(active_count / total.value, 1.0), known, total.basis)


def _rate_and_mass(figures: FigureMap, facts: Mapping[str, str], active: float) -> tuple[float, float]:
    """Rate (N/m) and mass (kg) of the form told: cylinder, cone, or beehive (a cylinder whose last coils taper)."""
    wire, mean, total = figures["wire_diameter"].value, figures["mean_diameter"].value, figures["total_coils"].value
    modulus = _SHEAR_MODULUS.get(spring_wire(facts), OIL_HARDENED_SHEAR_MODULUS)
    form = facts.get("form", "cylinder")
    if form not in ("cone", "beehive") or "small_diameter" not in figures:
        return coil_springs.rate(wire, mean, active, modulus), coil_springs.active_mass(wire, mean, total, STEEL_DENSITY)
    small = figures["small_diameter"].value
    taper = active if form == "cone" else min(figures["taper_coils"].value if "taper_coils" in figures else active / 2.0, active - 0.25)
    cone = cone_rate(wire, small, mean, taper, modulus)
    rate = cone if form == "cone" else series_rate(coil_springs.rate(wire, mean, active - taper, modulus), cone)
    tapered = taper / active * total
    mass = coil_springs.active_mass(wire, (small + mean) / 2.0, tapered, STEEL_DENSITY)
    if total > tapered:
        mass += coil_springs.active_mass(wire, mean, total - tapered, STEEL_DENSITY)
    return rate, mass


def from_wire(figures: FigureMap, facts: Mapping[str, str] = MappingProxyType({})) -> dict[str, Figure]:
    """Rate, load, solid height and mass from wire, coil, coils and free length (SI), as card figures would give them.

    Needs keys wire_diameter, mean_diameter (of a cone or beehive its large end), total_coils, free_length; `facts` tell form, ends
    and wire. Source: shigley, wahl1963 for tapers, en10270 for the modulus. Raises ContradictionError when the free length is not
    above solid.
    """
    wire, mean = figures["wire_diameter"], figures["mean_diameter"]
    coils, free = figures["total_coils"], figures["free_length"]
    ends = spring_ends(facts)
    basis = max((wire.basis, mean.basis, coils.basis, free.basis), key=list(Basis).index)
    active = coil_springs.active_coils(coils.value, ends)
    rate, mass = _rate_and_mass(figures, facts, active)
    relative = (
        (4 * wire.spread / wire.value) ** 2 + (3 * mean.spread / mean.value) ** 2 + (coils.spread / active) ** 2 + _RATE_FROM_WIRE**2
        + _FORM_SPREAD.get(facts.get("form", "cylinder"), 0.0) ** 2
    ) ** 0.5  # fmt: skip
    solid = coil_springs.solid_height(wire.value, coils.value, ends)
    if free.value <= solid:
        raise ContradictionError(
            f"A free length of {amount(free.value, LENGTH, 1)} cannot be: the coils alone are {amount(solid, LENGTH, 1)} when they touch."
        )
    solid_spread = ((wire.spread * coils.value) ** 2 + (wire.value * coils.spread) ** 2) ** 0.5
    return {
        "rate": Figure(rate, rate * relative, basis),
        "load": Figure(0.0, rate * free.spread, basis),
        "load_height": Figure(free.value, 0.0, basis),
        "solid_height": Figure(solid, solid_spread, basis),
        "mass": Figure(mass, mass * _MASS_FROM_WIRE, basis),
    }
