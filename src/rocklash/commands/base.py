"""What every mutation shares: the permission check and the journal line."""

from django.core.exceptions import PermissionDenied

from rocklash.records.models import JournalEntry, Membership, Role


def require_change(member: Membership) -> None:
    """Raise PermissionDenied with a sentence unless the member may change records."""
    if not member.may_change:
        raise PermissionDenied(f"You are a viewer in {member.workshop}: you can look at everything and change nothing. Ask its owner.")


def require_owner(member: Membership) -> None:
    """Raise PermissionDenied with a sentence unless the member owns the workshop."""
    if member.role != Role.OWNER:
        raise PermissionDenied(f"Only an owner of {member.workshop} can do this.")


def journal(member: Membership, what: str, about: str, before: str = "", after: str = "") -> None:
    """Write one journal line in the surrounding transaction."""
    JournalEntry.objects.create(
        workshop=member.workshop, by=member.user, what=what, about=about[:160], before=before[:160], after=after[:160]
    )
