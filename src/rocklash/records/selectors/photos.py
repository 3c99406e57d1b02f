"""Reads of photographs, without the pictures themselves."""

from django.db.models import QuerySet

from rocklash.records.models import Build, Photo


def photos_of(build: Build) -> QuerySet[Photo]:
    """The photographs of a build's engine, oldest first."""
    return Photo.objects.filter(engine=build.engine_id).defer("data").select_related("by")
