"""Rows made of what was read, each reference to the new row of its number."""

from typing import Any

from django.apps import apps
from django.db import IntegrityError, models

from rocklash.answers.archive.reading import Read
from rocklash.answers.archive.tables import HOLDER_TABLES, TABLES
from rocklash.answers.due import rows_of, standing_of
from rocklash.answers.job import plan_of
from rocklash.answers.results import build_file_of, result_of
from rocklash.records.models import Build, Job, JournalEntry, User, Workshop
from rocklash.records.selectors.builds import build_or_404
from valvetrain.errors import BuildFileError

_WORD = 60


def _person(workshop: Workshop, name: str) -> User:
    """Somebody who came with a file: never a person who can sign in, so that no file puts words into a member's mouth."""
    known = User.objects.filter(is_active=False, first_name=name[:150], username__endswith=f"@{workshop.slug}").first()
    if known:
        return known
    base, number = f"{name[:80]}@{workshop.slug}", 1
    while User.objects.filter(username=base if number == 1 else f"{number}.{base}").exists():
        number += 1
    user = User(username=base if number == 1 else f"{number}.{base}", first_name=name[:150], is_active=False)
    user.set_unusable_password()
    user.save()
    return user


class _Keeper:
    def __init__(self, workshop: Workshop, told: Read) -> None:
        self.workshop, self.told = workshop, told
        self.rows: dict[str, list[int]] = {}
        self.people = [_person(workshop, name).pk for name in told.people]

    def pk(self, table: str, number: Any) -> Any:
        """The new row of a number."""
        if table == "workshop":
            return self.workshop.pk
        listed = self.people if table == "user" else self.rows.get(table, [])
        return listed[number - 1] if isinstance(number, int) and 1 <= number <= len(listed) else None

    def table(self, model: type[models.Model]) -> None:
        """Make the rows of a table, in their order; references within it follow once all of them stand."""
        name, later = str(model._meta.model_name), []
        self.rows[name] = []
        for number, told in enumerate(self.told.rows[name], 1):
            row = model()
            for column in model._meta.concrete_fields:
                if column.name not in told:
                    continue
                value = told[column.name]
                if isinstance(column, models.ForeignKey):
                    target = str(column.related_model._meta.model_name)
                    if target == name:
                        later.append((number, column.attname, value))
                        continue
                    setattr(row, column.attname, None if value is None else self.pk(target, value))
                elif isinstance(column, models.BinaryField):
                    setattr(row, column.attname, self.told.files[value])
                else:
                    setattr(row, column.attname, value)
            if hasattr(row, "workshop_id"):
                row.workshop_id = self.workshop.pk
            self._special(name, row)
            try:
                row.save_base(raw=True, force_insert=True)  # raw: moments are the file's, not now
            except IntegrityError as error:
                words = str(error).splitlines()[0][:160]
                raise BuildFileError(
                    f"rows/{name}.json, row {number}: it does not go with the others ({words}). Nothing was saved."
                ) from error
            self.rows[name].append(row.pk)
        for number, column_name, value in later:
            if value is not None:
                model._default_manager.filter(pk=self.rows[name][number - 1]).update(**{column_name: self.rows[name][value - 1]})

    def _special(self, name: str, row: Any) -> None:
        if name == "figurechange":
            row.owner_id = self.pk(HOLDER_TABLES[row.holder], row.owner_id) or 0
        if name == "decision":
            row.parts = {
                slot: str(self.pk("part", int(key)) or "") if str(key).isdigit() and len(str(key)) < _WORD else key
                for slot, key in row.parts.items()
            }

    def journal(self) -> None:
        """Lines of the journal name rows that are made after some of them: told once everything stands."""
        for pk, told in zip(self.rows["journalentry"], self.told.rows["journalentry"], strict=True):
            if told["data"]:
                data = [self._change(change) for change in told["data"]]
                whole = all(change is not None for change in data)
                JournalEntry.objects.filter(pk=pk).update(data=data if whole else [], reversible=told["reversible"] and whole)

    def _change(self, change: Any) -> dict[str, Any] | None:
        if not isinstance(change, dict) or change.get("row") not in self.rows:
            return None
        table = change["row"]
        model = apps.get_model("records", table)
        columns = {column.attname: column for column in model._meta.concrete_fields}

        def value(name: str, told: Any) -> Any:
            column = columns.get(name)
            if told is None or column is None:
                return told
            if column.primary_key:
                return self.pk(table, told)
            if isinstance(column, models.ForeignKey):
                return self.pk(str(column.related_model._meta.model_name), told)
            return told

        made = dict(change)
        made["pk"] = self.pk(table, change.get("pk"))
        if "gone" in change or made["pk"] is None:
            return None
        if isinstance(change.get("made"), dict):
            made["made"] = {name: value(name, told) for name, told in change["made"].items()}
        if isinstance(change.get("set"), dict):
            if not all(isinstance(pair, list) and len(pair) == 2 for pair in change["set"].values()):
                return None
            made["set"] = {name: [value(name, told) for told in pair] for name, pair in change["set"].items()}
        return made


def _tried(workshop: Workshop, numbers: list[int]) -> None:
    """Read every build as its pages would: what they cannot read is refused here, not met there."""
    for number in numbers:
        build = build_or_404(workshop, number)
        try:
            result_of(build)
            build_file_of(build)
            standing_of(build, rows_of(build), build.updated_at.date())
            for job in Job.objects.filter(build=build):
                plan_of(job, build, job.detours.all())
        except BuildFileError:
            raise
        except Exception as error:
            words = str(error).splitlines()[0][:160] if str(error) else type(error).__name__
            raise BuildFileError(f"The build “{build.name}”: its rows cannot be read together ({words}). Nothing was saved.") from error


def keep(workshop: Workshop, told: Read) -> list[Build]:
    """Make rows of what was read, in the transaction of whoever asks; the builds that were made. Raises BuildFileError with the place."""
    keeper = _Keeper(workshop, told)
    for table in TABLES:
        keeper.table(table.model)
    keeper.journal()
    if told.holds == "workshop":
        _take_habits(workshop, told, keeper)
    _tried(workshop, keeper.rows["build"])
    return list(Build.objects.filter(pk__in=keeper.rows["build"]).order_by("pk"))


def _take_habits(workshop: Workshop, told: Read, keeper: _Keeper) -> None:
    values = dict(told.workshop)
    own = values.pop("own", {})
    if isinstance(own, dict):
        values["own"] = {
            key: {
                **row,
                "results": [[*each[:3], keeper.pk("build", each[3]), each[4]] for each in row.get("results", []) if len(each) == 5],
            }
            for key, row in own.items()
            if isinstance(row, dict)
        }
    Workshop.objects.filter(pk=workshop.pk).update(**values)
