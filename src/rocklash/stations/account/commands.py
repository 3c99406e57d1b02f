"""Changes of people and workshops."""

import secrets
from datetime import timedelta
from typing import Any

from django.contrib.auth.tokens import default_token_generator
from django.contrib.sessions.models import Session
from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, transaction
from django.http import Http404
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.utils import timezone
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_decode, urlsafe_base64_encode
from django.utils.text import slugify
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from rocklash.commands.base import Command, Refused, number_of, require_owner
from rocklash.records.models import Invitation, Membership, Role, SignedIn, User, Workshop
from rocklash.records.selectors.members import may_reset

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


class NameTakenError(Exception):
    """Somebody took the name in the same moment."""


def new_person(name: str, password: str) -> User:
    """A person of this name. Raises NameTakenError."""
    try:
        with transaction.atomic():
            return User.objects.create_user(username=name, password=password)
    except IntegrityError as error:
        raise NameTakenError(f"“{name}” was taken just now. Add your initials.") from error


@transaction.atomic
def start_workshop(workshop_name: str, person_name: str, password: str) -> Membership:
    """Make a workshop with its first person, who owns it."""
    user = new_person(person_name, password)
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


class Withdraw(_OfPeople):
    """Withdraw an invitation. Owners only."""

    verb = "invitation withdrawn"

    def allow(self) -> None:
        """Owners invite, owners withdraw."""
        require_owner(self.member)

    def apply(self) -> None:
        """The one of `invitation`."""
        rows = Invitation.objects.select_for_update(no_key=True).filter(workshop=self.member.workshop, used_by=None)
        row = get_object_or_404(rows, pk=number_of(self.text("invitation")))
        self.note(f"a {row.role}")
        self.ledger.destroy(row)


class _OfMember(_OfPeople):
    """A command on somebody's place in the workshop; it is never left without an owner."""

    def allow(self) -> None:
        """Owners decide."""
        require_owner(self.member)

    def row(self) -> Membership:
        """The place of `person`; owners are locked with it, so that two of them cannot remove one another at once."""
        places = {
            row.pk: row
            for row in Membership.objects.select_for_update(no_key=True, of=("self",))
            .select_related("user")
            .filter(workshop=self.member.workshop)
            .order_by("pk")
        }
        found = places.get(number_of(self.text("person")))
        if found is None:
            raise Http404("No such member.")
        self.last = [row.pk for row in places.values() if row.role == Role.OWNER] == [found.pk]
        return found


class ChangeRole(_OfMember):
    """Change what a member may do."""

    verb = "role"

    def apply(self) -> None:
        """To the `role` sent."""
        row, role = self.row(), self.text("role")
        if role not in Role.values:
            raise Refused("A member is owner, builder or viewer: choose one.")
        if self.last and role != Role.OWNER:
            raise Refused("A workshop keeps an owner: make somebody else one first.")
        before = row.role
        if not self.changed("role", before):
            return
        self.ledger.set(row, role=role)
        self.note(str(row.user), before, role)


class Remove(_OfMember):
    """Remove a member: the next thing they ask for is refused. What they wrote stays under their name."""

    verb = "removed"

    def apply(self) -> None:
        """The one of `person`."""
        row = self.row()
        if self.last:
            raise Refused("A workshop keeps an owner: make somebody else one first.")
        self.note(str(row.user), row.role, "")
        self.ledger.destroy(row)


class MakeResetLink(_OfMember):
    """Make a link by which a member sets a new password, once, within a day. The link is what is made."""

    verb = "link for a new password"

    def apply(self) -> None:
        """Only for somebody whose every workshop is the owner's own: else it would open another's."""
        row = self.row()
        if not may_reset(self.member, row.user):
            raise Refused(f"{row.user} belongs to a workshop that is not yours: only an owner of all of them can do this.")
        uid = urlsafe_base64_encode(force_bytes(row.user_id))
        self.made = reverse("reset", args=[uid, default_token_generator.make_token(row.user)])
        self.ledger.changes.append({"row": "user", "pk": row.user_id})
        self.note(str(row.user))


