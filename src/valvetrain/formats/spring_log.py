"""A spring tester's log as text: height and load pairs, of one spring or of a set, with or without a heading."""

import re

import numpy as np

from valvetrain.errors import BuildFileError
from valvetrain.formats import plain_table
from valvetrain.formats.columns import Column, guess
from valvetrain.parts.spring_readings import SpringReadings
from valvetrain.units import QuantityKind, UnitSystem

_EMPTY = "The log is empty. Give one reading a row: height, load; or spring, height, load."
_PLENTY = "Ten heights a spring are plenty."
_COLUMNS = (
    Column(key="load", words="load", names=("load", "force", "lb", "kg")),
    Column(key="height", words="height", names=("height", "length", "mm", "inch")),
    Column(key="spring", words="spring", names=("spring", "no", "name", "valve")),
)
_LOAD_UNIT = re.compile(r"\b(n|lbf|lbs?|kgf?|kn|dan)\b")


def _columns(heading: list[str]) -> tuple[int | None, int, int]:
    """Columns of spring, height and load in a heading."""
    found = guess(heading, _COLUMNS)
    if "load" not in found or "height" not in found:
        raise BuildFileError(
            f"Row 1: the columns {', '.join(repr(cell) for cell in heading)} do not name height and load. "
            "Name them “height (mm)” and “load (N)”, or give two bare columns in that order."
        )
    return found.get("spring"), found["height"], found["load"]


def read(text: str, *, system: UnitSystem = UnitSystem.METRIC) -> tuple[SpringReadings, ...]:
    """Springs of a log in the order in which they come; `system` is assumed for bare numbers. Two columns are one spring's.

    Raises BuildFileError naming row and column.
    """
    rows = plain_table.rows_of(text, _EMPTY, _PLENTY)
    units = {QuantityKind.LENGTH: "", QuantityKind.FORCE: ""}
    spring, height, load = (0, 1, 2) if len(rows[0][1]) > 2 else (None, 0, 1)
    if not all(re.match(r"^\s*[+\-\N{MINUS SIGN}]?[\d.,]", cell) for cell in rows[0][1][-2:]):
        heading = rows.pop(0)[1]
        spring, height, load = _columns(heading)
        units[QuantityKind.LENGTH] = plain_table.unit_of(heading[height])
        told = _LOAD_UNIT.search(heading[load].lower().replace("(", " ").replace(")", " ").replace(",", " "))
        units[QuantityKind.FORCE] = told.group(1) if told else ""
    found: dict[str, list[tuple[float, float]]] = {}
    for number, row in rows:
        if len(row) <= max(height, load):
            raise BuildFileError(f"Row {number} has {len(row)} column{'s' if len(row) != 1 else ''}; height and load are needed.")
        name = row[spring].strip()[:24] if spring is not None else "1"
        pair = tuple(
            plain_table.cell(row[column], kind, f"Row {number}, column {column + 1}", units[kind], system)
            for column, kind in ((height, QuantityKind.LENGTH), (load, QuantityKind.FORCE))
        )
        found.setdefault(name or "1", []).append((pair[0], pair[1]))
    if not found:
        raise BuildFileError(_EMPTY)
    return tuple(
        SpringReadings(name, np.array([one for one, _ in pairs]), np.array([two for _, two in pairs])) for name, pairs in found.items()
    )


def write(springs: tuple[SpringReadings, ...]) -> str:
    """The log as text that `read` takes back: mm and N."""
    lines = ["spring;height (mm);load (N)"]
    for spring in springs:
        lines += [f"{spring.name};{height * 1e3:.2f};{load:.1f}" for height, load in zip(spring.height, spring.load, strict=True)]
    return "\n".join(lines) + "\n"
