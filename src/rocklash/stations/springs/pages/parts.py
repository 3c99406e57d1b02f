"""A new part for a slot, as its page shows it."""

from dataclasses import dataclass

from django.urls import reverse

from rocklash.answers.rows import side_rows
from rocklash.desk.sharing import sharing_of
from rocklash.desk.words import SLOT_WORDS
from rocklash.records.models import Build, Part, SetupRole
from valvetrain.parts.engine import Side


@dataclass(frozen=True, kw_only=True)
class NewPartPage:
    """The place, what is in it now, and who else has that."""

    slot: str
    label: str
    side: str
    row: int
    seen: str
    now: str
    shared: str
    back: str


def new_part_page(build: Build, side: Side, slot: str) -> NewPartPage:
    """View-model of the page."""
    row = side_rows(build)[SetupRole.PROPOSED, side.value]
    part: Part | None = getattr(row, slot)
    return NewPartPage(
        slot=slot,
        label=SLOT_WORDS[slot],
        side=side.value,
        row=row.pk,
        seen=str(part.pk) if part else "",
        now=part.name if part else "",
        shared=sharing_of(build, [part])[part.pk] if part else "",
        back=f"{reverse('springs', args=[build.workshop.slug, build.pk])}?side={side}",
    )
