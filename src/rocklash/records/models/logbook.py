"""What an engine ran and what was done to it, beside what sheets, tests and jobs tell."""

from django.core.validators import MinValueValidator
from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.build import Build


class RunEntry(models.Model):
    """What an engine ran on a day: seconds, passes, fuel (m3), any of them."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="run_entries")
    made_on = models.DateField()
    seconds = models.FloatField(null=True, blank=True, validators=[MinValueValidator(0.0)])
    passes = models.PositiveIntegerField(null=True, blank=True)
    fuel = models.FloatField(null=True, blank=True, help_text="m3")
    note = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_on", "-at", "-pk"]
        indexes = [models.Index(fields=["build", "made_on"])]
        constraints = [
            models.CheckConstraint(condition=models.Q(seconds__isnull=True) | models.Q(seconds__gte=0.0), name="an_engine_runs_forwards")
        ]

    def __str__(self) -> str:
        return f"run of {self.made_on}"


class CareEntry(models.Model):
    """Something that was due and was done: `what` as the rules name it, at how many running seconds of the engine."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="care_entries")
    what = models.CharField(max_length=60)
    made_on = models.DateField()
    seconds = models.FloatField(help_text="running seconds of the engine then")
    note = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_on", "-at", "-pk"]
        indexes = [models.Index(fields=["build", "what"])]

    def __str__(self) -> str:
        return f"{self.what}, {self.made_on}"
