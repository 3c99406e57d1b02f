"""Figures of fuel and charge, of seats, guides and ports, a line each. Bounds catch wrong units, not unusual engines. Source: judgement."""

from valvetrain.parts.kinds import FigureKind, Owner
from valvetrain.quantities import from_unit
from valvetrain.units import QuantityKind

_FUEL = "used in what the fuel can take, on Goal"
_FLOW = "used in the areas that gas passes, on Goal"
_SHOP = "used on the sheet for seats and guides, on Job"
_ADVICE = "used in the advice on materials, on Choose"

Line = tuple[Owner, str, str, QuantityKind, str, float, float, float, float, str, str]


def _lines() -> tuple[Line, ...]:
    length, number, angle = QuantityKind.LENGTH, QuantityKind.NUMBER, QuantityKind.ANGLE
    g, f, v = Owner.GOAL, Owner.FIT, Owner.VALVE
    return (
        (g, "octane", "Octane of the fuel, RON", number, "", 60, 130, 0.01, 0.01, "the research number on the pump or drum", _FUEL),
        (g, "altitude", "Runs at, above the sea", QuantityKind.ALTITUDE, "m", -430, 6000, 0.0, 0.0, "", _FUEL),
        (g, "air_temperature", "Air it draws", QuantityKind.TEMPERATURE, "degC", -40, 70, 0.01, 0.01, "on the hottest day it runs", _FUEL),
        (g, "compressor_efficiency", "Compressor's efficiency", number, "", 0.3, 0.85, 0.1, 0.05, "0.65 is 65 %: by its map", _FUEL),
        (g, "cooler_effectiveness", "Charge cooler's effectiveness", number, "", 0, 0.98, 0.1, 0.05, "0 without one; 0.6 is 60 %", _FUEL),
        (g, "charge_temperature", "Charge at the intake port", QuantityKind.TEMPERATURE, "degC", -20, 250, 0.01, 0.01, "measured at full power", _FUEL),
        (g, "passes", "Passes between refreshes", number, "", 1, 2000, 0.0, 0.0, "drag and pulling", _ADVICE),
        (g, "season_hours", "Running hours in a season", QuantityKind.DURATION, "h", 1, 3000, 0.0, 0.0, "", _ADVICE),
        (f, "seat_angle", "Seat angle", angle, "deg", 25, 60, 0.01, 0.005, "from the plane of the head; 45 where not known", _FLOW),
        (f, "throat", "Throat under the seat", length, "mm", 8, 78, 0.005, 0.003, "the port's narrowest place under the valve", _FLOW),
        (f, "seat_contact", "Seat contact, width wanted", length, "mm", 0.4, 4, 0.05, 0.05, "on the seat; by the manual", _SHOP),
        (f, "seat_inner", "Seat ring, bore", length, "mm", 8, 80, 0.003, 0.002, "", _SHOP),
        (f, "seat_depth", "Seat ring, height", length, "mm", 2, 20, 0.01, 0.005, "", _SHOP),
        (f, "seat_bore", "Bore for the seat ring", length, "mm", 12, 90, 0.0005, 0.0003, "in the cold head", _SHOP),
        (f, "seat_boss", "Metal around the seat, across", length, "mm", 15, 140, 0.05, 0.03, "to the next hole or water", _SHOP),
        (f, "guide_hole", "Bore for the guide", length, "mm", 6, 30, 0.0005, 0.0003, "in the cold head", _SHOP),
        (f, "guide_outer", "Guide, outside", length, "mm", 6, 30, 0.0005, 0.0003, "", _SHOP),
        (f, "guide_length", "Guide, length", length, "mm", 15, 120, 0.01, 0.005, "", _SHOP),
        (f, "guide_height", "Guide stands above the spring seat", length, "mm", 0, 40, 0.01, 0.005, "by the manual", _SHOP),
        (f, "stem_play_least", "Stem in guide, play, minimum", length, "mm", 0.005, 0.15, 0.0, 0.0, "by the manual", _SHOP),
        (f, "stem_play_most", "Stem in guide, play, maximum", length, "mm", 0.005, 0.2, 0.0, 0.0, "by the manual", _SHOP),
        (f, "protrusion_least", "Stem protrusion, minimum", length, "mm", 5, 90, 0.0, 0.0, "tip above the spring seat, by the manual", _SHOP),
        (f, "protrusion_most", "Stem protrusion, maximum", length, "mm", 5, 90, 0.0, 0.0, "tip above the spring seat, by the manual", _SHOP),
        (v, "waist", "Stem under the head, thinned to", length, "mm", 2.5, 15, 0.01, 0.005, "where it is thinned", _ADVICE),
        (v, "length_of_waist", "Thinned over", length, "mm", 2, 80, 0.05, 0.03, "along the stem", _ADVICE),
    )  # fmt: skip


def head_rows() -> tuple[FigureKind, ...]:
    """The lines."""
    return tuple(
        FigureKind(key, owner, label, kind, from_unit(low, kind, unit), from_unit(high, kind, unit), card, measured, hint, 0.0, counts)
        for owner, key, label, kind, unit, low, high, card, measured, hint, counts in _lines()
    )
