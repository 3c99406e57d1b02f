"""A shelf of parts as a table: columns understood by their headings, every cell checked, nothing taken by halves; and out again the same way."""

import io
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal, InvalidOperation
from functools import cache
from zipfile import BadZipFile

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from valvetrain.errors import BuildFileError, QuantityError
from valvetrain.formats.plain_table import LONGEST_CELL, MOST_ROWS, decode, rows_of
from valvetrain.parts.catalogue import FACTS, FIGURES, Owner, usual_spread
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.kinds import FigureKind
from valvetrain.quantities import from_unit, in_unit, parse
from valvetrain.units import QuantityKind, UnitSystem, shown_unit

KINDS = {
    Owner.CAM: "cam", Owner.SPRING: "spring", Owner.RETAINER: "retainer", Owner.KEEPERS: "keepers", Owner.VALVE: "valve", Owner.FOLLOWER: "follower",
    Owner.SHIM: "lash shim", Owner.CAP: "lash cap", Owner.GUIDE: "guide", Owner.SEAL: "seal", Owner.SEAT: "valve seat",
    Owner.SPRING_SEAT: "spring seat", Owner.SPRING_SHIM: "spring shim",
}  # fmt: skip
_KIND_WORDS = {
    **{words: owner for owner, words in KINDS.items()}, **{owner.value: owner for owner in KINDS}, "rocker": Owner.FOLLOWER, "bucket": Owner.FOLLOWER,
    "finger": Owner.FOLLOWER, "tappet": Owner.FOLLOWER, "camshaft": Owner.CAM, "inner spring": Owner.SPRING, "outer spring": Owner.SPRING,
    "collets": Owner.KEEPERS, "locks": Owner.KEEPERS, "shim": Owner.SHIM, "stem seal": Owner.SEAL, "seat": Owner.SEAT,
}  # fmt: skip
# Columns that every kind of part may have: key, heading as written, other headings.
PLAIN = (
    ("kind", "kind", ("part kind", "type", "what")), ("name", "name", ("part", "description")),
    ("number", "part number", ("number", "part no", "article", "sku")), ("side", "side", ("for side",)),
    ("claim", "packet says", ("claim", "label")), ("supplier", "supplier", ("from", "vendor")), ("price", "price", ("price of a pack", "cost")),
    ("lead_days", "lead time, days", ("lead days", "lead time", "days")), ("quantity", "on the shelf", ("quantity", "qty", "stock", "count")),
    ("pack", "sold by", ("pack", "pack size", "per pack")), ("service_hours", "service life, h", ("service hours", "life h", "renew after h")),
    ("place", "place", ("bin", "where")), ("exchange", "exchange", ("exchange terms",)), ("note", "note", ("notes", "remark")),
    ("known", "known by", ("basis", "source of figures")),
)  # fmt: skip
_TEXTS = {"name": 80, "number": 40, "claim": 80, "supplier": 80, "place": 40, "exchange": 120, "note": 300}
_BASES = {
    "": Basis.CARD,
    "card": Basis.CARD,
    "measured": Basis.MEASURED,
    "estimate": Basis.ESTIMATE,
    "maker": Basis.MAKER,
    "guess": Basis.ESTIMATE,
}
_MOST_COLUMNS = 200


@dataclass(frozen=True, kw_only=True)
class ShelfColumn:
    """One column: its heading, and what it is: a plain column's key, `figure:key`, `fact:key`, `known:key` (how that figure is known), or nothing.
    `unit` is the one its heading names."""

    heading: str
    target: str
    unit: str = ""


@dataclass(frozen=True, kw_only=True)
class ShelfRow:
    """One part as a row tells it: its number in the file, its kind, plain fields by key, figures and facts."""

    line: int
    kind: Owner
    fields: Mapping[str, object]
    figures: Mapping[str, Figure]
    facts: Mapping[str, str]

    @property
    def name(self) -> str:
        """Its name."""
        return str(self.fields["name"])


@dataclass(frozen=True, kw_only=True)
class ShelfTable:
    """A table as it was understood: columns, rows, and what is wrong in sentences that name row and column."""

    columns: tuple[ShelfColumn, ...]
    rows: tuple[ShelfRow, ...]
    troubles: tuple[str, ...] = field(default=())


def _plain(heading: str) -> str:
    return " ".join(re.sub(r"[\[\](),;:_/]", " ", heading.lower()).split())


