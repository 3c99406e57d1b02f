"""Read queries of gaps, over-revs and inspections."""

from rocklash.records.models import Build, GapReading, OverRevCase


def gap_readings_of(build: Build) -> list[GapReading]:
    """Every gap read in a build, with who read it."""
    return list(GapReading.objects.select_related("position", "by").filter(build=build))


def over_revs_of(build: Build) -> list[OverRevCase]:
    """The over-revs of a build, newest first, with what was found."""
    return list(OverRevCase.objects.select_related("by", "closed_by").prefetch_related("findings").filter(build=build))
