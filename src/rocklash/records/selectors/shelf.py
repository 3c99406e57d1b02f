"""Reads of the shelf."""

from django.db.models import Count, Q, QuerySet
from django.shortcuts import get_object_or_404

from rocklash.records.models import Individual, Part, PartPhoto, Workshop

_TEXTS = ("name", "number", "supplier", "claim", "note", "place", "individuals__name", "individuals__history")


def shelf_parts(workshop: Workshop, words: str = "", kind: str = "") -> QuerySet[Part]:
    """Parts of the shelf, of one kind where asked, that hold every word asked for somewhere."""
    found = Part.objects.filter(workshop=workshop, engine=None)
    if kind:
        found = found.filter(kind=kind)
    for word in words.split()[:8]:
        anywhere = Q()
        for name in _TEXTS:
            anywhere |= Q(**{f"{name}__icontains": word})
        found = found.filter(anywhere)
    return found.distinct() if words else found


def shelf_part_or_404(workshop: Workshop, number: int) -> Part:
    """One part of the shelf; another workshop's answers 404."""
    return get_object_or_404(Part.objects.filter(workshop=workshop, engine=None), pk=number)


def counts_by_kind(workshop: Workshop) -> dict[str, int]:
    """How many parts of each kind are on the shelf."""
    rows = Part.objects.filter(workshop=workshop, engine=None).values("kind").order_by("kind").annotate(count=Count("pk"))
    return {row["kind"]: row["count"] for row in rows}


def individuals_of(part: Part) -> list[Individual]:
    """The single used parts of a part."""
    return list(part.individuals.select_related("by"))


def pictures_of(part: Part) -> QuerySet[PartPhoto]:
    """The pictures of a part, without the pictures themselves."""
    return PartPhoto.objects.filter(part=part).defer("data")


def picture_or_404(workshop: Workshop, number: int) -> PartPhoto:
    """One picture of a part of a workshop."""
    return get_object_or_404(PartPhoto, part__workshop=workshop, pk=number)
