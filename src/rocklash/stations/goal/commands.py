"""Mutations of the Goal station beside its plain figures."""

from django.db import transaction

from rocklash.commands.base import journal, require_change
from rocklash.records.models import Build, Membership
from valvetrain.parts.engine import Use


@transaction.atomic
def set_use(member: Membership, build: Build, use: str, seen: str) -> str:
    """Keep what the engine is for; an unknown word changes nothing. Returns a sentence when somebody else was quicker."""
    require_change(member)
    now = Build.objects.select_for_update().get(pk=build.pk)
    if use not in set(Use) or use == now.use:
        return ""
    if seen != now.use:
        return f"Meanwhile this became {now.use.replace('_', ' ')}. Choose again if you still want another."
    journal(member, "use", f"{build.name}: use", now.use, use)
    now.use = use
    now.save(update_fields=["use", "updated_at"])
    return ""
