"""Read queries of people and workshops."""

from django.db.models import QuerySet
from django.http import Http404

from rocklash.records.models import JournalEntry, Membership, User, Workshop


def membership_or_404(user: User, slug: str) -> Membership:
    """The person's membership in the workshop of that address; a stranger gets 404, as if it did not exist."""
    found = Membership.objects.select_related("workshop").filter(user=user, workshop__slug=slug).first()
    if found is None:
        raise Http404("No such workshop here.")
    found.user = user
    return found


def memberships_of(user: User) -> QuerySet[Membership]:
    """The workshops a person belongs to, oldest first."""
    return Membership.objects.select_related("workshop").filter(user=user).order_by("pk")


def members_of(workshop: Workshop) -> QuerySet[Membership]:
    """The people of a workshop."""
    return Membership.objects.select_related("user").filter(workshop=workshop).order_by("pk")


def last_entries(workshop: Workshop, count: int = 12) -> QuerySet[JournalEntry]:
    """The newest journal lines."""
    return JournalEntry.objects.select_related("by").filter(workshop=workshop)[:count]
