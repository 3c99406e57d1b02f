"""Dyno, logger and GPS files: CSV with any delimiter, decimal sign and units, columns told or guessed, 50,000 rows in one go."""

import csv
import io
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import BuildFileError
from valvetrain.formats import plain_table
from valvetrain.formats.columns import Column, guess

Samples = NDArray[np.float64]
MOST_ROWS, MOST_COLUMNS = 200_000, 60
COLUMNS: Final = (
    Column(key="time", words="time", names=("time", "t", "sec", "elapsed", "timestamp")),
    Column(key="rpm", words="engine speed", names=("engine speed", "rpm", "engine rpm", "1/min", "rev")),
    Column(key="power", words="power", names=("power", "kw", "bhp", "hp", "[ps]", " ps", "watt")),
    Column(key="torque", words="torque", names=("torque", "nm", "lbf", "moment")),
    Column(key="road", words="road speed", names=("road speed", "gps speed", "speed", "velocity", "km/h", "mph")),
    Column(key="lambda", words="lambda", names=("lambda", "afr", "air fuel")),
    Column(key="current", words="current", names=("current", "amp", "starter", "clamp")),
    Column(key="mark", words="mark of cylinder 1", names=("mark", "pickup", "pick-up", "coil", "trigger", "cam sensor", "tdc")),
    Column(key="vacuum", words="vacuum", names=("vacuum", "manifold", "map", "pressure")),
)
WORDS: Final = {column.key: column.words for column in COLUMNS}
# unit -> factor to SI
UNITS: Final[dict[str, dict[str, float]]] = {
    "time": {"s": 1.0, "ms": 1e-3, "min": 60.0},
    "rpm": {"rpm": 1.0 / 60.0, "1/s": 1.0, "x1000 rpm": 1000.0 / 60.0},
    "power": {"kW": 1e3, "W": 1.0, "hp": 745.6999, "PS": 735.49875},
    "torque": {"N m": 1.0, "lbf ft": 1.3558179, "kgf m": 9.80665},
    "road": {"km/h": 1.0 / 3.6, "m/s": 1.0, "mph": 0.44704, "kn": 0.5144444},
    "lambda": {"lambda": 1.0, "AFR (petrol)": 1.0 / 14.7},
    "current": {"A": 1.0, "mV (1 mV/A)": 1.0, "mV (10 mV/A)": 0.1},
    "mark": {"any": 1.0},
    "vacuum": {"mbar below": 100.0, "kPa below": 1000.0, "inHg below": 3386.389, "psi below": 6894.757},
}
_SPELT: Final = {
    "time": (("ms", r"\bms\b|milli"), ("min", r"\bmin\b")),
    "rpm": (("x1000 rpm", r"x ?1000|krpm"), ("1/s", r"1/s|rev/s|hz")),
    "power": (("kW", r"\bkw\b"), ("hp", r"\bb?hp\b"), ("PS", r"\bps\b"), ("W", r"\bw\b|watt")),
    "torque": (("lbf ft", r"lb.?f?.?ft|ft.?lb"), ("kgf m", r"kgf?.?m\b")),
    "road": (("mph", r"mph|mi/h"), ("m/s", r"m/s"), ("kn", r"\bkn|knot")),
    "lambda": (("AFR (petrol)", r"afr|air.?fuel"),),
    "current": (("mV (10 mV/A)", r"10 ?mv"), ("mV (1 mV/A)", r"mv")),
    "vacuum": (("kPa below", r"kpa"), ("inHg below", r"in ?hg"), ("psi below", r"psi")),
    "mark": (),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Preview:
    """A table before it is taken: headings, first rows, which column is proposed for what, the unit proposed, delimiter, rows."""

    headings: tuple[str, ...]
    first: tuple[tuple[str, ...], ...]
    columns: Mapping[str, int]
    units: Mapping[str, str]
    delimiter: str
    rows: int


@dataclass(frozen=True, kw_only=True)
class Table:
    """Columns in SI by key, with what was left out and why (row in the file, sentence)."""

    columns: Mapping[str, Samples]
    rows: int
    left_out: tuple[tuple[int, str], ...] = ()


def _delimiter(lines: list[str]) -> str:
    head = [line for line in lines[:40] if line.strip()]
    counts = {mark: sorted(line.count(mark) for line in head)[len(head) // 2] for mark in (";", "\t", ",")}
    if counts[";"]:
        return ";"
    if counts["\t"]:
        return "\t"
    return "," if counts[","] else " "


def _cells(text: str) -> tuple[list[list[str]], str, int]:
    """Rows of cells with their delimiter, and how many lines stand before the heading."""
    lines = text.split("\n")
    if not any(line.strip() for line in lines):
        raise BuildFileError("The file is empty. Give a heading and one sample a row.")
    if len(lines) > MOST_ROWS + 100:
        raise BuildFileError(f"The file has {len(lines):,} rows; {MOST_ROWS:,} are the most. Cut out the run.")
    mark = _delimiter(lines)
    try:
        rows = [line.split() for line in lines] if mark == " " else list(csv.reader(io.StringIO(text), delimiter=mark))
    except csv.Error as error:
        raise BuildFileError("A quote is opened in this file and not closed. Take the quotes out.") from error
    widths = [len(row) for row in rows[:200] if any(cell.strip() for cell in row)]
    if not widths:
        raise BuildFileError("The file holds no cells. Give a heading and one sample a row.")
    usual = max(set(widths), key=widths.count)
    if usual > MOST_COLUMNS:
        raise BuildFileError(f"The file has {usual} columns; {MOST_COLUMNS} are the most.")
    before = 0
    while before < len(rows) and (len(rows[before]) < usual or not any(cell.strip() for cell in rows[before])):
        before += 1
    return rows, mark, before


def _number(cell: str) -> float | None:
    try:  # the usual case first: a plain number
        value = float(cell)
    except ValueError:
        pass
    else:
        return value if np.isfinite(value) else None
    cell = cell.strip().replace("\N{MINUS SIGN}", "-").replace("\xa0", "").replace(" ", "")
    if cell.count(",") == 1 and "." not in cell:
        cell = cell.replace(",", ".")
    elif "," in cell and "." in cell:  # thousands: the mark that comes first parts them
        cell = cell.replace(",", "") if cell.index(",") < cell.index(".") else cell.replace(".", "").replace(",", ".")
    elif cell.count(",") > 1:
        cell = cell.replace(",", "")
    try:
        value = float(cell)
    except ValueError:
        return None
    return value if np.isfinite(value) else None


def _unit(key: str, heading: str) -> str:
    plain = heading.lower()
    for unit, pattern in _SPELT[key]:
        if re.search(pattern, plain):
            return unit
    return next(iter(UNITS[key]))


def preview(raw: bytes) -> Preview:
    """What a file seems to hold. Raises BuildFileError for what is no table."""
    rows, mark, before = _cells(plain_table.decode(raw))
    heading = rows[before]
    named = any(_number(cell) is None and cell.strip() for cell in heading)
    headings = tuple(cell.strip()[:60] for cell in heading) if named else tuple(f"column {number + 1}" for number in range(len(heading)))
    body = [row for row in rows[before + named :] if any(cell.strip() for cell in row)]
    if len(body) < 2:
        raise BuildFileError("Fewer than two rows of numbers are in this file.")
    found = guess(headings, COLUMNS) if named else {}
    return Preview(
        headings=headings, first=tuple(tuple(cell.strip()[:24] for cell in row[: len(headings)]) for row in body[:5]), columns=found,
        units={key: _unit(key, headings[place]) for key, place in found.items()}, delimiter={"\t": "tab", " ": "blanks"}.get(mark, mark), rows=len(body),
    )  # fmt: skip


def _asked(columns: Mapping[str, int], needed: tuple[str, ...], width: int) -> None:
    """Refuses a mapping that cannot be."""
    for key in needed:
        if key not in columns:
            raise BuildFileError(f"No column is set as the {WORDS[key]}. Say which one it is.")
    for key, place in columns.items():
        if key not in UNITS:
            raise BuildFileError(f"“{key}” is no column that is read.")
        if not 0 <= place < width:
            raise BuildFileError(f"The {WORDS[key]} is set to stand in column {place + 1}; the file has {width}.")
    if len(set(columns.values())) < len(columns):
        raise BuildFileError("One column is set as two things at once.")


def _values(
    rows: list[list[str]], first: int, columns: Mapping[str, int], told: Callable[[float], None]
) -> tuple[NDArray[np.float64], list[int], list[tuple[int, str]]]:  # fmt: skip
    """Numbers of the wanted columns, the row in the file of each, and what is left out."""
    values: list[list[float]] = []
    numbers: list[int] = []
    out: list[tuple[int, str]] = []
    wanted = list(columns.items())
    for number, row in enumerate(rows[first:], start=first + 1):
        if not any(row):
            continue
        if number % 10_000 == 0:
            told(number / len(rows))
        cells = []
        for key, place in wanted:
            text = row[place] if place < len(row) else ""
            value = _number(text)
            if value is None:
                what = f"is “{text.strip()[:20]}”, which is no number" if text.strip() else "is missing"
                out.append((number, f"Row {number}: the {WORDS[key]} {what}."))
                break
            cells.append(value)
        else:
            values.append(cells)
            numbers.append(number)
    if not values:
        raise BuildFileError(out[0][1] if out else "The file holds no rows of numbers.")
    if len(out) > 0.05 * (len(values) + len(out)):
        raise BuildFileError(f"{len(out):,} of {len(values) + len(out):,} rows cannot be read. The first: {out[0][1]}")
    return np.array(values), numbers, out


def _running_on(found: dict[str, Samples], numbers: list[int], out: list[tuple[int, str]]) -> dict[str, Samples]:
    """Columns whose time runs on: a few doubled times are left out and named, more refuse the file."""
    steps = np.diff(found["time"])
    back, same = np.flatnonzero(steps < 0.0), np.flatnonzero(steps == 0.0)
    if len(back):
        raise BuildFileError(
            f"Row {numbers[int(back[0]) + 1]}: time runs back. Give the samples in the order in which they were taken, one run a file."
        )
    if len(same) > 0.02 * len(steps):
        raise BuildFileError(
            f"Row {numbers[int(same[0]) + 1]}: time stands still here and in {len(same) - 1} other rows. Log with finer time."
        )
    if not len(same):
        return found
    keep = np.concatenate(([True], steps > 0.0))
    out += [(numbers[int(place) + 1], f"Row {numbers[int(place) + 1]}: the same time twice.") for place in same]
    return {key: column[keep] for key, column in found.items()}


def read(
    raw: bytes, columns: Mapping[str, int], units: Mapping[str, str], *, needed: tuple[str, ...] = (), told: Callable[[float], None] = lambda _: None
) -> Table:  # fmt: skip
    """Columns of a file in SI. Rows with a cell that is no number are left out and named; more than a twentieth of them refuses the file.

    Raises BuildFileError naming column and row. Times must run on; where time is read, doubled and unsorted ones are named.
    """
    rows, _, before = _cells(plain_table.decode(raw))
    heading = rows[before]
    named = any(_number(cell) is None and cell.strip() for cell in heading)
    _asked(columns, needed, len(heading))
    table, numbers, out = _values(rows, before + named, columns, told)
    found = {}
    for index, key in enumerate(columns):
        unit = units.get(key, next(iter(UNITS[key])))
        if unit not in UNITS[key]:
            raise BuildFileError(f"“{unit}” is no unit of {WORDS[key]}. Known: {', '.join(UNITS[key])}.")
        found[key] = table[:, index] * UNITS[key][unit]
    if "time" in found:
        found = _running_on(found, numbers, out)
    told(1.0)
    return Table(columns=found, rows=len(next(iter(found.values()))), left_out=tuple(sorted(out)))


def write(columns: Mapping[str, Samples]) -> str:
    """Columns (SI) as a table that `read` takes back, in the first unit of each."""
    keys = list(columns)
    units = {key: next(iter(UNITS[key])) for key in keys}
    head = ";".join(f"{WORDS[key]} ({units[key]})" for key in keys)
    body = np.column_stack([columns[key] / UNITS[key][units[key]] for key in keys])
    return head + "\n" + "\n".join(";".join(f"{value:.6g}" for value in row) for row in body) + "\n"
