"""Small tables as people paste them: CSV, semicolons, tabs or blanks, with or without a heading, in any usual encoding."""

import csv
import io
import math
import re

from valvetrain.errors import BuildFileError, QuantityError
from valvetrain.quantities import from_unit, parse
from valvetrain.units import QuantityKind, UnitSystem, shown_unit

MOST_ROWS, LONGEST_CELL = 20_000, 200


def decode(raw: bytes) -> str:
    """Text of an uploaded file in UTF-8, UTF-16 or Latin-1. Raises BuildFileError for what is no text."""
    if raw.startswith((b"PK\x03\x04", b"\x1f\x8b", b"%PDF", b"\x89PNG")):
        raise BuildFileError("This is a packed or binary file. Give the log as CSV text.")
    for encoding in ("utf-16",) if raw.startswith((b"\xff\xfe", b"\xfe\xff")) else ("utf-8-sig", "latin-1"):
        try:
            text = raw.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\x00" not in text:
            return text.replace("\r\n", "\n").replace("\r", "\n")  # an old spreadsheet ends its lines with a lone CR
    raise BuildFileError("This is not text. Give the log as CSV.")


def _separator(text: str) -> str:
    lines = [line for line in text.splitlines() if line.strip()][:20]
    for mark in (";", "\t"):
        if sum(mark in line for line in lines) > 0.6 * len(lines):
            return mark
    # a comma may part columns or be the decimal sign: one comma a line with blanks elsewhere is a decimal sign
    if sum("," in line for line in lines) > 0.6 * len(lines):
        return ","
    return " "


def unit_of(heading: str) -> str:
    """Unit of length that a heading names, or an empty text."""
    found = re.search(r"\b(mm|in|inch|inches|thou|mil|um|µm)\b", heading.lower().replace("_", " ").replace("(", " ").replace(")", " "))
    return found.group(1) if found else ""


def is_heading(cells: list[str]) -> bool:
    """Whether a first row names columns instead of giving numbers."""
    return not all(re.match(r"^\s*[+\-\N{MINUS SIGN}]?[\d.,]", cell) for cell in cells[:2])


def rows_of(text: str, empty: str, plenty: str) -> list[tuple[int, list[str]]]:
    """Rows with their number in the text, blank ones left out. Raises BuildFileError with `empty`, or with `plenty` for too many."""
    if text.count("\n") > 2 * MOST_ROWS:  # told before a million rows are taken apart
        raise BuildFileError(f"The log has {text.count(chr(10)):,} rows; {MOST_ROWS:,} are the most. {plenty}")
    separator = _separator(text)
    if separator == " ":
        rows = [line.split() for line in text.splitlines()]
    else:
        try:
            rows = [[cell.strip() for cell in row] for row in csv.reader(io.StringIO(text), delimiter=separator)]
        except csv.Error as error:  # a cell without end, mostly a quote that is never closed
            raise BuildFileError(
                "A quote is opened in this table and not closed, or a cell is longer than any number. Take the quotes out."
            ) from error
    numbered = [(number, row) for number, row in enumerate(rows, start=1) if any(row)]
    long = next((number for number, row in numbered if any(len(cell) > LONGEST_CELL for cell in row)), None)
    if long:
        raise BuildFileError(f"Row {long}: a cell holds more than {LONGEST_CELL} characters, which no number and no name does.")
    if not numbered:
        raise BuildFileError(empty)
    if len(numbered) > MOST_ROWS:
        raise BuildFileError(f"The log has {len(numbered):,} rows; {MOST_ROWS:,} are the most. {plenty}")
    return numbered


def cell(text: str, kind: QuantityKind, where: str, unit: str, system: UnitSystem) -> float:
    """A cell in SI: a bare number takes `unit`, or the one the system shows; anything else is read as people type it.

    Raises BuildFileError naming the place.
    """
    try:
        value = float(text.replace("\N{MINUS SIGN}", "-").replace(",", "."))
    except ValueError:
        try:
            return parse(text, kind, system).value
        except QuantityError as error:
            raise BuildFileError(f"{where}: {error.sentence}") from error
    if not math.isfinite(value):
        raise BuildFileError(f"{where}: “{text}” is not a number.")
    return from_unit(value, kind, unit or shown_unit(kind, system))