@cache
def _targets() -> dict[str, str]:
    """What each plain heading means."""
    found: dict[str, str] = {}
    for owner, key in [*FIGURES, *FACTS]:
        if owner not in KINDS:
            continue
        row = FIGURES.get((owner, key)) or FACTS[owner, key]
        kind = "figure" if (owner, key) in FIGURES else "fact"
        found.setdefault(_plain(key), f"{kind}:{key}")
        found.setdefault(_plain(row.label), f"{kind}:{key}")
    found.setdefault("shuts", "figure:shuts_1")  # as files of an earlier version call it
    for key, heading, others in PLAIN:
        for words in (key, heading, *others):
            found[_plain(words)] = key
    return found


def _unit_in(heading: str, kinds: set[QuantityKind]) -> tuple[str, str]:
    """A heading without the unit it ends with, and the unit; both as they are where it ends with none."""
    found = re.match(r"^(.*?)[\s,(\[/]+(?:in\s+)?([^\s,()\[\]]+)[)\]]?\s*$", heading.strip())
    if not found:
        return heading, ""
    for kind in kinds:
        try:
            from_unit(1.0, kind, found.group(2))
        except QuantityError:
            continue
        return found.group(1), found.group(2)
    return heading, ""


def columns_of(headings: Sequence[str], chosen: Mapping[int, str] | None = None) -> tuple[ShelfColumn, ...]:
    """What each heading is taken for; `chosen` says otherwise by place, an empty target leaves a column out."""
    every: set[QuantityKind] = {row.kind for (owner, _), row in FIGURES.items() if owner in KINDS and row.kind is not QuantityKind.NUMBER}
    found = []
    for place, heading in enumerate(headings):
        bare, unit = _unit_in(heading, every)
        plain = _plain(heading)
        known = plain.endswith(" known by") and plain != "known by"
        target = _targets().get(_plain(heading)) or _targets().get(_plain(bare), "")
        if known:
            named = _targets().get(plain.removesuffix(" known by"), "")
            target = f"known:{named.removeprefix('figure:')}" if named.startswith("figure:") else ""
        if chosen and place in chosen:
            target = chosen[place]
        found.append(ShelfColumn(heading=heading, target=target, unit=unit if target.startswith("figure:") else ""))
    return tuple(found)


def cells_of(raw: bytes) -> list[tuple[int, list[str]]]:
    """Rows of a CSV or XLSX file with their numbers, headings first. Raises BuildFileError with what is wrong."""
    if not raw.startswith(b"PK\x03\x04"):
        return rows_of(decode(raw), "The table is empty: a line of headings and a line for each part.", "Bring them in by halves.")
    try:
        book = load_workbook(io.BytesIO(raw), read_only=True, data_only=True)
        sheet = book.worksheets[0]
        rows = []
        for number, row in enumerate(sheet.iter_rows(values_only=True, max_col=_MOST_COLUMNS), start=1):
            if number > MOST_ROWS + 1:
                raise BuildFileError(f"The sheet has more than {MOST_ROWS:,} rows. Bring them in by halves.")
            texts = ["" if cell is None else str(cell).strip() for cell in row]
            if any(texts):
                rows.append((number, texts))
    except (BadZipFile, InvalidFileException, KeyError, ValueError, OSError, IndexError) as error:
        raise BuildFileError("This workbook cannot be read. Save it again as XLSX, or as CSV.") from error
    if not rows:
        raise BuildFileError("The first sheet is empty: a line of headings and a line for each part.")
    long = next((number for number, row in rows if any(len(cell) > 2 * LONGEST_CELL for cell in row)), None)
    if long:
        raise BuildFileError(f"Row {long}: a cell holds more than {2 * LONGEST_CELL} characters.")
    return rows


def read_shelf(
    rows: list[tuple[int, list[str]]], chosen: Mapping[int, str] | None = None, system: UnitSystem = UnitSystem.METRIC
) -> ShelfTable:  # fmt: skip
    """The parts of a table whose first row are headings; bare numbers take the unit of their heading, or the one the reader's system shows.

    What is wrong is told and not guessed: every trouble names row and column. Raises BuildFileError where no column is a name.
    """
    columns = columns_of(rows[0][1], chosen)
    targets = [column.target for column in columns]
    for wanted, words in (("name", "the part's name"), ("kind", "the kind of part (spring, retainer, valve ...)")):
        if wanted not in targets:
            raise BuildFileError(f"No column is {words}. Columns are {', '.join(rows[0][1])[:300]}; choose below which is which.")
    doubled = sorted({target for target in targets if target and targets.count(target) > 1})
    troubles = [f"Two columns are {target.partition(':')[2] or target}: choose one of them." for target in doubled]
    parts: list[ShelfRow] = []
    seen: dict[tuple[Owner, str], int] = {}
    for line, cells in rows[1:]:
        row = _row(line, dict(zip(targets, cells, strict=False)), columns, cells, system, troubles)
        if row is None:
            continue
        before = seen.setdefault((row.kind, row.name.lower()), line)
        if before != line:
            troubles.append(f"Row {line}, name: “{row.name}” is in row {before} already. Each part once, with how many there are.")
            continue
        parts.append(row)
    return ShelfTable(columns=columns, rows=tuple(parts), troubles=tuple(troubles))


