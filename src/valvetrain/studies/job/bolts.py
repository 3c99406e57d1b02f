"""In which order the bolts of a head are drawn down: from the middle outwards, crosswise, in stages; undone the other way round."""

import math
import re
from dataclasses import dataclass

from valvetrain.errors import OutOfRangeError, QuantityError
from valvetrain.quantities import parse
from valvetrain.units import QuantityKind

_MOST_ROWS, _MOST_COLUMNS, _MOST_STAGES = 4, 12, 6
_ANGLE = re.compile(r"^(\d+(?:\.\d+)?)\s*(?:°|deg|degrees?)$")


@dataclass(frozen=True)
class Bolt:
    """One bolt at a row and a column of the head, and its place in the order."""

    row: int
    column: int
    turn: int


@dataclass(frozen=True)
class Stage:
    """One round over all bolts: to a torque (N m), or on by an angle (rad)."""

    torque: float = 0.0
    angle: float = 0.0


def pattern(rows: int, columns: int) -> tuple[Bolt, ...]:
    """The usual pattern: pairs of columns from the middle outwards, each round its ring crosswise, so that the next bolt lies across the last one.

    Where the manual numbers them otherwise, it counts. Source: trade. Raises OutOfRangeError for no or too many bolts.
    """
    if not (1 <= rows <= _MOST_ROWS and 1 <= columns <= _MOST_COLUMNS):
        raise OutOfRangeError(f"A head has 1 to {_MOST_ROWS} rows and 1 to {_MOST_COLUMNS} columns of bolts, not {rows} by {columns}.")
    centre, across = (columns - 1) / 2.0, (rows - 1) / 2.0
    rings: dict[float, list[tuple[int, int]]] = {}
    for column in range(columns):
        for row in range(rows):
            rings.setdefault(abs(column - centre), []).append((row, column))
    order: list[tuple[int, int]] = []
    for ring in sorted(rings):
        left = rings[ring]
        # inner rows first, then across: the farthest of what is left comes next
        place = min(left, key=lambda bolt: (abs(bolt[0] - across), bolt))
        while left:
            left.remove(place)
            order.append(place)
            if left:
                last = place
                place = max(left, key=lambda bolt: (math.dist(bolt, last), -abs(bolt[0] - across), (-bolt[0], -bolt[1])))
    return tuple(Bolt(row, column, number + 1) for number, (row, column) in enumerate(order))


def read_stages(text: str) -> tuple[Stage, ...]:
    """Stages as the manual gives them: torques and angles, parted by commas: `10 Nm, 25 Nm, 90°`. Raises QuantityError with a sentence."""
    parts = [part.strip() for part in re.split(r"[,;+]", text) if part.strip()]
    if not parts:
        raise QuantityError("Write the stages as the manual gives them, for example 10 Nm, 25 Nm, 90°.")
    if len(parts) > _MOST_STAGES:
        raise QuantityError(f"{len(parts)} stages are more than any manual has: write at most {_MOST_STAGES}.")
    found: list[Stage] = []
    for part in parts:
        turned = _ANGLE.match(part)
        if turned:
            angle = float(turned.group(1))
            if not 0.0 < angle <= 360.0:
                raise QuantityError(f"“{part}” is no angle to tighten by: it lies between 0 and 360°.")
            found.append(Stage(angle=math.radians(angle)))
            continue
        torque = parse(part, QuantityKind.TORQUE).value
        if not 0.0 < torque <= 400.0:
            raise QuantityError(f"“{part}” is no torque of a head bolt.")
        before = next((stage.torque for stage in reversed(found) if stage.torque), 0.0)
        if torque <= before:
            raise QuantityError(f"“{part}” is not more than the stage before it: stages rise.")
        if any(stage.angle for stage in found):
            raise QuantityError(f"“{part}” stands behind an angle: torques come first, then angles.")
        found.append(Stage(torque=torque))
    return tuple(found)
