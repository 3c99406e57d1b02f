"""Runs of the simulated instruments."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.engine import Part


class InstrumentKind(models.TextChoices):
    """The instruments that ship."""

    WHEEL = "wheel", "degree wheel"
    TESTER = "tester", "spring tester"


class InstrumentRun(models.Model):
    """A run of a simulated instrument over a part: readings arrive at `pace` a second from `begun_at`. What it hides is the seed's."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="instrument_runs")
    kind = models.CharField(max_length=8, choices=InstrumentKind.choices)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    begun_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    seed = models.PositiveIntegerField()
    pace = models.FloatField()

    class Meta:
        ordering = ["-begun_at"]

    def __str__(self) -> str:
        return f"{self.part}, {self.get_kind_display()} {self.pk}"