def _row(
    line: int, told: Mapping[str, str], columns: Sequence[ShelfColumn], cells: Sequence[str], system: UnitSystem, troubles: list[str]
) -> ShelfRow | None:  # fmt: skip
    kind = _KIND_WORDS.get(_plain(told.get("kind", "")))
    if kind is None:
        troubles.append(f"Row {line}, kind: “{told.get('kind', '')}” is no kind of part. Kinds are {', '.join(KINDS.values())}.")
        return None
    fields: dict[str, object] = {}
    figures: dict[str, Figure] = {}
    facts: dict[str, str] = {}
    wrong = len(troubles)
    basis = _basis(told.get("known", ""), f"Row {line}, known by", troubles)
    for column, cell in zip(columns, cells, strict=False):
        what, _, key = column.target.partition(":")
        where = f"Row {line}, {column.heading}"
        if not cell.strip() or what in ("", "kind", "known"):
            continue
        try:
            if what == "figure":
                own = _basis(told.get(f"known:{key}", ""), where, troubles) if told.get(f"known:{key}") else basis
                figures[key] = _figure(kind, key, cell, column.unit, own, system)
            elif what == "fact":
                facts[key] = _fact(kind, key, cell)
            else:
                fields[what] = _field(what, cell)
        except (QuantityError, BuildFileError) as error:
            troubles.append(f"{where}: {error.sentence}")
    if not fields.get("name"):
        troubles.append(f"Row {line}, name: a part needs one.")
    _contradictions(kind, figures, f"Row {line}", troubles)
    return ShelfRow(line=line, kind=kind, fields=fields, figures=figures, facts=facts) if len(troubles) == wrong else None


def _contradictions(kind: Owner, figures: Mapping[str, Figure], where: str, troubles: list[str]) -> None:
    """What of one part cannot be together."""
    order = {
        Owner.SPRING: (("solid_height", "load_height"), ("solid_height", "free_length"), ("load_height", "free_length"), ("inner_across", "outer_across"),
                       ("wire_diameter", "mean_diameter"), ("height_low", "height_high")),
        Owner.VALVE: (("stem_diameter", "head_diameter"), ("groove_height", "length")), Owner.SEAT: (("throat", "outer_diameter"),),
        Owner.FOLLOWER: (("inside", "outside"),), Owner.CAM: (("base_diameter", "lobe_height"),), Owner.GUIDE: (("bore", "outer_diameter"),),
    }  # fmt: skip
    for low, high in order.get(kind, ()):
        if low in figures and high in figures and figures[low].value >= figures[high].value:
            labels = [FIGURES[kind, key].label.lower() for key in (low, high)]
            troubles.append(f"{where}: {labels[0]} is not below {labels[1]}. One of the two is wrong.")


def _basis(text: str, where: str, troubles: list[str]) -> Basis:
    found = _BASES.get(_plain(text))
    if found is None:
        troubles.append(f"{where}: “{text}” is no way to know a figure. Write measured, maker, card or estimate.")
        return Basis.CARD
    return found


def _figure(kind: Owner, key: str, cell: str, unit: str, basis: Basis, system: UnitSystem) -> Figure:
    row: FigureKind | None = FIGURES.get((kind, key))
    if row is None:
        raise BuildFileError(f"a {KINDS[kind]} has no such figure. Leave the cell empty, or correct the kind.")
    text, _, wide = cell.partition("±")
    try:
        number = float(text.strip().replace("\N{MINUS SIGN}", "-").replace(",", "."))
        value = from_unit(number, row.kind, unit or shown_unit(row.kind, system))
    except ValueError:
        value = parse(text, row.kind, system).value
    row.check(value, system)
    if not wide:
        return Figure(value, usual_spread(row, value, basis), basis)
    try:
        own = from_unit(float(wide.strip().replace(",", ".")), row.kind, unit or shown_unit(row.kind, system))
    except ValueError as error:
        raise BuildFileError(f"“{wide.strip()}” behind ± is not a number.") from error
    return Figure(value, abs(own), basis)


