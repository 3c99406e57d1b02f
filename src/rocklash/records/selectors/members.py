"""Read queries of people and workshops."""

from datetime import timedelta

from axes.models import AccessAttempt
from django.contrib.sessions.models import Session
from django.db.models import Q, QuerySet, Sum
from django.http import Http404
from django.utils import timezone

from rocklash.records.models import DoorTry, Invitation, JournalEntry, Membership, Role, SignedIn, User, Workshop
from rocklash.ui.names import likeness_of


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


def looks_taken(name: str) -> bool:
    """Whether somebody has this name, or one that looks like it."""
    return User.objects.filter(Q(likeness=likeness_of(name)) | Q(username__iexact=name)).exists()


def tries_for(name: str) -> int:
    """Wrong passwords for a name within the last hour, from wherever."""
    since = timezone.now() - timedelta(hours=1)
    return AccessAttempt.objects.filter(username=name[:255], attempt_time__gte=since).aggregate(all=Sum("failures_since_start"))["all"] or 0


def door_tries(address: str) -> int:
    """Workshops begun, or tried to be, from an address within the last hour."""
    return DoorTry.objects.filter(address=address, at__gte=timezone.now() - timedelta(hours=1)).count()


def note_door_try(address: str) -> None:
    """Note one, and forget those of yesterday."""
    DoorTry.objects.create(address=address)
    DoorTry.objects.filter(at__lt=timezone.now() - timedelta(days=1)).delete()


def open_invitations(workshop: Workshop) -> list[Invitation]:
    """Links that can still be used."""
    return list(
        Invitation.objects.filter(workshop=workshop, used_by=None, expires_at__gt=timezone.now())
        .select_related("created_by")
        .order_by("pk")
    )


def sessions_of(user: User) -> list[SignedIn]:
    """Where a person is signed in, the newest first; sessions that ended are dropped."""
    rows = list(SignedIn.objects.filter(user=user))
    alive = set(
        Session.objects.filter(session_key__in=[row.session_key for row in rows], expire_date__gt=timezone.now()).values_list(
            "session_key", flat=True
        )
    )
    SignedIn.objects.filter(user=user).exclude(session_key__in=alive).delete()
    return [row for row in rows if row.session_key in alive]


def may_reset(owner: Membership, person: User) -> bool:
    """Whether an owner may hand a person a link for a new password: only where every workshop of theirs is also that owner's own."""
    theirs = set(Membership.objects.filter(user=person).values_list("workshop_id", flat=True))
    own = set(Membership.objects.filter(user=owner.user, role=Role.OWNER).values_list("workshop_id", flat=True))
    return theirs <= own


def journal_page(workshop: Workshop, words: str, person: str) -> QuerySet[JournalEntry]:
    """Lines of the journal by words and by person, the newest first."""
    lines = JournalEntry.objects.filter(workshop=workshop).select_related("by", "build").defer("data")
    if person:
        lines = lines.filter(by__username=person)
    for word in words.split()[:6]:
        lines = lines.filter(Q(about__icontains=word) | Q(verb__icontains=word) | Q(after__icontains=word))
    return lines
