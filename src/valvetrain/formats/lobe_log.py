"""A degree-wheel log as text: two columns, angle and indicator reading, with or without a heading, any usual separator."""

import csv
import io
import math
import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import BuildFileError, QuantityError
from valvetrain.quantities import Kind, System, from_unit, parse

_MOST_ROWS = 20_000
_ANGLE_WORDS = ("angle", "crank", "cam", "deg", "wheel", "°")
_LIFT_WORDS = ("lift", "indicator", "dial", "reading", "mm", "inch", "thou")


@dataclass(frozen=True)
class LobeLog:
    """Readings of a log: cam angles in rad, lifts in m, equal shapes, in the order of the file."""

    angle: NDArray[np.float64]
    lift: NDArray[np.float64]


def decode(raw: bytes) -> str:
    """Text of an uploaded file in UTF-8, UTF-16 or Latin-1. Raises BuildFileError for what is no text."""
    if raw.startswith((b"PK\x03\x04", b"\x1f\x8b", b"%PDF", b"\x89PNG")):
        raise BuildFileError("This is a packed or binary file. Give the log as CSV text: angle, reading.")
    for encoding in ("utf-16",) if raw.startswith((b"\xff\xfe", b"\xfe\xff")) else ("utf-8-sig", "latin-1"):
        try:
            text = raw.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\x00" not in text:
            return text
    raise BuildFileError("This is not text. Give the log as CSV: angle, reading.")


def _separator(text: str) -> str:
    lines = [line for line in text.splitlines() if line.strip()][:20]
    for mark in (";", "\t"):
        if sum(mark in line for line in lines) > 0.6 * len(lines):
            return mark
    # a comma may part columns or be the decimal sign: one comma a line with blanks elsewhere is a decimal sign
    if sum("," in line for line in lines) > 0.6 * len(lines):
        return ","
    return " "


def _unit_of(heading: str) -> str:
    found = re.search(r"\b(mm|in|inch|inches|thou|mil|um|µm)\b", heading.lower().replace("_", " ").replace("(", " ").replace(")", " "))
    return found.group(1) if found else ""


def _columns(heading: list[str]) -> tuple[int, int]:
    """Which column is the angle and which the reading, from a heading; the first two where it does not tell."""
    lowered = [cell.lower() for cell in heading]
    angle = next((n for n, cell in enumerate(lowered) if any(word in cell for word in _ANGLE_WORDS)), 0)
    lift = next((n for n, cell in enumerate(lowered) if n != angle and any(word in cell for word in _LIFT_WORDS)), None)
    if lift is None:
        if len(lowered) == 2:
            return angle, 1 - angle
        raise BuildFileError(
            f"Row 1: none of the columns {', '.join(repr(cell) for cell in heading)} is a lift. Name one “lift (mm)” or “lift (in)”."
        )
    return angle, lift


def _is_heading(cells: list[str]) -> bool:
    return not all(re.match(r"^\s*[+\-\N{MINUS SIGN}]?[\d.,]", cell) for cell in cells[:2])


def read(text: str, *, crank: bool = True, system: System = System.METRIC) -> LobeLog:
    """Readings of a log. `crank` tells that angles are the crankshaft's, else the camshaft's; `system` is assumed for bare numbers.

    A heading may name columns and unit: `crank deg; lift (mm)`. Raises BuildFileError naming row and column.
    """
    if text.count("\n") > 2 * _MOST_ROWS:  # told before a million rows are taken apart
        raise BuildFileError(f"The log has {text.count(chr(10)):,} rows; {_MOST_ROWS:,} are the most. One reading a degree is plenty.")
    separator = _separator(text)
    if separator == " ":
        rows = [line.split() for line in text.splitlines()]
    else:
        rows = [[cell.strip() for cell in row] for row in csv.reader(io.StringIO(text), delimiter=separator)]
    numbered = [(number, row) for number, row in enumerate(rows, start=1) if any(row)]
    if not numbered:
        raise BuildFileError("The log is empty. Give one reading a row: angle, lift.")
    if len(numbered) > _MOST_ROWS:
        raise BuildFileError(f"The log has {len(numbered):,} rows; {_MOST_ROWS:,} are the most. One reading a degree is plenty.")
    angle_column, lift_column, unit = 0, 1, ""
    if _is_heading(numbered[0][1]):
        heading = numbered.pop(0)[1]
        angle_column, lift_column = _columns(heading)
        unit = _unit_of(heading[lift_column])
        crank = False if "cam" in heading[angle_column].lower() else crank
    angles, lifts = [], []
    for number, row in numbered:
        if len(row) <= max(angle_column, lift_column):
            raise BuildFileError(f"Row {number} has {len(row)} column{'s' if len(row) != 1 else ''}; angle and lift are needed.")
        angles.append(_cell(row[angle_column], Kind.ANGLE, f"Row {number}, column {angle_column + 1}", "", system))
        lifts.append(_cell(row[lift_column], Kind.LENGTH, f"Row {number}, column {lift_column + 1}", unit, system))
    return LobeLog(np.array(angles) / (2.0 if crank else 1.0), np.array(lifts))


def _cell(text: str, kind: Kind, where: str, unit: str, system: System) -> float:
    plain = text.replace("\N{MINUS SIGN}", "-").replace(",", ".")
    try:
        value = float(plain)
    except ValueError:
        try:
            return parse(text, kind, system).value
        except QuantityError as error:
            raise BuildFileError(f"{where}: {error}") from error
    if not math.isfinite(value):
        raise BuildFileError(f"{where}: “{text}” is not a number.")
    if kind is Kind.ANGLE:
        return math.radians(value)
    return from_unit(value, kind, unit or ("mm" if system is System.METRIC else "in"))
