"""Tables out as CSV and XLSX: the one writer, in which no cell that a person wrote is ever a formula."""

import csv
import io
import re
from collections.abc import Iterable, Sequence

from openpyxl import Workbook
from openpyxl.worksheet.worksheet import Worksheet

Cell = str | float | int | None
_FORMULA = ("=", "+", "-", "@", "\t", "\r", "\N{FULLWIDTH EQUALS SIGN}", "\N{FULLWIDTH PLUS SIGN}", "\N{FULLWIDTH COMMERCIAL AT}")
_NUMBER = re.compile(r"[+-]?[\d.,]+(e[+-]?\d+)?", re.IGNORECASE)


def harmless(cell: Cell) -> Cell:
    """The cell, with a quote before a text that a spreadsheet would run.

    >>> harmless("=1+1"), harmless("-0.25"), harmless("EX 1")
    ("'=1+1", '-0.25', 'EX 1')
    """
    if isinstance(cell, str) and cell.startswith(_FORMULA) and not _NUMBER.fullmatch(cell.strip()):
        return f"'{cell}"
    return cell


def as_csv(rows: Iterable[Sequence[Cell]], separator: str = ",") -> str:
    """Rows as CSV with plain line ends and decimal points; nothing for None."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter=separator, lineterminator="\n")
    writer.writerows([["" if cell is None else harmless(cell) for cell in row] for row in rows])
    return out.getvalue()


def fill(sheet: Worksheet, rows: Iterable[Sequence[Cell]]) -> None:
    """Write rows behind what a sheet holds; a text is a text, whatever it begins with."""
    first = sheet.max_row + 1 if sheet.max_row > 1 or sheet.cell(1, 1).value is not None else 1
    for number, row in enumerate(rows, start=first):
        for place, cell in enumerate(row, start=1):
            if cell is None or cell == "":
                continue
            target = sheet.cell(number, place)
            target.value = cell
            if isinstance(cell, str):
                target.data_type = "s"
                target.quotePrefix = cell.startswith(_FORMULA)


def as_workbook(title: str, rows: Iterable[Sequence[Cell]]) -> bytes:
    """Rows as a workbook of one page."""
    book = Workbook()
    sheet = book.active
    assert sheet is not None  # a new workbook has one page
    sheet.title = title
    fill(sheet, rows)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
