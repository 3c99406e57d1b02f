"""Choosing parts for a set-up."""

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.answers.results import answer_for
from rocklash.answers.rows import PART_OWNERS
from rocklash.commands.base import journal, require_change
from rocklash.records.models import Build, Membership, SetupRole, SetupSide
from rocklash.records.selectors.builds import build_or_404, parts_that_fit
from valvetrain.units import UnitSystem, told


def choose_part(member: Membership, build: Build, row_number: str, slot: str, part_number: str, seen: str) -> str:
    """Put a part into a slot of a proposed side; returns a sentence when it was not done, else an empty text.

    `seen` is the part number the person saw there. The stock set-up is history and takes no other parts.
    """
    require_change(member)
    if slot not in PART_OWNERS:
        return "There is no such place for a part."
    with transaction.atomic():
        rows = (
            SetupSide.objects.select_for_update(of=("self",))
            .select_related("setup")
            .filter(setup__build=build, setup__role=SetupRole.PROPOSED)
        )
        row = get_object_or_404(rows, pk=int(row_number) if row_number.isdigit() else -1)
        now = getattr(row, slot)
        if part_number == (str(now.pk) if now else ""):
            return ""
        if seen != (str(now.pk) if now else ""):
            return f"Meanwhile this became {now or 'none'}. Choose again if you still want another."
        if part_number == "" and slot in ("inner_spring", "low_cam"):
            part = None
        else:
            fitting = parts_that_fit(build).filter(kind=PART_OWNERS[slot].value)
            part = get_object_or_404(fitting, pk=int(part_number) if part_number.isdigit() else -1)
        setattr(row, slot, part)
        row.save(update_fields=[slot])
        journal(member, "part", f"{build.name}: proposed {row.side}, {slot.replace('_', ' ')}", str(now or "none"), str(part or "none"))
        Build.objects.filter(pk=build.pk).update(updated_at=timezone.now())
        trouble = answer_for(build_or_404(member.workshop, build.pk)).contradiction
        if trouble:
            transaction.set_rollback(True)
            return f"{told(trouble, UnitSystem(member.user.unit_system))} The part was not changed."
    return ""
