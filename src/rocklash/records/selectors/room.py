"""Read queries of gaps, over-revs and inspections."""

from django.shortcuts import get_object_or_404

from rocklash.records.models import Build, GapReading, OverRevCase


def gap_readings_of(build: Build) -> list[GapReading]:
    """Every gap read in a build, with who read it."""
    return list(GapReading.objects.select_related("position", "by").filter(build=build))


def over_revs_of(build: Build) -> list[OverRevCase]:
    """The over-revs of a build, newest first, with what was found."""
    return list(OverRevCase.objects.select_related("by", "closed_by").prefetch_related("findings").filter(build=build))


def over_rev_or_404(build: Build, number: int) -> OverRevCase:
    """One over-rev of the build."""
    return get_object_or_404(OverRevCase.objects.prefetch_related("findings").filter(build=build), pk=number)
