"""Engines, their valve positions, and parts with the figures known of them.

A `figures` column maps catalogue keys to {"value": SI, "spread": SI, "basis": str, "typed": str, "unit": str,
"by": str, "at": ISO time}; the bridge is its only writer and reader.
"""

from django.db import models

from rocklash.records.models.account import User, Workshop

SIDES = [("intake", "intake"), ("exhaust", "exhaust")]


class Engine(models.Model):
    """An engine: make-up and figures. Choices of make-up are the core's; the bridge checks that they fit."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="engines")
    name = models.CharField(max_length=60)
    description = models.CharField(max_length=140, blank=True)
    cylinders = models.PositiveSmallIntegerField()
    valves_per_side = models.PositiveSmallIntegerField(default=2)
    gear = models.CharField(max_length=12)
    follower = models.CharField(max_length=12)
    adjuster = models.CharField(max_length=16)
    figures = models.JSONField(default=dict, blank=True)
    facts = models.JSONField(default=dict, blank=True, help_text="words of the catalogue: what the rods are of")

    def __str__(self) -> str:
        return self.name


class Position(models.Model):
    """Where one valve sits; `place` orders the valves of a side from bow or left."""

    engine = models.ForeignKey(Engine, on_delete=models.CASCADE, related_name="positions")
    name = models.CharField(max_length=24)
    side = models.CharField(max_length=8, choices=SIDES)
    cylinder = models.PositiveSmallIntegerField()
    place = models.PositiveSmallIntegerField()
    deviation = models.FloatField(default=0.0, help_text="m, spring stands higher than the side's figure")

    class Meta:
        ordering = ["side", "place"]
        constraints = [models.UniqueConstraint(fields=["engine", "name"], name="one_name_per_valve_of_an_engine")]

    def __str__(self) -> str:
        return self.name


class Part(models.Model):
    """A part on the shop's shelf or in an engine, with what is known of it."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="parts")
    engine = models.ForeignKey(Engine, null=True, blank=True, on_delete=models.CASCADE, related_name="parts")
    kind = models.CharField(max_length=12)
    name = models.CharField(max_length=80)
    side = models.CharField(max_length=8, blank=True, choices=SIDES)
    stock = models.BooleanField(default=False, help_text="came with the engine")
    claim = models.CharField(max_length=80, blank=True, help_text="what the packet says")
    figures = models.JSONField(default=dict, blank=True)
    facts = models.JSONField(default=dict, blank=True, help_text="words of the catalogue: where lifts are told, which face rides")
    lobe = models.JSONField(null=True, blank=True, help_text="a cam point by point, in the form of a lobe file")

    class Meta:
        ordering = ["kind", "-stock", "name"]

    def __str__(self) -> str:
        return self.name


class CamLog(models.Model):
    """A degree-wheel log of a cam, as it was given, with what the fit found. Lengths in m, `acceleration` m per rad^2 of cam."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="logs")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    text = models.TextField()
    crank = models.BooleanField(default=True, help_text="angles are the crankshaft's")
    system = models.CharField(max_length=8, default="metric", help_text="unit system of bare numbers")
    readings = models.PositiveIntegerField()
    dropped = models.PositiveIntegerField()
    noise = models.FloatField()
    acceleration = models.FloatField()
    acceleration_spread = models.FloatField()
    coarse = models.BooleanField()
    mirrored = models.BooleanField(default=False, help_text="one flank was logged")
    tilt = models.FloatField(default=0.0, help_text="rad, indicator off the valve's axis, taken out")

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.part}, {self.readings} readings"


class WheelRun(models.Model):
    """A pass of the simulated degree wheel over a cam: readings arrive at `pace` a second from `begun_at`. Its hidden cam is the seed's."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="wheel_runs")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    begun_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    seed = models.PositiveIntegerField()
    pace = models.FloatField(default=25.0)

    class Meta:
        ordering = ["-begun_at"]

    def __str__(self) -> str:
        return f"{self.part}, pass {self.pk}"
