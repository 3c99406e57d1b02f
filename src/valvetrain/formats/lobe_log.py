"""A degree-wheel log as text: two columns, angle and indicator reading, with or without a heading, any usual separator."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import BuildFileError
from valvetrain.formats import plain_table
from valvetrain.formats.columns import Column, guess
from valvetrain.units import QuantityKind, UnitSystem

_COLUMNS = (
    Column(key="angle", words="angle", names=("angle", "crank", "cam", "deg", "wheel", "°")),
    Column(key="lift", words="lift", names=("lift", "indicator", "dial", "reading", "mm", "inch", "thou")),
)


@dataclass(frozen=True)
class LobeLog:
    """Readings of a log: cam angles in rad, lifts in m, equal shapes, in the order of the file."""

    angle: NDArray[np.float64]
    lift: NDArray[np.float64]


def _columns(heading: list[str]) -> tuple[int, int]:
    """Which column is the angle and which the reading, from a heading; the first two where it does not tell."""
    found = guess(heading, _COLUMNS)
    angle, lift = found.get("angle", 0), found.get("lift")
    if lift is None:
        if len(heading) == 2:
            return angle, 1 - angle
        raise BuildFileError(
            f"Row 1: none of the columns {', '.join(repr(cell) for cell in heading)} is a lift. Name one “lift (mm)” or “lift (in)”."
        )
    return angle, lift


def read(text: str, *, crank: bool = True, system: UnitSystem = UnitSystem.METRIC) -> LobeLog:
    """Readings of a log. `crank` tells that angles are the crankshaft's, else the camshaft's; `system` is assumed for bare numbers.

    A heading may name columns and unit: `crank deg; lift (mm)`. Raises BuildFileError naming row and column.
    """
    numbered = plain_table.rows_of(text, "The log is empty. Give one reading a row: angle, lift.", "One reading a degree is plenty.")
    angle_column, lift_column, unit = 0, 1, ""
    if plain_table.is_heading(numbered[0][1]):
        heading = numbered.pop(0)[1]
        angle_column, lift_column = _columns(heading)
        unit = plain_table.unit_of(heading[lift_column])
        crank = False if "cam" in heading[angle_column].lower() else crank
    angles, lifts = [], []
    for number, row in numbered:
        if len(row) <= max(angle_column, lift_column):
            raise BuildFileError(f"Row {number} has {len(row)} column{'s' if len(row) != 1 else ''}; angle and lift are needed.")
        angles.append(plain_table.cell(row[angle_column], QuantityKind.ANGLE, f"Row {number}, column {angle_column + 1}", "", system))
        lifts.append(plain_table.cell(row[lift_column], QuantityKind.LENGTH, f"Row {number}, column {lift_column + 1}", unit, system))
    return LobeLog(np.array(angles) / (2.0 if crank else 1.0), np.array(lifts))
