"""Read queries of what an engine ran, and of everything that happened to it."""

from datetime import date, datetime
from typing import NamedTuple

from django.db.models import Prefetch
from django.shortcuts import get_object_or_404

from rocklash.records.models import (
    Build,
    CareEntry,
    ClearanceSession,
    Finding,
    Job,
    JournalEntry,
    LogNote,
    LogPicture,
    OverRevCase,
    ProofKind,
    ProofTest,
    RunEntry,
    ShopOrder,
    SpringLog,
    ValveFit,
    Workshop,
)
from rocklash.records.selectors.builds import parts_that_fit

MOST = 2000


class Ran(NamedTuple):
    """What was entered of a day, for counting: whole rows cost ten times as much to read."""

    made_on: date
    seconds: float | None
    passes: int | None
    seasons: int | None = None


def runs_of(build: Build) -> list[Ran]:
    """What it ran, newest first."""
    rows = RunEntry.objects.filter(build=build).order_by("-made_on", "-at", "-pk").values_list("made_on", "seconds", "passes", "seasons")
    return [Ran(*row) for row in rows]


def run_entries(build: Build, most: int = MOST) -> list[RunEntry]:
    """The same as rows, up to as many."""
    return list(RunEntry.objects.filter(build=build).select_related("by")[:most])


def care_of(build: Build, most: int = MOST) -> list[CareEntry]:
    """What was due and done, newest first."""
    return list(CareEntry.objects.filter(build=build).select_related("by")[:most])


def metered_sheets(build: Build, most: int = MOST) -> list[ClearanceSession]:
    """Signed sheets, the newest first."""
    return list(
        ClearanceSession.objects.filter(build=build, signed_at__isnull=False).select_related("signed_by").order_by("-signed_at")[:most]
    )


def proof_tests_kept(build: Build, most: int = MOST) -> list[ProofTest]:
    """Tests of Proof."""
    return list(
        ProofTest.objects.filter(build=build).exclude(found__has_key="pending").select_related("by").order_by("-made_on", "-at")[:most]
    )


def logs_of(build: Build) -> list[ProofTest]:
    """Runs whose file told time and engine speed."""
    runs = ProofTest.objects.filter(build=build, kind=ProofKind.RUN, file__columns__has_keys=["time", "rpm"])
    return list(runs.exclude(found__has_key="pending").order_by("-made_on", "-at")[:50])


def jobs_kept(build: Build, most: int = MOST) -> list[Job]:
    """Jobs, open and closed."""
    return list(Job.objects.filter(build=build).select_related("by").order_by("-begun_at")[:most])


def findings_kept(build: Build, most: int = MOST) -> list[Finding]:
    """Findings, open and settled."""
    return list(Finding.objects.filter(build=build).select_related("by", "position").order_by("-at")[:most])


def over_revs_kept(build: Build, most: int = MOST) -> list[OverRevCase]:
    """Over-revs."""
    return list(OverRevCase.objects.filter(build=build).select_related("by").order_by("-at")[:most])


def shop_visits(build: Build, most: int = MOST) -> list[ShopOrder]:
    """Visits to the machine shop."""
    return list(ShopOrder.objects.filter(build=build).select_related("by").order_by("-at")[:most])


def spring_tests(build: Build, most: int = MOST) -> list[SpringLog]:
    """Tester logs of springs that may be in this build."""
    springs = parts_that_fit(build).filter(kind="spring", engine=build.engine)
    return list(SpringLog.objects.filter(part__in=springs).select_related("part", "by").order_by("-at")[:most])


def journal_lines(build: Build, most: int = MOST) -> list[JournalEntry]:
    """Lines of the journal, the newest first."""
    return list(JournalEntry.objects.filter(build=build).defer("data").select_related("by").order_by("-at", "-pk")[:most])


def notes_kept(build: Build, most: int = MOST) -> list[LogNote]:
    """Notes, the newest first, with their pictures but not what is in them."""
    bare = Prefetch("pictures", LogPicture.objects.defer("data"))
    return list(LogNote.objects.filter(build=build).select_related("by").prefetch_related(bare)[:most])


def picture_or_404(build: Build, number: int) -> LogPicture:
    """One picture of a build's line of time."""
    return get_object_or_404(LogPicture, log_note__build=build, pk=number)


def pictures_kept(build: Build) -> list[LogPicture]:
    """Pictures of a build's line of time, with what is in them."""
    return list(LogPicture.objects.filter(log_note__build=build).select_related("log_note")[:60])


def entry_or_404(build: Build, kind: str, number: int) -> RunEntry | CareEntry:
    """An entry of a build, locked."""
    if kind == "care":
        return get_object_or_404(CareEntry.objects.select_for_update(no_key=True).filter(build=build), pk=number)
    return get_object_or_404(RunEntry.objects.select_for_update(no_key=True).filter(build=build), pk=number)


def board_names(workshop: Workshop) -> list[Build]:
    """Engines on the board, with nothing but their names, those touched last first."""
    return list(Build.objects.filter(workshop=workshop, archived_at=None, practice=False).only("pk", "name", "workshop_id"))


def last_runs(workshop: Workshop, build: Build | None) -> list[RunEntry]:
    """What was entered last, of one engine or of all."""
    runs = RunEntry.objects.filter(build__workshop=workshop, build__archived_at=None)
    if build is not None:
        runs = runs.filter(build=build)
    return list(runs.select_related("build").order_by("-at")[:30])


def heights_noted(build: Build) -> list[tuple[datetime, str, str, float]]:
    """Installed heights as they were noted, oldest first: when, side, valve, height (m)."""
    places = {
        fit.pk: (fit.setup_side.side, fit.position.name)
        for fit in ValveFit.objects.filter(setup_side__setup__build=build, setup_side__setup__role="proposed").select_related(
            "position", "setup_side"
        )
    }
    lines = JournalEntry.objects.filter(build=build, verb="valve height", undone_by=None).order_by("at", "pk").values_list("at", "data")
    found = []
    for at, data in lines:
        for change in data:
            told = change.get("set", {}).get("height", [None, change.get("made", {}).get("height")])[1]
            if change.get("row") == "valvefit" and change.get("pk") in places and told is not None:
                found.append((at, *places[change["pk"]], float(told)))
    return found
