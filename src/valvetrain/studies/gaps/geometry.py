"""Where valves and piston stand: what is known of it, with wide estimates for the rest."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from valvetrain.errors import ContradictionError
from valvetrain.formulas.piston_gaps import stem_gap_at_rest
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import EngineKind, Gear, Side
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.parts.gaps import Chamber, ValvePlace
from valvetrain.studies.train.assembly import CompletedBuild
from valvetrain.studies.train.head_change import changed_engine, head_change
from valvetrain.units import LENGTH, amount

_MM = 1e-3
# Angle between valve and bore, degrees, with its spread. Source: judgement
_ANGLES = {Gear.DOHC: (13.0, 6.0), Gear.OHC: (20.0, 12.0), Gear.PUSH_ROD: (10.0, 8.0), Gear.SIDE_VALVE: (0.0, 3.0)}
_REST_KEYS = ("head_height", "pocket_depth", "valve_angle")


def complete_room(kind: EngineKind, engine: FigureMap, heads: Mapping[Side, Figure]) -> dict[str, Figure]:
    """Figures of chamber, crown and valve places; estimates (source: judgement) where nothing was told. `heads` are head diameters."""
    room = dict(engine)
    room.setdefault("gasket", estimate(0.8 * _MM, 0.5))
    room.setdefault("deck", estimate(0.1 * _MM, spread=0.4 * _MM))
    room.setdefault("pin_offset", Figure(0.0, 0.5 * _MM, Basis.ESTIMATE))
    angle, wide = _ANGLES[kind.gear]
    for side, head in heads.items():
        room.setdefault(f"valve_angle_{side}", estimate(math.radians(angle), spread=math.radians(wide)))
        tilt = room[f"valve_angle_{side}"]
        room.setdefault(f"pocket_angle_{side}", estimate(tilt.value, spread=math.radians(2.0)))
        room.setdefault(f"pocket_diameter_{side}", estimate(head.value + 3.5 * _MM, spread=2.0 * _MM))
        room.setdefault(f"pocket_offset_{side}", Figure(0.0, 0.5 * _MM, Basis.ESTIMATE))
        room.setdefault(f"valve_offset_{side}", estimate(head.value / 2.0 * math.cos(tilt.value) + 1.5 * _MM, spread=1.5 * _MM))
        single = kind.valves_per_side == 1
        room.setdefault(f"valve_spread_{side}", Figure(0.0) if single else estimate(head.value + 2.5 * _MM, spread=1.5 * _MM))
        room.setdefault(f"head_height_{side}", estimate(1.0 * _MM, spread=1.5 * _MM))
        room.setdefault(f"pocket_depth_{side}", estimate(1.5 * _MM, spread=1.5 * _MM))
    return room


@dataclass(frozen=True)
class RoomGeometry:
    """Chamber and valve places of a build; `rest_known` per side when everything is told that the gap at rest follows from."""

    chamber: Chamber
    places: Mapping[Side, ValvePlace]
    rest_known: Mapping[Side, bool]
    figures: Mapping[str, Figure]


def geometry_of(done: CompletedBuild, kind: EngineKind, setup: str = "proposed") -> RoomGeometry:
    """The room of a completed build. Raises ContradictionError where a head would lie outside its bore."""
    sides = done.proposed_sides if setup == "proposed" else done.stock_sides
    valves = {side: complete.parts[Owner.VALVE] for side, complete in sides.items()}
    change = head_change(kind, done.engine) if setup == "proposed" else None
    heads = {side: valve["head_diameter"] for side, valve in valves.items()}
    room = changed_engine(complete_room(kind, done.engine, heads), change)
    places, known = {}, {}
    shared = all(key in done.engine for key in ("gasket", "deck"))
    for side, valve in valves.items():
        place = ValvePlace(
            side=side, angle=room[f"valve_angle_{side}"], height=room[f"head_height_{side}"], offset=room[f"valve_offset_{side}"],
            apart=room[f"valve_spread_{side}"], head_diameter=valve["head_diameter"],
            margin=valve.get("margin", estimate(1.1 * _MM, 0.3)), pocket_depth=room[f"pocket_depth_{side}"],
            pocket_angle=room[f"pocket_angle_{side}"], pocket_diameter=room[f"pocket_diameter_{side}"],
            pocket_offset=room[f"pocket_offset_{side}"],
        )  # fmt: skip
        if place.pocket_diameter.value <= place.head_diameter.value and f"pocket_diameter_{side}" in done.engine:
            raise ContradictionError(
                f"The {side} pocket is {amount(place.pocket_diameter.value, LENGTH, 1)} across and the valve head "
                f"{amount(place.head_diameter.value, LENGTH, 1)}: it would not go in. One of the two is wrong."
            )
        if place.offset.value - place.head_diameter.value / 2.0 > room["bore"].value / 2.0:
            raise ContradictionError(
                f"The {side} valve would sit outside the bore: its centre is {amount(place.offset.value, LENGTH, 1)} from the middle of a "
                f"{amount(room['bore'].value, LENGTH, 1)} bore."
            )
        places[side] = place
        known[side] = shared and all(f"{key}_{side}" in done.engine for key in _REST_KEYS)
    chamber = Chamber(
        bore=room["bore"], stroke=done.engine["stroke"], rod=room["rod_length"], pin_offset=room["pin_offset"], deck=room["deck"], gasket=room["gasket"], compression=room["compression"],
        cylinders=kind.cylinders, valves_per_side=kind.valves_per_side,
    )  # fmt: skip
    if chamber.rod.value <= chamber.stroke.value / 2.0 + abs(chamber.pin_offset.value):
        raise ContradictionError("The connecting rod is no longer than half the stroke: the piston could not pass the crank.")
    return RoomGeometry(chamber, places, known, room)


def height_over_floor(chamber: Mapping[str, float]) -> float:
    """From the shut head's centre down to the pocket's floor along the bore, piston at its top, m.

    `chamber` holds gasket, deck, height, depth, angle and diameter as numbers; the lowest edge of a tilted head lies D/2 sin(a) below
    its centre.
    """
    return (
        chamber["gasket"] + chamber["height"] + chamber["diameter"] / 2.0 * math.sin(chamber["angle"]) + chamber["deck"] + chamber["depth"]
    )


def computed_rest(numbers: Mapping[str, float]) -> float:
    """The gap at rest from geometry: numbers as in `height_over_floor`, with pocket_angle."""
    return stem_gap_at_rest(height_over_floor(numbers), numbers["angle"], numbers["pocket_angle"], numbers["diameter"])


def rest_figures(geometry: RoomGeometry, side: Side) -> dict[str, Figure]:
    """The figures that the computed gap at rest follows from, by name."""
    place, chamber = geometry.places[side], geometry.chamber
    return {
        "gasket": chamber.gasket, "deck": chamber.deck, "height": place.height, "depth": place.pocket_depth, "angle": place.angle,
        "pocket_angle": place.pocket_angle, "diameter": place.head_diameter,
    }  # fmt: skip
