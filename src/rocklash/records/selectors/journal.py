"""Read queries of the journal and of the histories of figures."""

from django.db import models

from rocklash.records.models import Build, Engine, FigureChange, HolderKind, JournalEntry, Membership, Part, SetupSide

HOLDERS: dict[type[models.Model], HolderKind] = {
    Engine: HolderKind.ENGINE,
    Build: HolderKind.GOAL,
    Part: HolderKind.PART,
    SetupSide: HolderKind.FIT,
}
_SHOWN = 20


def figure_changes(row: Engine | Build | Part | SetupSide, key: str) -> list[FigureChange]:
    """The last changes of one figure, newest first."""
    mine = FigureChange.objects.select_related("by").filter(holder=HOLDERS[type(row)], owner_id=row.pk, key=key)
    return list(mine[:_SHOWN])


def last_of_ones_own(member: Membership, build: Build) -> JournalEntry | None:
    """The last command of a person on a build that was neither an undo nor undone."""
    lines = JournalEntry.objects.filter(build=build, by=member.user, undone_by=None).exclude(verb="undo")
    return lines.defer("data").first()
