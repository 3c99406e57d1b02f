"""Room in a head: which gaps there are, how each is measured, and where valves and piston stand."""

import math
from dataclasses import dataclass
from enum import StrEnum

from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure
from valvetrain.units import LENGTH, amount


class GapKind(StrEnum):
    """What must not touch what."""

    PISTON_VALVE = "piston_to_valve"
    POCKET_RIM = "pocket_rim"
    VALVE_VALVE = "valve_to_valve"
    VALVE_BORE = "valve_to_bore"
    COIL_BIND = "coil_bind"
    RETAINER = "retainer_to_seal"
    FOLLOWER = "follower_to_retainer"
    NESTED = "nested_springs"
    SPRING_POCKET = "spring_pocket"
    LOBE_HEAD = "lobe_to_head"
    HEAD_ROOM = "valve_to_head"

    @property
    def words(self) -> str:
        """Its name as a person says it."""
        return _GAPS[self][0]

    @property
    def where(self) -> str:
        """Where it is measured, when the name does not say so."""
        return _GAPS[self][1]

    @property
    def limit_key(self) -> str:
        """Under which key of the catalogue the least gap is kept; empty where each side has its own."""
        return _GAPS[self][2]


_GAPS = {
    GapKind.PISTON_VALVE: ("valve to piston", "along the stem", ""),
    GapKind.POCKET_RIM: ("valve to pocket wall", "beside the head", "pocket_rim_limit"),
    GapKind.VALVE_VALVE: ("valve to valve", "", "valve_valve_limit"),
    GapKind.VALVE_BORE: ("valve to bore", "", "valve_bore_limit"),
    GapKind.COIL_BIND: ("coil bind", "", ""),
    GapKind.RETAINER: ("retainer to seal", "", ""),
    GapKind.FOLLOWER: ("follower to retainer", "", "follower_limit"),
    GapKind.NESTED: ("gap between inner and outer spring", "", "nested_limit"),
    GapKind.SPRING_POCKET: ("spring to pocket", "", "spring_pocket_limit"),
    GapKind.LOBE_HEAD: ("lobe nose to head", "", "lobe_head_limit"),
    GapKind.HEAD_ROOM: ("valve to cylinder head", "open", "head_room_limit"),
}
# A guess until somebody measures: told as a range, never as a figure. Coil bind and retainer follow from what is told of springs and seal.
GUESSED_GAPS = frozenset(set(GapKind) - {GapKind.COIL_BIND, GapKind.RETAINER})


class Way(StrEnum):
    """How a gap was measured."""

    CLAY = "clay"
    DROP = "drop test"
    CHECKING = "checking springs"
    GAUGE = "gauge"


# What a careful reading leaves open, m, k = 2: clay springs back and tears, a dial on a pushed valve rocks. Source: judgement
WAY_SPREAD = {Way.CLAY: 0.10e-3, Way.DROP: 0.05e-3, Way.CHECKING: 0.05e-3, Way.GAUGE: 0.05e-3}


@dataclass(frozen=True)
class GapReading:
    """One gap as measured on one valve, m. `rest` is the piston gap with valve shut and piston up that a piston reading comes to,
    worked out when it was taken, so that it stays true when the cam is changed; `angle` crank rad from overlap TDC, None for clay."""

    gap: GapKind
    side: Side
    valve: str
    way: Way
    value: float
    spread: float
    angle: float | None = None
    rest: float | None = None


def check_reading(gap: GapKind, value: float, angle: float | None) -> None:
    """Raise ContradictionError with a sentence for a reading (m, crank rad) that cannot be."""
    if not -5e-3 <= value <= 30e-3 or (gap is GapKind.PISTON_VALVE and value < 0.0):
        raise ContradictionError(
            f"A gap of {amount(value, LENGTH)} cannot be: it lies between 0 and {amount(30e-3, LENGTH, 0)}. Is the unit right?"
        )
    if angle is not None and gap is not GapKind.PISTON_VALVE:
        raise ContradictionError("Only the gap between valve and piston is read at a crank angle.")
    if angle is not None and abs(angle) > math.radians(75.0):
        raise ContradictionError(
            f"{math.degrees(angle):.0f}° is far from TDC, where no valve meets a piston: read between 40° before and 40° after overlap TDC."
        )


@dataclass(frozen=True)
class ValvePlace:
    """Where the valves of one side stand in the chamber, m and rad; each figure known or estimated.

    `height` of the shut head's lowest edge above the gasket face, `offset` of its centre from the bore's middle, `apart` from the next
    valve of its side (0 for a single one), `margin` the thickness of its edge. The pocket is told from the crown's rim down.
    """

    side: Side
    angle: Figure
    height: Figure
    offset: Figure
    apart: Figure
    head_diameter: Figure
    margin: Figure
    pocket_depth: Figure
    pocket_angle: Figure
    pocket_diameter: Figure
    pocket_offset: Figure


@dataclass(frozen=True)
class Chamber:
    """Piston, rod and deck, m. `compression` is the static ratio."""

    bore: Figure
    stroke: Figure
    rod: Figure
    pin_offset: Figure
    deck: Figure
    gasket: Figure
    compression: Figure
    cylinders: int
    valves_per_side: int
