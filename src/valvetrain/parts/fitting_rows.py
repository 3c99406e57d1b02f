"""Figures that decide what fits together, a line each: of parts, of the head they go into, and of parts that only the shelf knows.

Bounds catch wrong units, not unusual engines. Source: judgement.
"""

from valvetrain.parts.kinds import FigureKind, Owner
from valvetrain.quantities import from_unit
from valvetrain.units import QuantityKind

_COUNTS = "decides what fits together, on Choose"
_STAND = "moves the installed height of a set, on Choose"
_SHARE = {QuantityKind.LENGTH: (0.002, 0.001), QuantityKind.ANGLE: (0.02, 0.02), QuantityKind.MASS: (0.03, 0.01)}


def fitting_rows() -> tuple[FigureKind, ...]:
    """The lines."""
    length, angle, mass = QuantityKind.LENGTH, QuantityKind.ANGLE, QuantityKind.MASS
    lines: tuple[tuple[Owner, str, str, QuantityKind, float, float, str, str], ...] = (
        (Owner.VALVE, "length", "Length over all", length, 30, 300, "", _COUNTS),
        (Owner.VALVE, "groove_height", "Seat line to keeper groove", length, 20, 290, "along the stem; only differences count", _STAND),
        (Owner.VALVE, "tip_height", "Tip above the groove", length, 0.5, 20, "", _COUNTS),
        (Owner.VALVE, "tip_diameter", "Tip across", length, 3, 15, "where it is not the stem's", _COUNTS),
        (Owner.KEEPERS, "stem_diameter", "For a stem of", length, 3, 15, "", _COUNTS),
        (Owner.KEEPERS, "cone_angle", "Cone, to one side", angle, 2, 20, "half of the whole angle", _COUNTS),
        (Owner.KEEPERS, "rise", "Raise the retainer by", length, -3, 3, "0 for plain ones", _STAND),
        (Owner.RETAINER, "cone_angle", "Cone, to one side", angle, 2, 20, "half of the whole angle", _COUNTS),
        (Owner.RETAINER, "stem_diameter", "For a stem of", length, 3, 15, "", _COUNTS),
        (Owner.RETAINER, "step_outer", "Step for the outer spring", length, 6, 50, "across", _COUNTS),
        (Owner.RETAINER, "step_inner", "Step for the inner spring", length, 4, 45, "across", _COUNTS),
        (Owner.RETAINER, "spring_face", "Groove down to the spring's face", length, -5, 15, "only differences count", _STAND),
        (Owner.RETAINER, "underside", "Spring's face down to its underside", length, 0, 20, "what comes nearest to the seal", _STAND),
        (Owner.RETAINER, "top_height", "Top above the groove", length, -3, 15, "", _COUNTS),
        (Owner.RETAINER, "shim_recess", "Recess for the shim", length, 4, 20, "across, where a shim lies in it", _COUNTS),
        (Owner.SPRING, "outer_across", "Across, outside", length, 6, 60, "where no wire and coil diameter are known", _COUNTS),
        (Owner.SPRING, "inner_across", "Across, inside", length, 4, 55, "likewise", _COUNTS),
        (Owner.SPRING, "height_low", "Made to stand, at least", length, 12, 110, "installed", _COUNTS),
        (Owner.SPRING, "height_high", "Made to stand, at most", length, 12, 110, "installed", _COUNTS),
        (Owner.FOLLOWER, "outside", "Across, in its bore", length, 8, 60, "of a bucket or tappet", _COUNTS),
        (Owner.FOLLOWER, "inside", "Inside across", length, 6, 55, "of a bucket", _COUNTS),
        (Owner.FOLLOWER, "shim_recess", "Recess for the shim", length, 4, 50, "across", _COUNTS),
        (Owner.SHIM, "diameter", "Across", length, 4, 50, "", _COUNTS),
        (Owner.FOLLOWER, "width", "Width of the arm", length, 4, 60, "of a rocker or finger, where it is widest", _COUNTS),
        (Owner.CAM, "swept", "Nose sweeps a radius of", length, 8, 60, "from the cam's axis", _COUNTS),
        (Owner.FIT, "tunnel", "Cam tunnel, radius", length, 8, 70, "from the cam's axis to the nearest casting", _COUNTS),
        (Owner.FIT, "arm_room", "Room for an arm to its neighbour", length, 4, 80, "across, the least", _COUNTS),
        (Owner.FIT, "valve_length", "Valves of this head, length", length, 30, 300, "as its maker gives it", _COUNTS),
        (Owner.GUIDE, "bore", "Bore", length, 3, 16, "", _COUNTS),
        (Owner.GUIDE, "top_diameter", "Top, where the seal grips", length, 6, 25, "", _COUNTS),
        (Owner.GUIDE, "outer_diameter", "Outside, in the head", length, 6, 30, "", _COUNTS),
        (Owner.SEAL, "stem_diameter", "For a stem of", length, 3, 15, "", _COUNTS),
        (Owner.SEAL, "grip_diameter", "For a guide of", length, 6, 25, "", _COUNTS),
        (Owner.SEAL, "outer_diameter", "Outside", length, 7, 30, "", _COUNTS),
        (Owner.SEAT, "outer_diameter", "Outside, in the head", length, 12, 90, "", _COUNTS),
        (Owner.SEAT, "throat", "Inside across", length, 8, 80, "", _COUNTS),
        (Owner.SPRING_SEAT, "bore", "Bore", length, 5, 40, "what must pass over the seal", _COUNTS),
        (Owner.SPRING_SEAT, "locator", "Locator for the spring", length, 5, 50, "across", _COUNTS),
        (Owner.SPRING_SEAT, "thickness", "Thickness under the spring", length, 0.2, 6, "", _COUNTS),
        (Owner.SPRING_SHIM, "thickness", "Thickness", length, 0.05, 4, "", "shown under the springs of a set, on Choose"),
        (Owner.CAP, "bore", "Bore", length, 3, 16, "", _COUNTS),
        (Owner.CAP, "depth", "Depth of its skirt", length, 0.5, 10, "", _COUNTS),
        (Owner.CAP, "thickness", "Thickness", length, 0.5, 6, "", _COUNTS),
        (Owner.CAP, "mass", "Mass", mass, 0.1, 40, "", _COUNTS),
        (Owner.FIT, "retainer_room", "Room for the retainer in the casting", length, 10, 80, "across, the least over the lift", _COUNTS),
        (Owner.FIT, "bucket_bore", "Bore of the buckets", length, 8, 60, "", _COUNTS),
        (Owner.FIT, "guide_bore", "Bore of the guides", length, 3, 16, "", _COUNTS),
        (Owner.FIT, "seal_across", "Seals, outside", length, 7, 30, "as fitted", _COUNTS),
        (Owner.FIT, "locator", "Locator of the spring seat", length, 5, 50, "across", _COUNTS),
        (Owner.FIT, "seat_outer", "Valve seat, outside", length, 12, 90, "as fitted", _COUNTS),
    )  # fmt: skip
    return tuple(
        FigureKind(
            key,
            owner,
            label,
            kind,
            from_unit(low, kind, _UNITS[kind]),
            from_unit(high, kind, _UNITS[kind]),
            *_SHARE[kind],
            hint,
            0.0,
            counts,
        )
        for owner, key, label, kind, low, high, hint, counts in lines
    )


_UNITS = {QuantityKind.LENGTH: "mm", QuantityKind.ANGLE: "deg", QuantityKind.MASS: "g"}