def person_of_link(uid: str, token: str) -> User | None:
    """Whose new password a link sets, while it can still be used."""
    try:
        user = User.objects.get(pk=int(urlsafe_base64_decode(uid[:40]).decode("ascii")), is_active=True)
    except (ValueError, OverflowError, User.DoesNotExist):
        return None
    return user if default_token_generator.check_token(user, token[:200]) else None


@transaction.atomic
def set_password(user: User, password: str) -> None:
    """A new password: every session of theirs ends, but the one that asks is signed in again by its view."""
    user.set_password(password)
    user.save(update_fields=["password"])
    end_sessions(user)


def end_sessions(user: User, number: int | None = None, but: str = "") -> None:
    """End sessions of a person: one by its number, or all but that of a key."""
    rows = SignedIn.objects.filter(user=user).exclude(session_key=but)
    if number is not None:
        rows = rows.filter(pk=number)
    Session.objects.filter(session_key__in=list(rows.values_list("session_key", flat=True))).delete()
    rows.delete()


def note_session(user: User, key: str, agent: str) -> None:
    """Keep that a person signed in, by which browser."""
    SignedIn.objects.update_or_create(session_key=key, defaults={"user": user, "browser": browser_of(agent)})


_BROWSERS = (("Edg", "Edge"), ("Firefox", "Firefox"), ("Chrom", "Chromium or alike"), ("Safari", "Safari or alike"))
_SYSTEMS = (
    ("Android", "Android"),
    ("iPhone", "a phone"),
    ("iPad", "a tablet"),
    ("Windows", "Windows"),
    ("Mac OS", "a Mac"),
    ("Linux", "Linux"),
)


def browser_of(agent: str) -> str:
    """A browser in a few words; nothing by which a person is told from others."""
    browser = next((words for sign, words in _BROWSERS if sign in agent), "a browser")
    system = next((words for sign, words in _SYSTEMS if sign in agent), "")
    return f"{browser} on {system}" if system else browser


def set_email(user: User, email: str) -> None:
    """Keep where reminders go."""
    User.objects.filter(pk=user.pk).update(email=email)


@transaction.atomic
def begin_second(user: User) -> TOTPDevice:
    """A second factor not yet confirmed; one begun before is dropped."""
    TOTPDevice.objects.filter(user=user, confirmed=False).delete()
    return TOTPDevice.objects.create(user=user, name="app", confirmed=False)


@transaction.atomic
def confirm_second(user: User, code: str) -> list[str]:
    """Confirm it by a code of the app; ten codes for the day the app is lost, empty where the code was wrong."""
    device = TOTPDevice.objects.select_for_update(no_key=True).filter(user=user, confirmed=False).first()
    if device is None or not device.verify_token(code):
        return []
    TOTPDevice.objects.filter(user=user, confirmed=True).delete()
    device.confirmed = True
    device.save(update_fields=["confirmed"])
    StaticDevice.objects.filter(user=user).delete()
    kept = StaticDevice.objects.create(user=user, name="kept")
    codes = [StaticToken.random_token() for _ in range(10)]
    StaticToken.objects.bulk_create(StaticToken(device=kept, token=code) for code in codes)
    return codes


@transaction.atomic
def drop_second(user: User) -> None:
    """Go back to the password alone."""
    TOTPDevice.objects.filter(user=user).delete()
    StaticDevice.objects.filter(user=user).delete()


def has_second(user: User) -> bool:
    """Whether a code is asked for at the door."""
    return bool(TOTPDevice.objects.filter(user=user, confirmed=True).exists())


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
    return accept(invitation, new_person(name, password))


def set_units(user: User, system: str) -> None:
    """Keep how a person likes to read numbers."""
    if system in {"metric", "inch"}:
        User.objects.filter(pk=user.pk).update(unit_system=system)


def set_theme(user: User, theme: str) -> None:
    """Keep how a person likes to see screens; choosing the same again gives the choice back to the device."""
    if theme in {"auto", "light", "dark"}:
        User.objects.filter(pk=user.pk).update(theme="auto" if theme == user.theme else theme)


def set_reading(user: User, told: dict[str, Any]) -> None:
    """Keep how a person reads: units, light, paper, clock and keys, as the form read them."""
    User.objects.filter(pk=user.pk).update(**{name: told[name] for name in ("unit_system", "theme", "paper", "time_zone", "single_keys")})
