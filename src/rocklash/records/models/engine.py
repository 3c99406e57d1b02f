"""Engines, their valve positions, and parts with the figures known of them.

A `figures` column maps catalogue keys to {"value": SI, "spread": SI, "basis": str, "typed": str, "unit": str,
"by": str, "at": ISO time}: records/figure_column.py holds its form.
"""

from collections.abc import Iterable
from enum import StrEnum

from django.db import models

from rocklash.records.models.account import User, Workshop
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, Follower, Gear

SIDES = [("intake", "intake"), ("exhaust", "exhaust")]
PART_KINDS = tuple(owner for owner in Owner if owner not in (Owner.ENGINE, Owner.GOAL, Owner.FIT))


def choices_of(words: Iterable[StrEnum]) -> list[tuple[str, str]]:
    """Choices of a column from an enumeration of the core."""
    return [(word.value, word.value.replace("_", " ")) for word in words]


def only_choices(name: str, **columns: Iterable[StrEnum]) -> list[models.BaseConstraint]:
    """Constraints that keep each column to the words of its enumeration."""
    return [
        models.CheckConstraint(condition=models.Q(**{f"{column}__in": [word.value for word in words]}), name=f"{name}_{column}_is_known")
        for column, words in columns.items()
    ]


class Engine(models.Model):
    """An engine: make-up and figures. Choices of make-up are the core's; which fit together is checked where one is begun."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="engines")
    name = models.CharField(max_length=60)
    description = models.CharField(max_length=140, blank=True)
    cylinders = models.PositiveSmallIntegerField()
    valves_per_side = models.PositiveSmallIntegerField(default=2)
    gear = models.CharField(max_length=12, choices=choices_of(Gear))
    follower = models.CharField(max_length=12, choices=choices_of(Follower))
    adjuster = models.CharField(max_length=16, choices=choices_of(Adjuster))
    figures = models.JSONField(default=dict, blank=True)
    facts = models.JSONField(default=dict, blank=True, help_text="words of the catalogue: what the rods are of")
    firing_order = models.CharField(max_length=60, blank=True, help_text="1-3-4-2, or 1@0 2@180; empty for the usual one")
    clearance_note = models.CharField(max_length=300, blank=True, help_text="what the manual says of measuring clearances")
    serial = models.CharField(max_length=60, blank=True, help_text="number on the engine")
    owner = models.CharField(max_length=120, blank=True, help_text="whose engine it is; stays in the workshop, goes into no file")
    manual = models.CharField(max_length=120, blank=True, help_text="which manual the maker's figures are from")
    shim_shape = models.CharField(max_length=40, blank=True, help_text="of the shims it takes: 9.5 mm round")
    family = models.CharField(max_length=60, blank=True, help_text="engines of one casting, whose notes it shares")

    class Meta:
        constraints = only_choices("engine", gear=Gear, follower=Follower, adjuster=Adjuster)

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
    kind = models.CharField(max_length=12, choices=choices_of(PART_KINDS))
    name = models.CharField(max_length=80)
    side = models.CharField(max_length=8, blank=True, choices=SIDES)
    stock = models.BooleanField(default=False, help_text="came with the engine")
    claim = models.CharField(max_length=80, blank=True, help_text="what the packet says")
    figures = models.JSONField(default=dict, blank=True)
    facts = models.JSONField(default=dict, blank=True, help_text="words of the catalogue: where lifts are told, which face rides")
    lobe = models.JSONField(null=True, blank=True, help_text="a cam point by point, in the form of a lobe file")
    number = models.CharField(max_length=40, blank=True, help_text="part number")
    supplier = models.CharField(max_length=80, blank=True)
    price = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True, help_text="of one pack")
    lead_days = models.PositiveSmallIntegerField(null=True, blank=True, help_text="from order to bench")
    quantity = models.PositiveIntegerField(default=0, help_text="on the shelf, single ones")
    pack = models.PositiveSmallIntegerField(default=1, help_text="how many are sold together")
    service_hours = models.FloatField(null=True, blank=True, help_text="running hours after which it is renewed")
    place = models.CharField(max_length=40, blank=True, help_text="where it lies")
    exchange = models.CharField(max_length=120, blank=True, help_text="whether and how the supplier changes it: shims one for one")
    note = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["kind", "-stock", "name"]
        indexes = [models.Index(fields=["workshop", "kind"], name="shelf_of_a_workshop")]
        constraints = [
            *only_choices("part", kind=PART_KINDS),
            models.CheckConstraint(condition=models.Q(pack__gte=1), name="part_pack_holds_one"),
        ]

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
