"""Clearance sessions: what was read at each valve, as typed and in SI, before and after the change."""

from dataclasses import dataclass, field

from django.db import models
from django.utils.functional import cached_property

from rocklash.records.models.account import User, Workshop
from rocklash.records.models.build import Build
from rocklash.records.models.engine import Position


class ClearanceSession(models.Model):
    """One round of setting clearances, from the first reading to the signature."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="clearance_sessions")
    started_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    started_at = models.DateTimeField(auto_now_add=True)
    method = models.CharField(max_length=8, default="go_no_go", choices=[("go_no_go", "go / no-go"), ("blade", "best blade")])
    feel = models.FloatField(
        null=True, blank=True, help_text="what one blade by feel leaves open, m, of the hand that began it; empty for the trade's"
    )
    aim = models.CharField(max_length=12, default="middle", choices=[("middle", "middle"), ("loose end", "loose end"), ("own", "own")])
    aims = models.JSONField(default=dict, blank=True, help_text="own aims by side, m, in place of `aim`")
    reason = models.CharField(max_length=200, blank=True, help_text="why this aim")
    hours = models.FloatField(null=True, blank=True, help_text="engine hours")
    temperature = models.FloatField(null=True, blank=True, help_text="of the engine when read, K")
    seed = models.PositiveIntegerField(default=0, help_text="hidden engine of the simulated feeler")
    rechecking = models.BooleanField(default=False)
    note = models.TextField(blank=True)
    signed_by = models.ForeignKey(User, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    signed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-started_at"]

    def __str__(self) -> str:
        return f"Clearances of {self.build}, {self.started_at:%Y-%m-%d}"

    @cached_property
    def planned(self) -> "dict[int, PlannedShim]":
        """What the plan gave each valve when the re-check began, by position."""
        return {row.position_id: row for row in self.planned_shims.all()}

    @cached_property
    def pins(self) -> "dict[int, Pins]":
        """What was asked of the plan at single valves, by position."""
        found: dict[int, Pins] = {}
        for row in self.shim_pins.all():
            found.setdefault(row.position_id, Pins()).add(row)
        return found


@dataclass
class Pins:
    """The pins of one valve: its shim stays, only one may go in, or some never."""

    stays: bool = False
    only: str = ""
    never: list[str] = field(default_factory=list)

    def add(self, row: "ShimPin") -> None:
        """One more."""
        if row.kind == PinKind.STAYS:
            self.stays = True
        elif row.kind == PinKind.ONLY:
            self.only = row.key
        else:
            self.never.append(row.key)


class PinKind(models.TextChoices):
    """What a pin says of a shim at a valve."""

    STAYS = "stays", "stays as it is"
    ONLY = "only", "only this one"
    NEVER = "never", "never this one"


class ShimPin(models.Model):
    """What a person asks of the shim plan at one valve; `key` names the shim, empty where it stays."""

    session = models.ForeignKey(ClearanceSession, on_delete=models.CASCADE, related_name="shim_pins")
    position = models.ForeignKey(Position, on_delete=models.CASCADE, related_name="+")
    kind = models.CharField(max_length=8, choices=PinKind.choices)
    key = models.CharField(max_length=80, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["session", "position", "kind", "key"], name="one_pin_of_a_kind_and_shim")]

    def __str__(self) -> str:
        return f"{self.position}: {self.kind} {self.key}".strip()


class PlannedShim(models.Model):
    """What the shim plan gave one valve, m, kept when the re-check began: the shelf may change meanwhile, the promise does not."""

    session = models.ForeignKey(ClearanceSession, on_delete=models.CASCADE, related_name="planned_shims")
    position = models.ForeignKey(Position, on_delete=models.CASCADE, related_name="+")
    size = models.FloatField()
    key = models.CharField(max_length=80, blank=True)
    source = models.CharField(max_length=16)
    low = models.FloatField(help_text="least clearance it should leave")
    high = models.FloatField(help_text="greatest clearance it should leave")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["session", "position"], name="one_planned_shim_per_valve")]

    def __str__(self) -> str:
        return f"{self.position}: {self.size * 1e3:.3f}"


class ShimSource(models.TextChoices):
    """How the thickness of a shim is known: a label is a fall-back."""

    MICROMETER = "micrometer", "micrometer"
    LABEL = "label", "label"


class Reading(models.Model):
    """One valve in one session, in SI (m) and as typed. `recheck` marks the reading after the change.

    `revision` counts changes, so that two people on one sheet notice one another.
    """

    session = models.ForeignKey(ClearanceSession, on_delete=models.CASCADE, related_name="readings")
    position = models.ForeignKey(Position, on_delete=models.PROTECT, related_name="readings")
    recheck = models.BooleanField(default=False)
    goes = models.FloatField()
    goes_typed = models.CharField(max_length=40)
    stops = models.FloatField()
    stops_typed = models.CharField(max_length=40, blank=True)
    shim = models.FloatField(null=True, blank=True)
    shim_typed = models.CharField(max_length=40, blank=True)
    shim_source = models.CharField(max_length=12, blank=True, choices=ShimSource.choices)
    label = models.FloatField(null=True, blank=True, help_text="size printed on the shim, m")
    label_typed = models.CharField(max_length=40, blank=True)
    renewed = models.BooleanField(default=False, help_text="a new valve went in before this reading")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now=True)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["session", "position", "recheck"], name="one_reading_per_valve_and_round")]

    def __str__(self) -> str:
        return f"{self.position}: {self.goes_typed} to {self.stops_typed}"


class ShimStock(models.Model):
    """Shims of one size on the shop's shelf; `size` m as measured or, with `measured` off, as printed."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="shims")
    size = models.FloatField()
    shape = models.CharField(max_length=40, blank=True, help_text="9.5 mm round, lash cap 5.5 mm ...")
    count = models.PositiveIntegerField(default=0)
    measured = models.BooleanField(default=True)
    place = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ["shape", "size"]
        constraints = [models.UniqueConstraint(fields=["workshop", "shape", "size", "measured"], name="one_row_per_shim")]

    def __str__(self) -> str:
        return f"{self.size * 1e3:.3f} {self.shape}".strip()


class ShimMove(models.Model):
    """Shims that came to the shelf or left it."""

    stock = models.ForeignKey(ShimStock, on_delete=models.CASCADE, related_name="moves")
    session = models.ForeignKey(ClearanceSession, null=True, blank=True, on_delete=models.SET_NULL, related_name="shim_moves")
    change = models.IntegerField()
    why = models.CharField(max_length=120, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.stock}: {self.change:+d}"
