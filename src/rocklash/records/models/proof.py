"""What an engine did: tests before and after the work, their files, and what was foretold."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.build import Build
from rocklash.records.models.engine import choices_of, only_choices
from valvetrain.units import QuantityKind


class ProofKind(models.TextChoices):
    """Kinds of test."""

    COMPRESSION = "compression", "compression"
    STARTER = "starter", "starter current"
    LEAK = "leak", "leak-down"
    LIGHT = "light", "light or solvent"
    REV = "rev", "rev test"
    SOUND = "sound", "sound of a pull"
    RUN = "run", "run"
    VACUUM = "vacuum", "vacuum at full throttle"
    FAILURE = "failure", "after a failure"


class Phase(models.TextChoices):
    """Whether a test was made before the work or after."""

    BEFORE = "before", "before"
    AFTER = "after", "after"


class ProofTest(models.Model):
    """One test. `conditions` is how it was made, `readings` what was read (SI), `found` what was worked out of a file when it came in; the forms
    of all three are in stations/proof."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="proof_tests")
    kind = models.CharField(max_length=12, choices=ProofKind.choices)
    phase = models.CharField(max_length=8, choices=Phase.choices, default=Phase.BEFORE)
    name = models.CharField(max_length=80, blank=True)
    made_on = models.DateField()
    conditions = models.JSONField(default=dict, blank=True)
    readings = models.JSONField(default=dict, blank=True)
    found = models.JSONField(default=dict, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["made_on", "at", "pk"]
        constraints = [*only_choices("prooftest", kind=ProofKind, phase=Phase)]
        indexes = [models.Index(fields=["build", "kind"])]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} {self.phase}" + (f", {self.name}" if self.name else "")


class ProofFile(models.Model):
    """The file a test came as, packed, with how its columns were understood."""

    test = models.OneToOneField(ProofTest, on_delete=models.CASCADE, related_name="file")
    name = models.CharField(max_length=120, blank=True)
    size = models.PositiveIntegerField()
    columns = models.JSONField(default=dict, blank=True)
    units = models.JSONField(default=dict, blank=True)
    data = models.BinaryField()

    def __str__(self) -> str:
        return self.name or f"file of {self.test_id}"


class Forecast(models.Model):
    """What was foretold before a test, with its band (SI), what it rested on, and the result once there is one."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="forecasts")
    kind = models.CharField(max_length=24)
    words = models.CharField(max_length=80)
    unit = models.CharField(max_length=24, choices=choices_of(QuantityKind))
    middle = models.FloatField()
    low = models.FloatField()
    high = models.FloatField()
    rests_on = models.CharField(max_length=200, blank=True)
    result = models.FloatField(null=True, blank=True)
    test = models.ForeignKey(ProofTest, null=True, blank=True, on_delete=models.SET_NULL, related_name="forecasts")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at", "pk"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(low__lte=models.F("middle"), middle__lte=models.F("high")), name="a_band_holds_its_middle"
            )
        ]

    def __str__(self) -> str:
        return f"{self.words} of {self.build}"
