"""Tables that come in: read, their columns proposed and put right by the person, shown before anything is saved."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from rocklash.commands.base import Command
from rocklash.desk.files import sent_text
from valvetrain.errors import BuildFileError
from valvetrain.formats.columns import Column, guess
from valvetrain.formats.plain_table import LONGEST_CELL


@dataclass(frozen=True, kw_only=True)
class Table:
    """A table as it is understood: its headings, which column is which, and each line's texts by column with its number in the file."""

    heads: list[str]
    mapping: dict[str, int]
    rows: list[tuple[int, dict[str, str]]]
    text: str


def sent_table(command: Command, columns: Sequence[Column], *, most: int, largest: int, enough: str) -> Table:
    """The table that was sent. A column's place can be said in a field of the column's key, -1 for none. Raises BuildFileError with what is wrong,
    where, and what would be right."""
    text = sent_text(command, enough, largest)
    separator = ";" if text.count(";") > text.count(",") else "\t" if text.count("\t") > text.count(",") else ","
    try:
        lines = [(n, row) for n, row in enumerate(csv.reader(io.StringIO(text), delimiter=separator), start=1) if any(map(str.strip, row))]
    except csv.Error as error:
        raise BuildFileError("A quote is opened in this table and not closed. Take the quotes out.") from error
    if len(lines) < 2:
        raise BuildFileError("The file needs a line of heads and at least one line below it.")
    if len(lines) > most + 1:
        raise BuildFileError(f"{len(lines) - 1} rows are more than the {most} that can be. {enough}")
    long = next((number for number, row in lines if any(len(cell) > LONGEST_CELL for cell in row)), None)
    if long:
        raise BuildFileError(f"Row {long}: a cell holds more than {LONGEST_CELL} characters, which no number and no name does.")
    heads = [cell.strip() for cell in lines[0][1]]
    mapping = guess(heads, columns)
    for column in columns:
        asked = command.text(column.key)
        if asked.lstrip("-").isdigit() and asked.isascii():
            mapping[column.key] = int(asked)
    mapping = {key: place for key, place in mapping.items() if 0 <= place < len(heads)}
    missing = [column.noun or column.words for column in columns if column.required and column.key not in mapping]
    if missing:
        raise BuildFileError(f"No column names the {' or the '.join(missing)}. Columns are {', '.join(heads)}; choose below.")
    rows = [
        (number, {key: cells[place].strip() if place < len(cells) else "" for key, place in mapping.items()}) for number, cells in lines[1:]
    ]
    return Table(heads=heads, mapping=mapping, rows=rows, text=text)
