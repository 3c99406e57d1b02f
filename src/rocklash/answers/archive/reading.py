"""A zip read and checked, row by row and field by field; what is wrong is told with its place, and nothing is touched."""

import hashlib
import io
import json
import math
import zipfile
import zlib
from dataclasses import dataclass, field
from typing import Any

from django.core.exceptions import ValidationError
from django.db import models

from rocklash.answers.archive.tables import BY_NAME, FORMAT, HOLDER_TABLES, LEFT_OUT, TABLES
from rocklash.records.figure_column import figures_of
from rocklash.records.models import Workshop
from valvetrain.errors import BuildFileError
from valvetrain.formats.build_file import FlowDocument
from valvetrain.formats.lobe_document import LobeDocument
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import FITTING, Adjuster, Follower, Gear, Side

LARGEST = 400_000_000  # bytes of a file
_UNPACKED = 1_200_000_000
_ENTRIES, _ROWS, _PEOPLE = 20_000, 400_000, 500
_ENTRY = 120_000_000  # bytes of one unpacked entry
_CYLINDERS, _PER_SIDE = 8, 3
_DEEP, _TEXT = 14, 2_000_000
_OWNERS = {"engine": Owner.ENGINE, "build": Owner.GOAL, "setupside": Owner.FIT}


@dataclass(frozen=True, kw_only=True)
class Read:
    """What a file holds: rows by table, each a dictionary of its fields with numbers of the file, and the workshop's own words."""

    holds: str
    people: list[str]
    rows: dict[str, list[dict[str, Any]]]
    files: dict[str, bytes] = field(repr=False)
    workshop: dict[str, Any]


def _refuse(place: str, why: str) -> BuildFileError:
    return BuildFileError(f"{place}: {why} Nothing was saved.")


def _json(raw: bytes, place: str) -> Any:
    def number(text: str) -> float:
        value = float(text)
        if not math.isfinite(value):
            raise ValueError(f"{text[:20]} is no number")
        return value

    try:
        return json.loads(raw.decode("utf-8"), parse_constant=number, parse_float=number, parse_int=_whole)
    except (ValueError, RecursionError) as error:
        raise _refuse(place, f"this is no JSON that can be read ({str(error)[:120]}).") from error


def _whole(text: str) -> int:
    if len(text) > 18:
        raise ValueError(f"{text[:20]}… has too many digits")
    return int(text)


def _unpacked(raw: bytes) -> dict[str, bytes]:
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as file:
            infos = file.infolist()
            if len(infos) > _ENTRIES or sum(info.file_size for info in infos) > _UNPACKED:
                raise _refuse("The zip", "it holds more than a workshop does.")
            entries: dict[str, bytes] = {}
            for info in infos:
                if info.filename in entries:
                    raise _refuse(info.filename[:80], "it is in the zip twice.")
                with file.open(info) as entry:
                    content = entry.read(_ENTRY + 1)
                if len(content) > _ENTRY:
                    raise _refuse(info.filename[:80], "it is larger than 120 MB.")
                entries[info.filename] = content
            return entries
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, OSError, EOFError, ValueError) as error:
        raise _refuse("The file", "it is no zip that can be read, or it is cut short.") from error


def _tree(value: Any, depth: int = 0) -> str:
    """Why a value is no plain JSON, empty where it is."""
    if depth > _DEEP:
        return "it is nested too deep."
    if isinstance(value, str):
        return "" if len(value) <= _TEXT and _plain(value) else "it holds signs that no text holds, or too many."
    if isinstance(value, dict):
        return next((why for key, each in value.items() if (why := _tree(key, depth + 1) or _tree(each, depth + 1))), "")
    if isinstance(value, list):
        return next((why for each in value if (why := _tree(each, depth + 1))), "")
    return ""


def _plain(text: str) -> bool:
    return "\x00" not in text and not any("\ud800" <= sign <= "\udfff" for sign in text)


