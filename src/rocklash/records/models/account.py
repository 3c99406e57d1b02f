"""People, workshops, and who may do what in which."""

from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import models

from rocklash.ui.names import likeness_of


class User(AbstractUser):
    """A person who signs in, with how they like to read numbers and screens."""

    unit_system = models.CharField(max_length=8, default="metric", choices=[("metric", "mm N"), ("inch", "in lbf")])
    likeness = models.CharField(max_length=150, unique=True, null=True, help_text="the name without what eyes cannot tell apart")  # noqa: DJ001  (null until it is told)
    paper = models.CharField(
        max_length=6, default="A4", choices=[("A4", "A4"), ("letter", "letter")], help_text="what papers are printed on"
    )
    time_zone = models.CharField(max_length=60, default="", blank=True, help_text="empty: that of the device")
    single_keys = models.BooleanField(default=True, help_text="single letters do something on the bench")
    theme = models.CharField(max_length=8, default="auto", choices=[("auto", "as the device"), ("light", "light"), ("dark", "dark")])

    def save(self, *args: Any, **options: Any) -> None:
        """Two names that look alike are one name: the database refuses the second."""
        self.likeness = likeness_of(self.username)
        if "update_fields" in options and options["update_fields"] is not None and "username" in options["update_fields"]:
            options["update_fields"] = {*options["update_fields"], "likeness"}
        super().save(*args, **options)


class SignedIn(models.Model):
    """A session of a person, so that they can see where they are signed in and end it elsewhere."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="signed_in")
    session_key = models.CharField(max_length=40, unique=True)
    browser = models.CharField(max_length=80, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    seen_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-seen_at", "-pk"]

    def __str__(self) -> str:
        return self.browser or "a browser"


class DoorTry(models.Model):
    """Somebody began a workshop, or tried to: so many an hour from one address, and no more."""

    address = models.CharField(max_length=60, db_index=True)
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.address


class Workshop(models.Model):
    """A shop. Everything kept belongs to exactly one."""

    name = models.CharField(max_length=80)
    slug = models.SlugField(max_length=60, unique=True)
    schools = models.JSONField(default=dict, blank=True, help_text="school -> way, of jobs begun here")
    day_hours = models.FloatField(default=6.0, help_text="hours of work in a working day")
    hour_price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True, help_text="what an hour of work costs")
    own = models.JSONField(default=dict, blank=True, help_text="what its own engines taught: by figure, used or not, and the results")
    rev_tests = models.JSONField(
        default=dict, blank=True, help_text="the planner's tables as this workshop has them, by test: minutes, money, rows"
    )
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


class AccessKind(models.TextChoices):
    """What a key without a person opens: the calendar of what is due, or the read-only records."""

    CALENDAR = "calendar", "calendar"
    API = "api", "records, read only"


class AccessKey(models.Model):
    """A secret that opens a workshop's feed to a machine. Only its fingerprint is kept: it is shown once."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="access_keys")
    kind = models.CharField(max_length=8, choices=AccessKind.choices)
    name = models.CharField(max_length=60)
    digest = models.CharField(max_length=64, unique=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    used_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["at", "pk"]

    def __str__(self) -> str:
        return self.name


class Role(models.TextChoices):
    """What a member may do: owners also invite, viewers only look."""

    OWNER = "owner", "owner"
    BUILDER = "builder", "builder"
    VIEWER = "viewer", "viewer"


class Membership(models.Model):
    """A person's place in a workshop."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="memberships")
    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=8, choices=Role.choices)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workshop", "user"], name="one_membership_per_person_and_workshop")]

    def __str__(self) -> str:
        return f"{self.user} in {self.workshop} as {self.role}"

    @property
    def may_change(self) -> bool:
        """Whether this member may change records."""
        return self.role in {Role.OWNER, Role.BUILDER}


class Invitation(models.Model):
    """A link that lets one person join a workshop."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="invitations")
    token = models.CharField(max_length=64, unique=True)
    role = models.CharField(max_length=8, choices=Role.choices, default=Role.BUILDER)
    created_by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    expires_at = models.DateTimeField()
    used_by = models.ForeignKey(User, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")

    def __str__(self) -> str:
        return f"{self.role} of {self.workshop}"
