"""A flow bench's log as text: lift and flow of one port, with or without a heading, any usual separator."""

import re

from valvetrain.errors import BuildFileError
from valvetrain.formats import plain_table
from valvetrain.formats.columns import Column, guess
from valvetrain.units import QuantityKind, UnitSystem

_COLUMNS = (
    Column(key="flow", words="flow", names=("flow", "cfm", "l/s", "air")),
    Column(key="lift", words="lift", names=("lift", "valve", "mm", "inch")),
)
_UNIT = re.compile(r"(cfm|l/s|l/min|m3/h)")
_READ = {"cfm": "ft**3/min", "l/s": "l/s", "l/min": "l/min", "m3/h": "m**3/h"}
_MOST = 200


def read(text: str, *, unit: str = "", system: UnitSystem = UnitSystem.METRIC) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Lifts (m) and flows (m^3/s) in the order of the file; `unit` of bare flows (cfm, l/s, l/min, m3/h) where the heading names none.

    Raises BuildFileError naming row and column.
    """
    rows = plain_table.rows_of(text, "The log is empty. Give one reading a row: lift, flow.", "A dozen lifts are plenty.")
    lift, flow, lift_unit, flow_unit = 0, 1, "", _READ.get(unit, "")
    if plain_table.is_heading(rows[0][1]):
        heading = rows.pop(0)[1]
        found = guess(heading, _COLUMNS)
        if not {"flow", "lift"} <= found.keys():
            raise BuildFileError(
                f"Row 1: the columns {', '.join(repr(cell) for cell in heading)} do not name lift and flow. Name them “lift (mm)” and “flow (l/s)”."
            )
        flow, lift = found["flow"], found["lift"]
        lift_unit = plain_table.unit_of(heading[lift])
        told = _UNIT.search(heading[flow].lower().replace("³", "3"))
        flow_unit = _READ[told.group(1)] if told else flow_unit
    if len(rows) > _MOST:
        raise BuildFileError(f"The log has {len(rows)} rows; {_MOST} are the most. A dozen lifts are plenty.")
    lifts, flows = [], []
    for number, row in rows:
        if len(row) <= max(lift, flow):
            raise BuildFileError(f"Row {number} has {len(row)} column{'s' if len(row) != 1 else ''}; lift and flow are needed.")
        lifts.append(plain_table.cell(row[lift], QuantityKind.LENGTH, f"Row {number}, column {lift + 1}", lift_unit, system))
        flows.append(plain_table.cell(row[flow], QuantityKind.FLOW, f"Row {number}, column {flow + 1}", flow_unit, system))
    return tuple(lifts), tuple(flows)