def _document(table: str, name: str, row: dict[str, Any], value: Any) -> None:
    """Check a column whose form the rest of the house relies on. Raises ValueError."""
    if name == "figures" and table in (*_OWNERS, "part"):
        figures_of(value, _OWNERS[table] if table != "part" else Owner(row.get("kind", "")))
    elif name == "facts" and not (isinstance(value, dict) and all(isinstance(each, str) and len(each) <= 400 for each in value.values())):
        raise ValueError("it is a dictionary of words")
    elif name == "flows":
        for test in value:
            FlowDocument.model_validate(test)
    elif name == "lobe" and value is not None:
        LobeDocument.model_validate(value)


def _cell(table: str, column: "models.Field[Any, Any]", row: dict[str, Any], counts: dict[str, int], files: dict[str, bytes]) -> Any:
    """A field as its column holds it; references stay numbers of the file. Raises ValueError or ValidationError."""
    value = row[column.name]
    if isinstance(column, models.ForeignKey):
        if value is None and column.null:
            return None
        target = str(column.related_model._meta.model_name)
        if not isinstance(value, int) or isinstance(value, bool) or not 1 <= value <= counts.get(target, 0):
            raise ValueError(f"there is no {target} {value} in this file")
        return value
    if isinstance(column, models.BinaryField):
        if value not in files:
            raise ValueError(f"the file {str(value)[:80]} is not in the zip")
        return value
    if isinstance(column, models.JSONField):
        if value is None and not column.null:
            raise ValueError("it is empty")
        why = _tree(value)
        if why:
            raise ValueError(why)
        empty = column.get_default()
        if value is not None and empty is not None and type(value) is not type(empty):
            raise ValueError(f"it is a {'dictionary' if isinstance(empty, dict) else 'list'}")
        _document(table, column.name, row, value)
        return value
    if isinstance(value, str) and not _plain(value):
        raise ValueError("it holds signs that no text holds")
    if isinstance(value, (dict, list)) or (isinstance(value, bool) and not isinstance(column, models.BooleanField)):
        raise TypeError("it is no single value")
    if isinstance(column, models.CharField) and not isinstance(value, (str, type(None))):
        raise TypeError("it is no text")
    return column.clean(value, None)


def _row(table: str, number: int, row: Any, counts: dict[str, int], files: dict[str, bytes]) -> dict[str, Any]:
    place = f"rows/{table}.json, row {number}"
    if not isinstance(row, dict):
        raise _refuse(place, "it is no dictionary.")
    columns = {
        column.name: column
        for column in BY_NAME[table].model._meta.concrete_fields
        if not column.primary_key and column.name != "workshop" and (table, column.name) not in LEFT_OUT
    }
    if row.keys() != columns.keys():
        odd = min(map(str, row.keys() ^ columns.keys()))[:60]
        raise _refuse(place, f"the field {odd} is {'missing' if odd in columns else 'not known'}.")
    found = {}
    for name, column in columns.items():
        try:
            found[name] = _cell(table, column, row, counts, files)
        except (ValueError, ValidationError, TypeError, OverflowError, AttributeError, KeyError) as error:
            why = (
                " ".join(error.messages)
                if isinstance(error, ValidationError)
                else str(error).splitlines()[0]
                if str(error)
                else "it cannot be read"
            )
            raise _refuse(f"{place}, {name}", f"{why[:200].rstrip('.')}.") from error
    return found


