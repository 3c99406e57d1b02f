"""Clearance sessions: what was read at each valve, as typed and in SI, before and after the change."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.build import Build
from rocklash.records.models.engine import Position


class ClearanceSession(models.Model):
    """One round of setting clearances, from the first reading to the signature."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="clearance_sessions")
    started_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    started_at = models.DateTimeField(auto_now_add=True)
    method = models.CharField(max_length=8, default="go_no_go", choices=[("go_no_go", "go / no-go"), ("blade", "best blade")])
    aim = models.CharField(max_length=12, default="middle", choices=[("middle", "middle"), ("loose end", "loose end")])
    rechecking = models.BooleanField(default=False)
    note = models.TextField(blank=True)
    signed_by = models.ForeignKey(User, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    signed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-started_at"]

    def __str__(self) -> str:
        return f"Clearances of {self.build}, {self.started_at:%Y-%m-%d}"


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
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now=True)
    revision = models.PositiveIntegerField(default=1)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["session", "position", "recheck"], name="one_reading_per_valve_and_round")]

    def __str__(self) -> str:
        return f"{self.position}: {self.goes_typed} to {self.stops_typed}"
