"""A sheet out as CSV and XLSX, and a CSV of readings in, with a preview of how its columns are understood."""

from dataclasses import dataclass

from rocklash.answers.clearances import ValveStatus
from rocklash.commands.base import Command
from rocklash.desk.tables import sent_table
from rocklash.records.models import Build, ClearanceSession, Reading
from valvetrain.errors import QuantityError
from valvetrain.formats import table_out
from valvetrain.formats.columns import Column
from valvetrain.quantities import parse
from valvetrain.studies.clearance.shim_plan import ClearanceInterval
from valvetrain.units import QuantityKind, UnitSystem

_COLUMNS = (
    "valve", "least_mm", "most_mm", "goes_mm", "does_not_go_mm", "shim_mm", "shim_by", "label_mm", "recheck_goes_mm", "recheck_does_not_go_mm",
    "shim_fitted_mm", "new_valve", "state",
)  # fmt: skip
# A sheet read by best blade holds one clearance a valve, and what it may be off by: no blade “went”
_BLADE = {
    "goes_mm": "clearance_mm", "does_not_go_mm": "half_width_mm", "recheck_goes_mm": "recheck_clearance_mm",
    "recheck_does_not_go_mm": "recheck_half_width_mm",
}  # fmt: skip
LARGEST = 200_000  # bytes
_MOST_ROWS = 64
COLUMNS = (
    Column(key="valve", words="valve", names=("valve", "position", "where", "name"), required=True),
    Column(
        key="goes", words="goes, or the clearance", names=("goes", "go", "clearance", "reading", "measured", "gap", "lash"),
        never=("recheck", "goes not"), required=True, noun="clearance",
    ),
    Column(key="stops", words="does not go", names=("does not go", "no-go", "nogo", "stops"), never=("recheck",)),
    Column(key="shim", words="shim, by micrometer", names=("shim", "size", "thickness"), never=("shim by", "shim fitted", "recheck")),
    Column(key="label", words="label of the shim", names=("label", "printed", "marked")),
)  # fmt: skip
FIELDS = {column.key: column.words for column in COLUMNS}


def _mm(value: float | None) -> float | str:
    return "" if value is None else round(value * 1e3, 4)


def heads_of(method: str) -> tuple[str, ...]:
    """Column headings of a sheet read by `go_no_go` or by best `blade`."""
    return tuple(_BLADE.get(head, head) for head in _COLUMNS) if method == "blade" else _COLUMNS


def _reading(row: Reading | None, found: ClearanceInterval | None, method: str) -> tuple[float | str, float | str]:
    """The two figures of one reading, mm: both blades, or the clearance and half its width."""
    if row is None or found is None:
        return "", ""
    if method == "blade":
        return _mm(found.middle), _mm((found.high - found.low) / 2.0)
    return _mm(row.goes), _mm(row.stops)


def rows_of(statuses: list[ValveStatus], method: str) -> list[list[float | str]]:
    """The sheet row by row, mm."""
    listed: list[list[float | str]] = []
    for row in statuses:
        first, again = row.first, row.again
        listed.append(
            [
                row.position.name, _mm(row.limits.least), _mm(row.limits.most), *_reading(first, row.found, method),
                _mm(first.shim if first else None), first.shim_source if first else "", _mm(first.label if first else None),
                *_reading(again, row.found_again, method), _mm(again.shim if again else None), "yes" if again and again.renewed else "", row.state,
            ]
        )  # fmt: skip
    return listed


def as_csv(statuses: list[ValveStatus], method: str = "go_no_go", *, practice: bool = False) -> str:
    """The sheet as CSV, millimetres, decimal points; every line of a practice copy says that it is one."""
    mark = (["practice copy"], ["yes"]) if practice else ([], [])
    return table_out.as_csv([[*heads_of(method), *mark[0]], *([*row, *mark[1]] for row in rows_of(statuses, method))])


def as_xlsx(build: Build, session: ClearanceSession | None, statuses: list[ValveStatus]) -> bytes:
    """The sheet as a workbook with one page."""
    signed = f"signed by {session.signed_by}, {session.signed_at:%Y-%m-%d}" if session and session.signed_at else "not signed"
    hours = f"{session.hours:g} h" if session and session.hours is not None else ""
    method = session.method if session else "go_no_go"
    return table_out.as_workbook("Clearances", [[build.name, signed, hours], heads_of(method), *rows_of(statuses, method)])


@dataclass(frozen=True)
class ImportRow:
    """One line of a file as it would be read: texts by field, the valve's number, and what is wrong with it.

    `replaces` tells what was read of that valve already, and by whom; `seen` is that reading's revision.
    """

    line: int
    texts: dict[str, str]
    valve: int | None
    wrong: str
    replaces: str = ""
    seen: int = 0

    def says(self, reading: Reading) -> bool:
        """Whether the line says just what was typed of that valve already."""
        kept = {"goes": reading.goes_typed, "stops": reading.stops_typed, "shim": reading.shim_typed, "label": reading.label_typed}
        return all(self.texts.get(name, "") == text for name, text in kept.items())


@dataclass(frozen=True)
class Preview:
    """How a file is understood: its heads, which column is which field, and its rows."""

    heads: list[str]
    mapping: dict[str, int]
    rows: list[ImportRow]
    text: str

    @property
    def replaces(self) -> int:
        """How many rows would write over a reading that is there."""
        return sum(bool(row.replaces) and not row.wrong for row in self.rows)

    @property
    def good(self) -> int:
        """How many rows would be kept."""
        return sum(not row.wrong for row in self.rows)


def preview(command: Command, session: ClearanceSession | None = None) -> Preview:
    """Read the table that was sent and say how its rows are taken. Raises BuildFileError when it is no table of valves."""
    table = sent_table(command, COLUMNS, most=_MOST_ROWS, largest=LARGEST, enough="A sheet has a line a valve.")
    places = {place.name.lower(): place.pk for place in command.subject.engine.positions.all()}
    there = {each.position_id: each for each in session.readings.all() if each.recheck == session.rechecking} if session else {}
    listed, seen = [], set()
    for number, texts in table.rows:
        valve = places.get(texts["valve"].lower())
        wrong = _wrong(texts, valve, command.system)
        if not wrong and valve in seen:
            wrong = f"{texts['valve']} is in the file twice."
        seen.add(valve)
        old = there.get(valve or 0)
        replaces = f"{old.goes_typed}–{old.stops_typed}".rstrip("–") + (f" by {old.by}" if old.by else "") if old else ""
        listed.append(ImportRow(number, texts, valve, wrong, replaces, old.revision if old else 0))
    return Preview(table.heads, table.mapping, listed, table.text)


def _wrong(texts: dict[str, str], valve: int | None, system: UnitSystem) -> str:
    if valve is None:
        return f"“{texts['valve']}” is no valve of this engine."
    for field in ("goes", "stops", "shim", "label"):
        text = texts.get(field, "")
        if not text and field != "goes":
            continue
        try:
            parse(text, QuantityKind.LENGTH, system)
        except QuantityError as error:
            return f"{FIELDS[field].capitalize()}: {error}"
    return ""
