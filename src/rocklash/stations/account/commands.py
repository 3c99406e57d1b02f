"""Mutations of people and workshops."""

import secrets
from datetime import timedelta

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from rocklash.commands.base import journal, require_owner
from rocklash.records.models import Invitation, Membership, Role, User, Workshop

INVITATION_LIFE = timedelta(days=7)


def _free_slug(name: str) -> str:
    base = slugify(name)[:48] or "workshop"
    slug, number = base, 2
    while Workshop.objects.filter(slug=slug).exists():
        slug, number = f"{base}-{number}", number + 1
    return slug


@transaction.atomic
def start_workshop(workshop_name: str, person_name: str, password: str) -> Membership:
    """Make a workshop with its first person, who owns it."""
    user = User.objects.create_user(username=person_name, password=password)
    workshop = Workshop.objects.create(name=workshop_name, slug=_free_slug(workshop_name))
    member = Membership.objects.create(workshop=workshop, user=user, role=Role.OWNER)
    journal(member, "started workshop", workshop_name)
    return member


@transaction.atomic
def invite(member: Membership, role: str) -> Invitation:
    """Make a link that one person can use within a week. Owners only."""
    require_owner(member)
    invitation = Invitation.objects.create(
        workshop=member.workshop,
        token=secrets.token_urlsafe(32),
        role=Role(role),
        created_by=member.user,
        expires_at=timezone.now() + INVITATION_LIFE,
    )
    journal(member, "invited", f"a {role}")
    return invitation


def open_invitation(token: str) -> Invitation | None:
    """The invitation of a link, while it can still be used."""
    return Invitation.objects.select_related("workshop").filter(token=token, used_by=None, expires_at__gt=timezone.now()).first()


@transaction.atomic
def accept(invitation: Invitation, user: User) -> Membership:
    """Use an invitation up. A member who uses one keeps the role they have."""
    locked = Invitation.objects.select_for_update().get(pk=invitation.pk)
    if locked.used_by_id or locked.expires_at < timezone.now():
        raise PermissionDenied("This invitation was used or has run out. Ask the owner for a new link.")
    member, created = Membership.objects.get_or_create(workshop=locked.workshop, user=user, defaults={"role": locked.role})
    locked.used_by = user
    locked.save(update_fields=["used_by"])
    if created:
        journal(member, "joined", f"as {member.role}")
    return member


@transaction.atomic
def join_as_new(invitation: Invitation, name: str, password: str) -> Membership:
    """Make a person and let them use the invitation."""
    return accept(invitation, User.objects.create_user(username=name, password=password))


def set_units(user: User, system: str) -> None:
    """Keep how a person likes to read numbers."""
    if system in {"metric", "inch"}:
        User.objects.filter(pk=user.pk).update(unit_system=system)


def set_theme(user: User, theme: str) -> None:
    """Keep how a person likes to see screens; choosing the same again gives the choice back to the device."""
    if theme in {"auto", "light", "dark"}:
        User.objects.filter(pk=user.pk).update(theme="auto" if theme == user.theme else theme)
