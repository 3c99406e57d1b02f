"""Read queries of tests, forecasts and of the pairs a hand left on its sheets."""

import zlib
from dataclasses import dataclass

from django.db.models import Count, Q, QuerySet
from django.shortcuts import get_object_or_404

from rocklash.records.models import (
    Build,
    Forecast,
    Part,
    PlannedShim,
    ProofFile,
    ProofKind,
    ProofTest,
    Reading,
    ShimSource,
    SpringLog,
    Workshop,
)

_MOST_PAIRS = 400
PENDING = "pending"  # in what was found of a file: the name of the work under way


def tests_of(build: Build, *kinds: ProofKind) -> list[ProofTest]:
    """Tests of a build, all or of some kinds, oldest first; without their files, and without those whose file is still being worked out."""
    rows: QuerySet[ProofTest] = ProofTest.objects.filter(build=build).exclude(found__has_key=PENDING).select_related("by")
    return list(rows.filter(kind__in=kinds) if kinds else rows)


def pending_of(build: Build, *kinds: ProofKind) -> list[ProofTest]:
    """Tests whose file is being worked out: they tell nothing yet."""
    return list(ProofTest.objects.filter(build=build, kind__in=kinds, found__has_key=PENDING))


def any_test_or_404(build: Build, number: int) -> ProofTest:
    """One test of a build, also one whose file is still being worked out."""
    return get_object_or_404(ProofTest.objects.filter(build=build), pk=number)


def test_or_404(build: Build, number: int, *kinds: ProofKind) -> ProofTest:
    """One test of a build that tells something."""
    rows = ProofTest.objects.filter(build=build).exclude(found__has_key=PENDING)
    return get_object_or_404(rows.filter(kind__in=kinds) if kinds else rows, pk=number)


def file_of(test: ProofTest) -> ProofFile | None:
    """The file it came as."""
    return ProofFile.objects.filter(test=test).first()


def unpacked(file: ProofFile) -> bytes:
    """The file as it came."""
    return zlib.decompress(bytes(file.data))


def forecasts_of(build: Build) -> list[Forecast]:
    """What was foretold for a build, newest first."""
    return list(Forecast.objects.filter(build=build).select_related("test"))


def told_forecasts(workshop: Workshop) -> list[Forecast]:
    """Every forecast of a workshop that has a result; practice copies do not count."""
    return list(Forecast.objects.filter(build__workshop=workshop, build__practice=False, result__isnull=False).select_related("build"))


@dataclass(frozen=True, kw_only=True)
class HandPair:
    """One shim that was fitted: its promise with the ends of its band and its re-check (m), valve, who read last, whether somebody else had read first, and whether the old
    shim was known by its label only."""

    promised: float
    low: float
    high: float
    read: float
    valve: str
    by: int | None
    other_hand: bool
    by_label: bool


def hand_pairs(workshop: Workshop, by: int | None = None) -> list[HandPair]:
    """Promise and re-check of every changed valve on signed sheets, newest last, a few hundred at most; of one person where told. Practice copies do
    not count."""
    mine = {"session__build__workshop": workshop, "session__build__practice": False, "session__signed_at__isnull": False}
    plans = PlannedShim.objects.filter(**mine).select_related("position").order_by("-session__signed_at", "pk")[:_MOST_PAIRS]
    readings = {
        (row.session_id, row.position_id, row.recheck): row
        for row in Reading.objects.filter(session__in={plan.session_id for plan in plans})
    }  # fmt: skip
    found = []
    for plan in reversed(plans):
        first, last = (readings.get((plan.session_id, plan.position_id, again)) for again in (False, True))
        if first is None or last is None or (by is not None and last.by_id != by):
            continue
        found.append(
            HandPair(
                promised=(plan.low + plan.high) / 2.0, low=plan.low, high=plan.high, read=(last.goes + last.stops) / 2.0, valve=plan.position.name, by=last.by_id,
                other_hand=first.by_id != last.by_id, by_label=first.shim_source == ShimSource.LABEL,
            )
        )  # fmt: skip
    return found


def telling_builds(workshop: Workshop, most: int) -> list[int]:
    """Builds that may teach something of the figures the workshop learns about: seen to give up, or with two sheets that carry hours; newest first."""
    sheets = Count("clearance_sessions", filter=Q(clearance_sessions__hours__isnull=False), distinct=True)
    seen = Count("observations", filter=Q(observations__in_use=True), distinct=True)
    found = (
        Build.objects.filter(workshop=workshop, practice=False, deleted_at=None)
        .annotate(sheets=sheets, seen=seen)
        .filter(Q(sheets__gt=1) | Q(seen__gt=0))
    )
    return list(found.order_by("-pk").values_list("pk", flat=True)[:most])


def spring_pairs(workshop: Workshop) -> list[tuple[Part, SpringLog, SpringLog]]:
    """Springs of a workshop that were tested new and again after they had run: the newest log of each; parts of practice copies left out."""
    logs = (
        SpringLog.objects.filter(part__workshop=workshop)
        .exclude(part__engine__builds__practice=True)
        .select_related("part")
        .order_by("at", "pk")
    )
    found: dict[int, dict[bool, SpringLog]] = {}
    for log in logs:
        found.setdefault(log.part_id, {})[log.used] = log
    return [(both[True].part, both[False], both[True]) for both in found.values() if len(both) == 2]


def people_of(workshop: Workshop) -> list[tuple[int, str]]:
    """Number and name of everybody in a workshop."""
    return [(row.user_id, row.user.get_username()) for row in workshop.memberships.select_related("user").order_by("pk")]
