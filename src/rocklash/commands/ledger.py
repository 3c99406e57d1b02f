"""What a command changes, row by row, so that the journal can tell it and take it back.

A change is one of three: `{"row": "part", "pk": 7, "set": {"name": ["old", "new"]}, "keys": {"figures": {"rate": [old, new]}}}`,
`{"row": ..., "pk": ..., "made": {column: value}}` and `{"row": ..., "pk": ..., "gone": {column: value}}`. A dictionary of figures or words changes
key by key, so that two people on one part undo their own and not one another's.
"""

import json
from collections.abc import Mapping
from typing import Any

from django.apps import apps
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.utils import timezone
from django.utils.dateparse import parse_datetime

from rocklash.records.models import FigureChange, Membership
from rocklash.records.selectors.journal import HOLDERS

Change = dict[str, Any]
_BY_KEY = ("figures", "facts", "leans", "aims")


class ChangedSinceError(Exception):
    """What a command changed was changed again since; the message names the row."""


def _plain(value: Any) -> Any:
    """A value as JSON keeps it."""
    return json.loads(json.dumps(value, cls=DjangoJSONEncoder))


def _columns(row: models.Model) -> dict[str, Any]:
    whole: dict[str, Any] = _plain({field.attname: field.value_from_object(row) for field in row._meta.concrete_fields})
    return whole


def _column(name: str, row: models.Model) -> str:
    """The column behind a field: `by` is `by_id`."""
    return str(row._meta.get_field(name).attname)  # type: ignore[union-attr]


