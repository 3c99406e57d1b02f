"""Read queries of what an engine ran, and of everything that happened to it."""

from django.shortcuts import get_object_or_404

from rocklash.records.models import (
    Build,
    CareEntry,
    ClearanceSession,
    Finding,
    Job,
    JournalEntry,
    OverRevCase,
    ProofKind,
    ProofTest,
    RunEntry,
    ShopOrder,
    SpringLog,
)
from rocklash.records.selectors.builds import parts_that_fit

MOST = 2000


def runs_of(build: Build) -> list[RunEntry]:
    """What it ran, newest first."""
    return list(RunEntry.objects.filter(build=build).select_related("by")[:MOST])


def care_of(build: Build) -> list[CareEntry]:
    """What was due and done, newest first."""
    return list(CareEntry.objects.filter(build=build).select_related("by")[:MOST])


def metered_sheets(build: Build) -> list[ClearanceSession]:
    """Signed sheets, the newest first."""
    return list(
        ClearanceSession.objects.filter(build=build, signed_at__isnull=False).select_related("signed_by").order_by("-signed_at")[:MOST]
    )


def tests_kept(build: Build) -> list[ProofTest]:
    """Tests of Proof."""
    return list(
        ProofTest.objects.filter(build=build).exclude(found__has_key="pending").select_related("by").order_by("-made_on", "-at")[:MOST]
    )


def logs_of(build: Build) -> list[ProofTest]:
    """Runs whose file told time and engine speed."""
    runs = ProofTest.objects.filter(build=build, kind=ProofKind.RUN, file__columns__has_keys=["time", "rpm"])
    return list(runs.exclude(found__has_key="pending").order_by("-made_on", "-at")[:50])


def jobs_kept(build: Build) -> list[Job]:
    """Jobs, open and closed."""
    return list(Job.objects.filter(build=build).select_related("by").order_by("-begun_at")[:MOST])


def findings_kept(build: Build) -> list[Finding]:
    """Findings, open and settled."""
    return list(Finding.objects.filter(build=build).select_related("by", "position").order_by("-at")[:MOST])


def over_revs_kept(build: Build) -> list[OverRevCase]:
    """Over-revs."""
    return list(OverRevCase.objects.filter(build=build).select_related("by").order_by("-at")[:MOST])


def shop_visits(build: Build) -> list[ShopOrder]:
    """Visits to the machine shop."""
    return list(ShopOrder.objects.filter(build=build).select_related("by").order_by("-at")[:MOST])


def spring_tests(build: Build) -> list[SpringLog]:
    """Tester logs of springs that may be in this build."""
    springs = parts_that_fit(build).filter(kind="spring", engine=build.engine)
    return list(SpringLog.objects.filter(part__in=springs).select_related("part", "by").order_by("-at")[:MOST])


def journal_lines(build: Build) -> list[JournalEntry]:
    """Lines of the journal, the newest first."""
    return list(JournalEntry.objects.filter(build=build).defer("data").select_related("by").order_by("-at", "-pk")[:MOST])


def entry_or_404(build: Build, kind: str, number: int) -> RunEntry | CareEntry:
    """An entry of a build, locked."""
    if kind == "care":
        return get_object_or_404(CareEntry.objects.select_for_update(no_key=True).filter(build=build), pk=number)
    return get_object_or_404(RunEntry.objects.select_for_update(no_key=True).filter(build=build), pk=number)
