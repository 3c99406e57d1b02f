"""A valve spring as a straight line of force over height, known from a card, a tester or its wire."""

import math
from dataclasses import dataclass

from valvetrain.errors import ContradictionError
from valvetrain.formulas import coil_springs
from valvetrain.formulas.coil_springs import OIL_HARDENED_SHEAR_MODULUS, STEEL_DENSITY, Ends
from valvetrain.parts.figure import Basis, Figure, FigureMap

# Shares of the value, k = 2: what hand-measured wire and coils leave open on rate (d^4, D^3) and mass. Source: judgement.
_RATE_FROM_WIRE, _MASS_FROM_WIRE = 0.06, 0.05


STRAIGHT = Figure(0.0)  # the bend of a spring whose load rises in a straight line


@dataclass(frozen=True)
class Spring:
    """Force in N at a height in m: `load + rate x + bend x^2`, x = `load_height` - height. All figures SI; `bend` 0 is a straight line."""

    rate: Figure
    load: Figure
    load_height: Figure
    solid_height: Figure
    mass: Figure
    bend: Figure = STRAIGHT

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


def from_wire(figures: FigureMap, ends: Ends = Ends.CLOSED_GROUND) -> dict[str, Figure]:
    """Rate, load, solid height and mass from wire, coil, coils and free length (SI), as card figures would give them.

    Needs keys wire_diameter, mean_diameter, total_coils, free_length. Source: shigley, en10270 for the modulus.
    Raises ContradictionError when the free length is not above solid.
    """
    wire, mean = figures["wire_diameter"], figures["mean_diameter"]
    coils, free = figures["total_coils"], figures["free_length"]
    basis = max((wire.basis, mean.basis, coils.basis, free.basis), key=list(Basis).index)
    active = coil_springs.active_coils(coils.value, ends)
    rate = coil_springs.rate(wire.value, mean.value, active, OIL_HARDENED_SHEAR_MODULUS)
    relative = (
        (4 * wire.spread / wire.value) ** 2 + (3 * mean.spread / mean.value) ** 2 + (coils.spread / active) ** 2 + _RATE_FROM_WIRE**2
    ) ** 0.5
    solid = coil_springs.solid_height(wire.value, coils.value, ends)
    if free.value <= solid:
        raise ContradictionError(
            f"A free length of {free.value * 1000:.1f} mm cannot be: the coils alone are {solid * 1000:.1f} mm when they touch."
        )
    mass = coil_springs.active_mass(wire.value, mean.value, coils.value, STEEL_DENSITY)
    solid_spread = ((wire.spread * coils.value) ** 2 + (wire.value * coils.spread) ** 2) ** 0.5
    return {
        "rate": Figure(rate, rate * relative, basis),
        "load": Figure(0.0, rate * free.spread, basis),
        "load_height": Figure(free.value, 0.0, basis),
        "solid_height": Figure(solid, solid_spread, basis),
        "mass": Figure(mass, mass * _MASS_FROM_WIRE, basis),
    }
