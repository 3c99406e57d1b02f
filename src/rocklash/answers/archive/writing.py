"""A build or a workshop written as a zip."""

import hashlib
import io
import json
import zipfile
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from django.apps import apps
from django.db import models

from rocklash.answers.archive.tables import BY_NAME, ENGINES_OWN, FORMAT, HOLDER_TABLES, LEFT_OUT, PRIVATE, TABLES, parts_of
from rocklash.records.models import Build, User, Workshop

_THEN = (2000, 1, 1, 0, 0, 0)  # the same for every entry: two files of the same rows are the same file


class Numbers:
    """Which row is which number in the file, and who is which name."""

    def __init__(self) -> None:
        self.rows: dict[str, dict[int, int]] = {}
        self.names: dict[int, str] = {}
        self.people: list[str] = []

    def row(self, table: str, pk: Any) -> int | None:
        """The number of a row; None for one that is not in the file."""
        return self.rows.get(table, {}).get(pk) if isinstance(pk, int) else None

    def person(self, pk: int | None) -> int | None:
        """The number of a person."""
        if pk is None:
            return None
        if pk not in self.names:
            return None
        return self.people.index(self.names[pk]) + 1


def name_of(user: User) -> str:
    """A person's name as files tell it: one who came with a file keeps the name of there."""
    return user.first_name if not user.is_active and user.first_name else user.username


def _target(field: "models.Field[Any, Any]") -> str:
    return str(field.related_model._meta.model_name)  # type: ignore[union-attr]


def _value(row: models.Model, field: "models.Field[Any, Any]", numbers: Numbers, files: dict[str, bytes]) -> Any:
    raw = field.value_from_object(row)
    if isinstance(field, models.ForeignKey):
        if _target(field) == "user":
            return numbers.person(raw)
        return numbers.row(_target(field), raw)
    if isinstance(field, models.BinaryField):
        data = bytes(raw)
        name = f"files/{hashlib.sha256(data).hexdigest()}"
        files[name] = data
        return name
    return raw


class _Unknown(Exception):  # noqa: N818  (a way out)
    """A line of the journal names a row that is not in the file."""


def _column(model: type[models.Model], column: str, value: Any, numbers: Numbers) -> Any:
    """A value of a journal's line with its rows numbered as in the file."""
    field = next((each for each in model._meta.concrete_fields if each.attname == column), None)
    if field is None or value is None:
        return value
    if field.primary_key:
        return numbers.row(str(model._meta.model_name), value)
    if not isinstance(field, models.ForeignKey):
        return value
    if _target(field) == "workshop":
        return 0
    found = numbers.person(value) if _target(field) == "user" else numbers.row(_target(field), value)
    if found is None:
        raise _Unknown
    return found


def _change(change: dict[str, Any], numbers: Numbers) -> dict[str, Any]:
    if change["row"] not in BY_NAME or "gone" in change:  # what was removed has a number of this database alone
        raise _Unknown
    model = apps.get_model("records", change["row"])
    number = numbers.row(change["row"], change["pk"])
    if number is None:
        raise _Unknown
    told = {**change, "pk": number}
    if "made" in change:
        told["made"] = {column: _column(model, column, value, numbers) for column, value in change["made"].items()}
    if "set" in change:
        told["set"] = {column: [_column(model, column, value, numbers) for value in values] for column, values in change["set"].items()}
    return told


def _special(name: str, told: dict[str, Any], numbers: Numbers, *, alone: bool) -> None:
    """What names rows in other ways than by a reference."""
    if name == "journalentry" and told["data"]:
        try:
            told["data"] = [_change(change, numbers) for change in told["data"] if "row" in change]
        except _Unknown:
            told["data"], told["reversible"] = [], False
    if name == "figurechange":
        told["owner_id"] = numbers.row(HOLDER_TABLES[told["holder"]], told["owner_id"]) or 0
    if name == "decision":
        told["parts"] = {
            slot: str(numbers.row("part", int(key)) or "") if str(key).isdigit() else key for slot, key in told["parts"].items()
        }
    if alone:
        for (table, column), value in PRIVATE.items():
            if table == name:
                told[column] = value
        if name == ENGINES_OWN[0]:
            told[ENGINES_OWN[1]] = 1


def _told(value: Any) -> str:
    """Days, moments and money as text, to the last digit."""
    if isinstance(value, (date, datetime)):
        return value.isoformat()
    if isinstance(value, Decimal):
        return str(value)
    raise TypeError(f"{type(value).__name__} is nothing that a file holds")


def _dumped(content: Any) -> bytes:
    return (json.dumps(content, default=_told, ensure_ascii=False, sort_keys=True, indent=1) + "\n").encode()


def _own(workshop: Workshop, numbers: Numbers) -> dict[str, Any]:
    """Habits and what its engines taught it."""
    own = {
        key: {**told, "results": [[*row[:3], numbers.row("build", row[3]), row[4]] for row in told.get("results", [])]}
        for key, told in workshop.own.items()
    }
    return {
        "name": workshop.name, "schools": workshop.schools, "day_hours": workshop.day_hours, "hour_price": workshop.hour_price, "own": own,
        "rev_tests": workshop.rev_tests,
    }  # fmt: skip


def written(workshop: Workshop, build: Build | None = None) -> bytes:
    """A zip of a build, or without one of the whole workshop."""
    numbers, parts = Numbers(), parts_of(build) if build else set()
    files: dict[str, bytes] = {}
    found = {table.name: list(table.rows(build, workshop, parts)) for table in TABLES}
    for name, rows in found.items():
        numbers.rows[name] = {row.pk: number for number, row in enumerate(rows, 1)}
    people = {
        getattr(row, field.attname)
        for table in TABLES
        for field in table.model._meta.concrete_fields
        if isinstance(field, models.ForeignKey) and _target(field) == "user"
        for row in found[table.name]
    }
    numbers.names = {user.pk: name_of(user) for user in User.objects.filter(pk__in=[number for number in people if number])}
    numbers.people = sorted(set(numbers.names.values()))
    entries: dict[str, bytes] = {}
    for table in TABLES:
        listed = []
        for row in found[table.name]:
            told = {
                field.name: _value(row, field, numbers, files)
                for field in table.model._meta.concrete_fields
                if not field.primary_key and field.name != "workshop" and (table.name, field.name) not in LEFT_OUT
            }
            _special(table.name, told, numbers, alone=build is not None)
            listed.append(told)
        if listed:
            entries[f"rows/{table.name}.json"] = _dumped(listed)
    manifest: dict[str, Any] = {"format": FORMAT, "holds": "build" if build else "workshop", "people": numbers.people}
    if build is None:
        manifest["workshop"] = _own(workshop, numbers)
    entries["manifest.json"] = _dumped(manifest)
    return zipped(entries | files)


def zipped(entries: dict[str, bytes]) -> bytes:
    """The zip itself: entries by name, none dated."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as file:
        for name in sorted(entries):
            file.writestr(zipfile.ZipInfo(name, _THEN), entries[name], zipfile.ZIP_DEFLATED)
    return out.getvalue()
