"""Which rows belong to a build and which to a workshop, in an order in which each row's parents come before it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.db import models
from django.db.models import Q, QuerySet

from rocklash.records import models as rows
from rocklash.records.models import Build, SetupSide, Workshop

FORMAT = "rocklash.whole/1"
PART_SLOTS = ("cam", "valve", "retainer", "keepers", "low_cam", "follower", "shim", "outer_spring", "inner_spring")
# What no file holds: the engine's owner goes into none of a single build; keys of forms and of searches are this database's own.
LEFT_OUT = {("journalentry", "once"), ("search", "asked_key"), ("search", "asked_at")}
PRIVATE = {("engine", "owner"): "", ("part", "quantity"): 0}  # of a single build
# Rows that stand on their shelf in a workshop and come along with a build as the engine's own.
ENGINES_OWN = ("part", "engine")


@dataclass(frozen=True, kw_only=True)
class Table:
    """One table: its model, how rows of a build are found (None: a build has none), and how those of a workshop."""

    model: type[models.Model]
    of_build: Callable[[Build, set[int]], Q] | None
    of_workshop: str

    @property
    def name(self) -> str:
        """Its name in the file."""
        return str(self.model._meta.model_name)

    def rows(self, build: Build | None, workshop: Workshop, parts: set[int]) -> QuerySet[Any]:
        """Its rows, in the order of their numbers."""
        if build is None:
            return self.model._default_manager.filter(**{self.of_workshop: workshop}).order_by("pk")
        if self.of_build is None:
            return self.model._default_manager.none()
        return self.model._default_manager.filter(self.of_build(build, parts)).order_by("pk")


def parts_of(build: Build) -> set[int]:
    """Every part that a build names or that is its engine's own."""
    named: set[int] = set(rows.Part.objects.filter(engine=build.engine).values_list("pk", flat=True))
    for side in SetupSide.objects.filter(setup__build=build).values_list(*(f"{slot}_id" for slot in PART_SLOTS)):
        named |= {number for number in side if number}
    named |= set(rows.CamCandidate.objects.filter(setup_side__setup__build=build).values_list("cam_id", flat=True))
    return named | set(rows.PartStart.objects.filter(build=build).values_list("part_id", flat=True))


def _under(path: str) -> Callable[[Build, set[int]], Q]:
    return lambda build, _: Q(**{path: build})


def _engines(path: str) -> Callable[[Build, set[int]], Q]:
    return lambda build, _: Q(**{path: build.engine_id})


def _parts(path: str) -> Callable[[Build, set[int]], Q]:
    return lambda _, parts: Q(**{f"{path}__in": parts})


def _changes(build: Build, parts: set[int]) -> Q:
    """Histories of figures name their owner by kind and number."""
    sides = list(SetupSide.objects.filter(setup__build=build).values_list("pk", flat=True))
    return (
        Q(holder="engine", owner_id=build.engine_id) | Q(holder="goal", owner_id=build.pk) | Q(holder="part", owner_id__in=parts)
        | Q(holder="fit", owner_id__in=sides)
    )  # fmt: skip


def _table(model: type[models.Model], of_build: Callable[[Build, set[int]], Q] | None, of_workshop: str) -> Table:
    return Table(model=model, of_build=of_build, of_workshop=of_workshop)


def _of_build(model: type[models.Model], path: str = "build") -> Table:
    return _table(model, _under(path), f"{path}__workshop")


TABLES = (
    _table(rows.Engine, _engines("pk"), "workshop"),
    _table(rows.Position, _engines("engine"), "engine__workshop"),
    _table(rows.Photo, _engines("engine"), "engine__workshop"),
    _table(rows.Part, _parts("pk"), "workshop"),
    _table(rows.PartPhoto, _parts("part"), "part__workshop"),
    _table(rows.Individual, _parts("part"), "part__workshop"),
    _table(rows.SpringLog, _parts("part"), "part__workshop"),
    _table(rows.CamLog, _parts("part"), "part__workshop"),
    _table(rows.InstrumentRun, _parts("part"), "part__workshop"),
    _table(rows.SisterEngine, _engines("engine"), "engine__workshop"),
    _table(rows.SisterPart, _engines("sister__engine"), "sister__engine__workshop"),
    _table(rows.FamilyNote, None, "workshop"),
    _table(rows.ShimStock, None, "workshop"),
    _table(rows.Build, lambda build, _: Q(pk=build.pk), "workshop"),
    _of_build(rows.Setup),
    _of_build(rows.SetupSide, "setup__build"),
    _of_build(rows.CamCandidate, "setup_side__setup__build"),
    _of_build(rows.CamTiming, "setup_side__setup__build"),
    _of_build(rows.ValveFit, "setup_side__setup__build"),
    _of_build(rows.Weighing, "setup_side__setup__build"),
    _of_build(rows.Observation),
    _of_build(rows.GapReading),
    _of_build(rows.OverRevCase),
    _of_build(rows.InspectionFinding, "case__build"),
    _of_build(rows.ClearanceSession),
    _of_build(rows.Reading, "session__build"),
    _of_build(rows.ShimPin, "session__build"),
    _of_build(rows.PlannedShim, "session__build"),
    _table(rows.ShimMove, None, "stock__workshop"),
    _of_build(rows.Job),
    _of_build(rows.JobTick, "job__build"),
    _of_build(rows.JobOverride, "job__build"),
    _of_build(rows.JobWait, "job__build"),
    _of_build(rows.JobDetour, "job__build"),
    _of_build(rows.Finding),
    _of_build(rows.FindingPicture, "finding__build"),
    _of_build(rows.PartPlace),
    _of_build(rows.ShopOrder),
    _of_build(rows.ShopReading, "order__build"),
    _of_build(rows.ProofTest),
    _of_build(rows.ProofFile, "test__build"),
    _of_build(rows.Forecast),
    _of_build(rows.Search),
    _of_build(rows.Decision),
    _of_build(rows.RunEntry),
    _of_build(rows.CareEntry),
    _of_build(rows.LogNote),
    _of_build(rows.LogPicture, "log_note__build"),
    _of_build(rows.PartStart),
    _table(rows.DueRule, _under("build"), "workshop"),
    _table(rows.JournalEntry, _under("build"), "workshop"),
    _table(rows.FigureChange, _changes, "workshop"),
)
BY_NAME = {table.name: table for table in TABLES}
# What a figure's history names by kind and number, and what a decision names in its slots.
HOLDER_TABLES = {"engine": "engine", "goal": "build", "part": "part", "fit": "setupside"}
# Rows that are never in a file: accounts and secrets, what is worked out anew, what asks for attention.
NEVER = {"user", "signedin", "doortry", "workshop", "membership", "invitation", "accesskey", "result", "duestate", "reminder"}
