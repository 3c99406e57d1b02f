"""Mutations of the Goal station beside its plain figures."""

from django.db import transaction

from rocklash.records.models import Build, Membership
from rocklash.records.mutations import journal, require_change
from valvetrain.parts.engine import Use


@transaction.atomic
def set_use(member: Membership, build: Build, use: str) -> None:
    """Keep what the engine is for; an unknown word changes nothing."""
    require_change(member)
    if use in set(Use) and use != build.use:
        Build.objects.select_for_update().get(pk=build.pk)
        journal(member, "use", f"{build.name}: use", build.use, use)
        build.use = use
        build.save(update_fields=["use", "kept_at"])