class Ledger:
    """Writes rows for one command and remembers what stood there."""

    def __init__(self, member: Membership, *, remember: bool = True) -> None:
        self.member, self.remember = member, remember
        self.changes: list[Change] = []
        self._histories: list[FigureChange] = []

    def set(self, row: models.Model, **values: Any) -> None:
        """Change columns of a locked row; what is the same already is left alone. Dictionaries of figures and words change key by key."""
        changed: dict[str, list[Any]] = {}
        keys: dict[str, dict[str, list[Any]]] = {}
        touched = []
        for name, value in values.items():
            before = getattr(row, name)
            if before == value:
                continue
            touched.append(name)
            if name in _BY_KEY:
                keys[name] = {
                    key: _plain([before.get(key), value.get(key)])
                    for key in before.keys() | value.keys()
                    if before.get(key) != value.get(key)
                }
            column = _column(name, row)
            was = _plain(getattr(row, column))
            setattr(row, name, value)
            if name not in _BY_KEY:
                changed[column] = [was, _plain(getattr(row, column))]
        if not touched:
            return
        row.save(update_fields=touched)
        self.changes.append({"row": row._meta.model_name, "pk": row.pk, "set": changed, "keys": keys})
        for key, (_, after) in keys.get("figures", {}).items():
            self._histories.append(self._history(row, key, after))

    def make(self, model: type[models.Model], **values: Any) -> Any:
        """Make a row."""
        row = model._default_manager.create(**values)
        self.made([row])
        return row

    def made(self, rows: list[Any], *, histories: bool = True) -> None:
        """Remember rows that were made in one go. Of thousands that came as a table each figure's own entry is history enough: no `histories`."""
        for row in rows:
            self.changes.append({"row": row._meta.model_name, "pk": row.pk, "made": _columns(row) if self.remember else {}})
            if histories and type(row) in HOLDERS:
                self._histories += [self._history(row, key, figure) for key, figure in row.figures.items()]

    def drop(self, row: models.Model) -> None:
        """Remove a row."""
        self.changes.append({"row": row._meta.model_name, "pk": row.pk, "gone": _columns(row)})
        row.delete()

    def destroy(self, row: models.Model) -> None:
        """Remove a row for good: what a command that cannot be undone removes."""
        self.changes.append({"row": row._meta.model_name, "pk": row.pk, "gone": {}})
        row.delete()

    def put(self, model: type[models.Model], where: Mapping[str, Any], **values: Any) -> Any:
        """Change the one row found by `where`, locked, or make it."""
        row = model._default_manager.select_for_update(no_key=True).filter(**where).order_by("pk").first()
        if row is None:
            return self.make(model, **where, **values)
        self.set(row, **values)
        return row

    def _history(self, row: models.Model, key: str, figure: Mapping[str, Any] | None) -> FigureChange:
        figure = figure or {}
        return FigureChange(
            workshop=self.member.workshop,
            holder=HOLDERS[type(row)],
            owner_id=row.pk,
            key=key,
            value=figure.get("value"),
            spread=figure.get("spread", 0.0),
            basis=figure.get("basis", ""),
            typed=figure.get("typed", "")[:80],
            unit=figure.get("unit", "")[:20],
            by=self.member.user,
            at=timezone.now(),
        )

    def keep_histories(self) -> None:
        """Write the histories of the figures that changed, in one go."""
        if self._histories:
            FigureChange.objects.bulk_create(self._histories)
            self._histories = []

    def undo(self, changes: list[Change]) -> None:
        """Put back what the changes of an earlier command changed, last first. Raises ChangedSinceError where somebody changed it again."""
        for change in reversed(changes):
            model = apps.get_model("records", change["row"])
            if "gone" in change:
                self._bring_back(model, change["gone"])
                continue
            row = model._default_manager.select_for_update(no_key=True).filter(pk=change["pk"]).order_by("pk").first()
            if row is None:
                raise ChangedSinceError(f"{model._meta.verbose_name} {change['pk']}")
            if "made" in change:
                self._unmake(row, change["made"])
            else:
                self._put_back(row, change)

    def _unmake(self, row: models.Model, made: Mapping[str, Any]) -> None:
        moving = {field.attname for field in row._meta.concrete_fields if getattr(field, "auto_now", False)}
        now = _columns(row)
        if any(now[column] != value for column, value in made.items() if column in now and column not in moving):
            raise ChangedSinceError(str(row))
        for relation in row._meta.related_objects:  # what somebody hung on it since would go with it
            if (
                relation.on_delete is models.CASCADE
                and relation.related_model._default_manager.filter(**{relation.field.name: row}).exists()
            ):
                raise ChangedSinceError(f"{row} (it has {relation.related_model._meta.verbose_name_plural} now)")
        self.drop(row)

    def _put_back(self, row: models.Model, change: Change) -> None:
        now = _columns(row)
        if any(now[column] != after for column, (_, after) in change["set"].items()):
            raise ChangedSinceError(str(row))
        values: dict[str, Any] = {}
        for name, keys in change["keys"].items():
            words = dict(getattr(row, name))
            for key, (before, after) in keys.items():
                if _plain(words.get(key)) != after:
                    raise ChangedSinceError(str(row))
                words.pop(key, None)
                if before is not None:
                    words[key] = before
            values[name] = words
        for column, (before, _) in change["set"].items():
            values[column] = row._meta.get_field(column).to_python(before) if before is not None else None  # type: ignore[union-attr]
        self.set(row, **values)

    def _bring_back(self, model: type[models.Model], gone: Mapping[str, Any]) -> None:
        """Make a removed row again under its number, with the moments it had."""
        values, moments = {}, {}
        for field in model._meta.concrete_fields:
            value = gone.get(field.attname)
            if value is not None and isinstance(field, models.DateTimeField):
                value = moments[field.attname] = parse_datetime(value)
            values[field.attname] = value
        if model._default_manager.filter(pk=values["id"]).exists():
            raise ChangedSinceError(f"{model._meta.verbose_name} {values['id']}")
        row = model(**values)
        row.save(force_insert=True)
        if moments:
            model._default_manager.filter(pk=row.pk).update(**moments)
            row.refresh_from_db()
        self.made([row])