def read(raw: bytes) -> Read:
    """What a zip holds. Raises BuildFileError, which names entry, row and field."""
    if len(raw) > LARGEST:
        raise _refuse("The file", "it is larger than 400 MB.")
    entries = _unpacked(raw)
    if "manifest.json" not in entries:
        raise _refuse("manifest.json", "it is not in the zip; this is no file of a build or a workshop.")
    manifest = _json(entries.pop("manifest.json"), "manifest.json")
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise _refuse("manifest.json, format", f"it is not {FORMAT}.")
    people = manifest.get("people")
    if (
        not isinstance(people, list)
        or len(people) > _PEOPLE
        or not all(isinstance(name, str) and 0 < len(name) <= 150 and _plain(name) for name in people)
    ):
        raise _refuse("manifest.json, people", "it is a list of names.")
    if manifest.get("holds") not in ("build", "workshop"):
        raise _refuse("manifest.json, holds", "it is build or workshop.")
    files = {name: entries.pop(name) for name in sorted(entries) if name.startswith("files/")}
    for name, content in files.items():
        if hashlib.sha256(content).hexdigest() != name.removeprefix("files/"):
            raise _refuse(name[:80], "its content is not what its name says: it was damaged or changed.")
    listed: dict[str, list[Any]] = {}
    for name in sorted(entries):
        table = name.removeprefix("rows/").removesuffix(".json")
        if name != f"rows/{table}.json" or table not in BY_NAME:
            raise _refuse(name[:80], "nothing of that name belongs in the file.")
        rows = _json(entries[name], name)
        if not isinstance(rows, list):
            raise _refuse(name, "it is no list.")
        listed[table] = rows
    if sum(map(len, listed.values())) > _ROWS:
        raise _refuse("The file", f"it holds more than {_ROWS:,} rows.")
    counts = {table: len(rows) for table, rows in listed.items()} | {"user": len(people)}
    found = {
        table.name: [_row(table.name, number, row, counts, files) for number, row in enumerate(listed.get(table.name, []), 1)]
        for table in TABLES
    }
    _hang_together(manifest["holds"], found, counts)
    return Read(holds=manifest["holds"], people=people, rows=found, files=files, workshop=_workshop(manifest))


def _hang_together(holds: str, found: dict[str, list[dict[str, Any]]], counts: dict[str, int]) -> None:
    if holds == "build" and (counts.get("build") != 1 or counts.get("engine") != 1):
        raise _refuse("rows/build.json", "a build's file holds one build and one engine.")
    _made_up(found)
    for number, row in enumerate(found["figurechange"], 1):
        if not 0 <= row["owner_id"] <= counts.get(HOLDER_TABLES.get(row["holder"], ""), 0):
            raise _refuse(f"rows/figurechange.json, row {number}, owner_id", "there is no such row in this file.")


def _made_up(found: dict[str, list[dict[str, Any]]]) -> None:
    """Each engine is one that the trade makes: cylinders, valves, gear that goes with follower and adjuster, and valves on both sides."""
    valves: dict[int, dict[str, int]] = {}
    for row in found["position"]:
        sides = valves.setdefault(row["engine"], {})
        sides[row["side"]] = sides.get(row["side"], 0) + 1
    for number, row in enumerate(found["engine"], 1):
        place = f"rows/engine.json, row {number}"
        if not (1 <= row["cylinders"] <= _CYLINDERS and 1 <= row["valves_per_side"] <= _PER_SIDE):
            raise _refuse(place, f"an engine has one to {_CYLINDERS} cylinders with one to {_PER_SIDE} valves a side.")
        followers, adjusters = FITTING[Gear(row["gear"])]
        if Follower(row["follower"]) not in followers or Adjuster(row["adjuster"]) not in adjusters:
            raise _refuse(place, f"no {row['gear']} engine has {row['follower']} with {row['adjuster']}.")
        sides = valves.get(number, {})
        if any(not 1 <= sides.get(side.value, 0) <= _CYLINDERS * _PER_SIDE for side in Side):
            raise _refuse("rows/position.json", f"engine {number} has valves on both sides, no more than {_CYLINDERS * _PER_SIDE} on each.")


def _workshop(manifest: dict[str, Any]) -> dict[str, Any]:
    told = manifest.get("workshop") or {}
    if not isinstance(told, dict) or _tree(told):
        raise _refuse("manifest.json, workshop", "it is no dictionary of plain values.")
    found = {}
    for name in ("schools", "day_hours", "hour_price", "rev_tests", "own"):
        if name not in told:
            continue
        column = Workshop._meta.get_field(name)
        try:
            found[name] = told[name] if isinstance(column, models.JSONField) else column.clean(told[name], None)  # type: ignore[union-attr]
            if isinstance(column, models.JSONField) and not isinstance(told[name], dict):
                raise TypeError("it is no dictionary")  # noqa: TRY301  (told below)
        except (ValueError, TypeError, ValidationError) as error:
            raise _refuse(f"manifest.json, workshop, {name}", "it cannot be read.") from error
    return found
