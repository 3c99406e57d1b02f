"""What was measured of springs, heights and masses, and what an engine was seen to do."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.build import Build, SetupRole, SetupSide
from rocklash.records.models.engine import SIDES, Part, Position


class SpringLog(models.Model):
    """A spring tester's log of one spring or a set, as it was given. `leans` maps a spring's name to how far it leans, m."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="spring_logs")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    text = models.TextField()
    system = models.CharField(max_length=8, default="metric", help_text="unit system of bare numbers")
    used = models.BooleanField(default=False, help_text="springs that have run; new ones are what they are compared with")
    leans = models.JSONField(default=dict, blank=True)
    readings = models.PositiveIntegerField()

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.part}, {self.readings} readings"


class ValveFit(models.Model):
    """How one valve's springs stand in a set-up, m: measured `height`, or `protrusion` and `drop` it follows from; `shim` under them."""

    setup_side = models.ForeignKey(SetupSide, on_delete=models.CASCADE, related_name="valve_fits")
    position = models.ForeignKey(Position, on_delete=models.CASCADE, related_name="+")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now=True)
    height = models.FloatField(null=True, blank=True)
    protrusion = models.FloatField(null=True, blank=True)
    drop = models.FloatField(null=True, blank=True)
    shim = models.FloatField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["setup_side", "position"], name="one_fit_per_row_and_valve")]

    def __str__(self) -> str:
        return f"{self.setup_side}, {self.position}"


class Weighing(models.Model):
    """One part of one valve on the scale, kg."""

    setup_side = models.ForeignKey(SetupSide, on_delete=models.CASCADE, related_name="weighings")
    position = models.ForeignKey(Position, on_delete=models.CASCADE, related_name="+")
    slot = models.CharField(max_length=16)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now=True)
    mass = models.FloatField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["setup_side", "position", "slot"], name="one_weighing_per_part_of_a_valve")]

    def __str__(self) -> str:
        return f"{self.setup_side}, {self.position}, {self.slot}"


class Observation(models.Model):
    """An engine seen to give up: crank `speed` with `spread` (rev/s, k = 2) on one set-up of one side, and what tells so."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="observations")
    role = models.CharField(max_length=8, choices=SetupRole.choices)
    side = models.CharField(max_length=8, choices=SIDES)
    speed = models.FloatField()
    spread = models.FloatField()
    note = models.CharField(max_length=300, blank=True)
    parts = models.CharField(max_length=300, blank=True, help_text="the springs that were in it")
    in_use = models.BooleanField(default=True, help_text="the prediction rests on it")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.build}, {self.side}, gave up"
