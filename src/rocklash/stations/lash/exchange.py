"""A sheet out as CSV and XLSX, and a CSV of readings in, with a preview of how its columns are understood."""

import csv
import io
from dataclasses import dataclass

from openpyxl import Workbook

from rocklash.bridge.clearances import ValveStatus
from rocklash.records.models import Build, ClearanceSession
from valvetrain.errors import QuantityError
from valvetrain.formats.plain_table import decode
from valvetrain.quantities import Kind, System, parse

HEADS = (
    "valve", "least_mm", "most_mm", "goes_mm", "does_not_go_mm", "shim_mm", "shim_by", "label_mm", "recheck_goes_mm", "recheck_does_not_go_mm",
    "shim_fitted_mm", "new_valve", "state",
)  # fmt: skip
LARGEST = 200_000  # bytes
_MOST_ROWS = 64
# What people call the columns; the first that fits is proposed
_NAMES = {
    "valve": ("valve", "position", "where", "name"), "goes": ("goes", "go", "clearance", "reading", "measured", "gap", "lash"),
    "stops": ("does not go", "does_not_go", "no-go", "nogo", "stops"), "shim": ("shim", "size", "thickness"), "label": ("label", "printed", "marked"),
}  # fmt: skip
FIELDS = {
    "valve": "valve",
    "goes": "goes, or the clearance",
    "stops": "does not go",
    "shim": "shim, by micrometer",
    "label": "label of the shim",
}


def _mm(value: float | None) -> float | str:
    return "" if value is None else round(value * 1e3, 4)


def rows_of(statuses: list[ValveStatus]) -> list[list[float | str]]:
    """The sheet row by row, mm."""
    listed: list[list[float | str]] = []
    for row in statuses:
        first, again = row.first, row.again
        listed.append(
            [
                row.position.name, _mm(row.limits.least), _mm(row.limits.most), _mm(first.goes if first else None), _mm(first.stops if first else None),
                _mm(first.shim if first else None), first.shim_source if first else "", _mm(first.label if first else None),
                _mm(again.goes if again else None), _mm(again.stops if again else None), _mm(again.shim if again else None), "yes" if again and again.renewed else "", row.state,
            ]
        )  # fmt: skip
    return listed


def as_csv(statuses: list[ValveStatus]) -> str:
    """The sheet as CSV, millimetres, decimal points."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEADS)
    writer.writerows(rows_of(statuses))
    return out.getvalue()


def as_xlsx(build: Build, session: ClearanceSession | None, statuses: list[ValveStatus]) -> bytes:
    """The sheet as a workbook with one page."""
    book = Workbook()
    page = book.active
    assert page is not None
    page.title = "Clearances"
    signed = f"signed by {session.signed_by}, {session.signed_at:%Y-%m-%d}" if session and session.signed_at else "not signed"
    page.append([build.name, signed, f"{session.hours:g} h" if session and session.hours is not None else ""])
    page.append(list(HEADS))
    for row in rows_of(statuses):
        page.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


@dataclass(frozen=True)
class ImportRow:
    """One line of a file as it would be read: texts by field, the valve's number, and what is wrong with it."""

    line: int
    texts: dict[str, str]
    valve: int | None
    wrong: str


@dataclass(frozen=True)
class Preview:
    """How a file is understood: its heads, which column is which field, and its rows."""

    heads: list[str]
    mapping: dict[str, int]
    rows: list[ImportRow]
    text: str

    @property
    def good(self) -> int:
        """How many rows would be kept."""
        return sum(not row.wrong for row in self.rows)


def _guess(heads: list[str]) -> dict[str, int]:
    found: dict[str, int] = {}
    lowered = [head.strip().lower().removesuffix("_mm").replace("_", " ") for head in heads]
    for field, names in _NAMES.items():
        for name in names:
            place = next((n for n, head in enumerate(lowered) if n not in found.values() and (head == name or head.startswith(name))), None)
            if place is not None and not lowered[place].startswith(("recheck", "shim by", "shim fitted")):
                found[field] = place
                break
    return found


def preview(text: str, build: Build, system: System, asked: dict[str, str]) -> Preview:
    """Read a CSV and say how its columns are taken. Raises QuantityError when it is no table of valves."""
    lines = [
        row
        for row in csv.reader(io.StringIO(text), delimiter=";" if text.count(";") > text.count(",") else ",")
        if any(cell.strip() for cell in row)
    ]
    if len(lines) < 2:
        raise QuantityError("The file needs a line of heads and a line a valve.")
    if len(lines) > _MOST_ROWS + 1:
        raise QuantityError(f"{len(lines) - 1} rows are more than an engine has valves.")
    heads = [cell.strip() for cell in lines[0]]
    mapping = _guess(heads)
    for field in FIELDS:
        if asked.get(field, "").lstrip("-").isdigit():
            mapping[field] = int(asked[field])
    mapping = {field: place for field, place in mapping.items() if 0 <= place < len(heads)}
    if "valve" not in mapping or "goes" not in mapping:
        raise QuantityError(f"No column names the valve or the clearance. Columns are {', '.join(heads)}; choose below.")
    places = {place.name.lower(): place.pk for place in build.engine.positions.all()}
    listed, seen = [], set()
    for number, cells in enumerate(lines[1:], start=2):
        texts = {field: cells[place].strip() if place < len(cells) else "" for field, place in mapping.items()}
        valve = places.get(texts["valve"].lower())
        wrong = _wrong(texts, valve, system)
        if not wrong and valve in seen:
            wrong = f"{texts['valve']} stands twice in the file."
        seen.add(valve)
        listed.append(ImportRow(number, texts, valve, wrong))
    return Preview(heads, mapping, listed, text)


def _wrong(texts: dict[str, str], valve: int | None, system: System) -> str:
    if valve is None:
        return f"“{texts['valve']}” is no valve of this engine."
    for field in ("goes", "stops", "shim", "label"):
        text = texts.get(field, "")
        if not text and field != "goes":
            continue
        try:
            parse(text, Kind.LENGTH, system)
        except QuantityError as error:
            return f"{FIELDS[field].capitalize()}: {error}"
    return ""


def text_of(raw: bytes) -> str:
    """The text of an uploaded file. Raises QuantityError when it is too large."""
    if len(raw) > LARGEST:
        raise QuantityError("This file is too large to be a clearance sheet.")
    return decode(raw)
