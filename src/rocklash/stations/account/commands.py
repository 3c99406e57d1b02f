"""Changes of people and workshops."""

import secrets
from datetime import timedelta

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.utils import timezone
from django.utils.text import slugify

from rocklash.commands.base import Command, require_owner
from rocklash.records.models import Invitation, Membership, Role, User, Workshop

INVITATION_LIFE = timedelta(days=7)


def _free_slug(name: str) -> str:
    base = slugify(name)[:48] or "workshop"
    slug, number = base, 2
    while Workshop.objects.filter(slug=slug).exists():
        slug, number = f"{base}-{number}", number + 1
    return slug


class _OfPeople(Command):
    """A command on people: it is not undone from a bench."""

    reversible = judged = False


class StartWorkshop(_OfPeople):
    """Note the workshop that the member has just started."""

    verb = "started workshop"

    def apply(self) -> None:
        """The workshop's rows stand already: nobody is a member before them."""
        self.ledger.made([self.member])
        self.note(str(self.member.workshop))


@transaction.atomic
def start_workshop(workshop_name: str, person_name: str, password: str) -> Membership:
    """Make a workshop with its first person, who owns it."""
    user = User.objects.create_user(username=person_name, password=password)
    workshop = Workshop.objects.create(name=workshop_name, slug=_free_slug(workshop_name))
    member = Membership.objects.create(workshop=workshop, user=user, role=Role.OWNER)
    StartWorkshop(member).run()
    return member


class Invite(_OfPeople):
    """Make a link that one person can use within a week. Owners only."""

    verb = "invited"

    def allow(self) -> None:
        """Owners invite."""
        require_owner(self.member)

    def apply(self) -> None:
        """The invitation, of the `role` sent, is what is made."""
        role = Role(self.text("role"))
        self.made = self.ledger.make(
            Invitation,
            workshop=self.member.workshop,
            token=secrets.token_urlsafe(32),
            role=role,
            created_by=self.member.user,
            expires_at=timezone.now() + INVITATION_LIFE,
        )
        self.note(f"a {role}")


def open_invitation(token: str) -> Invitation | None:
    """The invitation of a link, while it can still be used."""
    return Invitation.objects.select_related("workshop").filter(token=token, used_by=None, expires_at__gt=timezone.now()).first()


class Join(_OfPeople):
    """Note that the member has joined; the target is the invitation used up."""

    verb = "joined"

    def allow(self) -> None:
        """The invitation allows it, to a viewer too."""

    def apply(self) -> None:
        """Used once it is used up."""
        self.ledger.set(self.target, used_by=self.member.user)
        self.note(f"as {self.member.role}")


@transaction.atomic
def accept(invitation: Invitation, user: User) -> Membership:
    """Use an invitation up. A member who uses one keeps the role they have."""
    locked = Invitation.objects.select_for_update(no_key=True).get(pk=invitation.pk)
    if locked.used_by_id or locked.expires_at < timezone.now():
        raise PermissionDenied("This invitation was used or has run out. Ask the owner for a new link.")
    member, _ = Membership.objects.get_or_create(workshop=locked.workshop, user=user, defaults={"role": locked.role})
    Join(member, target=locked).run()
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
