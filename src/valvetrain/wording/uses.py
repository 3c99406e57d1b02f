"""What the use of an engine sets, in plain words."""

from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Use
from valvetrain.studies.train.estimates import use_limits
from valvetrain.units import amount

_TOLD = (
    "coil_bind_limit",
    "retainer_limit",
    "piston_gap_limit_intake",
    "piston_gap_limit_exhaust",
    "piston_speed_limit",
    "acceleration_limit",
)


def use_sets(use: Use, rods: str = "") -> str:
    """The limits that a use sets until the maker's are typed; amounts in SI until they are told."""
    limits = use_limits(use, rods)
    told = [f"{FIGURES[Owner.GOAL, key].label.lower()} {amount(limits[key].value, FIGURES[Owner.GOAL, key].kind)}" for key in _TOLD]
    return f"Limits until you type the maker's: {'; '.join(told)}."