def _fact(kind: Owner, key: str, cell: str) -> str:
    fact = FACTS.get((kind, key))
    if fact is None:
        raise BuildFileError(f"a {KINDS[kind]} has no such word. Leave the cell empty, or correct the kind.")
    plain = _plain(cell)
    for value, words in fact.choices.items():
        if plain in (_plain(value), _plain(words)):
            return value
    raise BuildFileError(f"“{cell[:40]}” is not one of {', '.join(words for words in fact.choices.values())}.")


def _field(key: str, cell: str) -> object:
    if key in _TEXTS:
        if len(cell) > _TEXTS[key]:
            raise BuildFileError(f"keep it to {_TEXTS[key]} letters; this has {len(cell)}.")
        return cell.lstrip("'") if cell.startswith("'=") else cell
    if key == "side":
        plain = _plain(cell)
        sides = {"intake": "intake", "in": "intake", "exhaust": "exhaust", "ex": "exhaust", "both": "", "either": ""}
        if plain not in sides:
            raise BuildFileError(f"“{cell[:20]}” is no side. Write intake, exhaust, or leave it empty.")
        return sides[plain]
    if key == "price":
        try:
            price = Decimal(cell.replace(",", ".").replace(" ", ""))
        except InvalidOperation as error:
            raise BuildFileError(f"“{cell[:20]}” is no price. Write a bare number, for example 34.50.") from error
        if not price.is_finite() or not 0 <= price < 10**7:
            raise BuildFileError(f"a price of {cell[:20]} cannot be.")
        return price.quantize(Decimal("0.01"))
    try:
        number = float(cell.replace(",", "."))
    except ValueError as error:
        raise BuildFileError(f"“{cell[:20]}” is not a number.") from error
    whole = key != "service_hours"
    most = {"lead_days": 1000, "quantity": 100_000, "pack": 1000, "service_hours": 100_000}[key]
    least = 1 if key == "pack" else 0
    if not least <= number <= most or (whole and number != int(number)):
        raise BuildFileError(f"{cell[:20]} cannot be; it is a {'whole ' if whole else ''}number from {least} to {most:,}.")
    return int(number) if whole else number


def shelf_rows(
    parts: Iterable[tuple[Owner, Mapping[str, object], Mapping[str, Figure], Mapping[str, str]]],
) -> list[list[str | float | int | None]]:
    """A table of parts (kind, fields, figures, facts) with its headings, as `read_shelf` reads it back, in the metric units of the catalogue."""
    listed = list(parts)
    keys = sorted({key for _, _, figures, _ in listed for key in figures})
    words = sorted({key for _, _, _, facts in listed for key in facts if facts[key]})
    rows_of_key = {key: next(row for (owner, name), row in FIGURES.items() if name == key and owner in KINDS) for key in keys}
    unit = {key: shown_unit(row.kind, UnitSystem.METRIC) for key, row in rows_of_key.items()}
    mixed = [key for key in keys if any(key in figures and figures[key].basis is not _own_basis(figures) for _, _, figures, _ in listed)]
    heads: list[str | float | int | None] = [heading for _, heading, _ in PLAIN]
    heads += [f"{key.replace('_', ' ')} [{unit[key]}]" if unit[key] else key.replace("_", " ") for key in keys]
    heads += [f"{key.replace('_', ' ')} known by" for key in mixed] + [key.replace("_", " ") for key in words]
    table = [heads]
    for kind, fields, figures, facts in listed:
        basis = _own_basis(figures)
        row: list[str | float | int | None] = []
        for key, _, _ in PLAIN:
            value = {"kind": KINDS[kind], "known": basis.value if figures else ""}.get(key, fields.get(key))
            row.append(str(value) if isinstance(value, Decimal) else value)  # type: ignore[arg-type]
        row += [_told(figures[key], rows_of_key[key].kind, unit[key]) if key in figures else None for key in keys]
        row += [figures[key].basis.value if key in figures and figures[key].basis is not basis else None for key in mixed]
        row += [facts.get(key) or None for key in words]
        table.append(row)
    return table


def _own_basis(figures: Mapping[str, Figure]) -> Basis:
    """How most of a part's figures are known."""
    bases = [figure.basis for figure in figures.values()]
    return max(Basis, key=bases.count) if bases else Basis.CARD


def _told(figure: Figure, kind: QuantityKind, unit: str) -> str:
    scale = in_unit(1.0, kind, unit) - in_unit(0.0, kind, unit)
    return f"{in_unit(figure.value, kind, unit):.9g} ± {figure.spread * scale:.4g}"
