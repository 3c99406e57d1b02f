"""Gaps measured in an engine, over-revs it went through, and what was found after them."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.build import Build
from rocklash.records.models.engine import Position, choices_of, only_choices
from valvetrain.parts.gaps import GapKind, Way


class GapReading(models.Model):
    """One gap read on one valve, m and as typed. `angle` crank rad from overlap TDC; `rest` the piston gap at rest it came to then."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="gap_readings")
    position = models.ForeignKey(Position, on_delete=models.CASCADE, related_name="+")
    gap = models.CharField(max_length=24, choices=choices_of(GapKind))
    way = models.CharField(max_length=20, choices=choices_of(Way))
    value = models.FloatField()
    spread = models.FloatField()
    angle = models.FloatField(null=True, blank=True)
    rest = models.FloatField(null=True, blank=True)
    typed = models.CharField(max_length=80, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["position__side", "position__place", "gap", "angle", "pk"]
        indexes = [models.Index(fields=["build", "gap"])]
        constraints = only_choices("gap_reading", gap=GapKind, way=Way)

    def __str__(self) -> str:
        return f"{self.position}, {self.gap}"


class OverRevCase(models.Model):
    """An over-rev: from `before` (rev/s) by a change of gear ratio, from `road` speed (m/s) into a gear, or a logged `peak`; and the inspection after it."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="over_revs")
    before = models.FloatField(null=True, blank=True)
    gear_from = models.FloatField(null=True, blank=True)
    gear_to = models.FloatField(null=True, blank=True)
    road = models.FloatField(null=True, blank=True, help_text="m/s over the ground, in place of the speed before")
    peak = models.FloatField(null=True, blank=True)
    note = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    closed_at = models.DateTimeField(null=True, blank=True)
    closed_by = models.ForeignKey(User, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.build}, over-rev"


class InspectionFinding(models.Model):
    """What was found at one step of an inspection."""

    case = models.ForeignKey(OverRevCase, on_delete=models.CASCADE, related_name="findings")
    step = models.CharField(max_length=48)
    finding = models.CharField(max_length=16)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["case", "step"], name="one_finding_per_step")]

    def __str__(self) -> str:
        return f"{self.step}: {self.finding}"
