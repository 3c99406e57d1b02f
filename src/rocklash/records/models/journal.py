"""Who changed what, when: one line a command, with what it changed, kept with the workshop; and the history of every figure."""

from django.core.serializers.json import DjangoJSONEncoder
from django.db import models

from rocklash.records.models.account import User, Workshop
from rocklash.records.models.build import Build


class JournalEntry(models.Model):
    """One command. `verb` is its code, `before` and `after` are what a person would call the value, `data` the rows it changed with what stood
    in them before and after (commands/ledger.py), from which it is undone. `once` names the form that was sent, so that a form sent twice is
    done once."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="entries")
    build = models.ForeignKey(Build, null=True, blank=True, on_delete=models.SET_NULL, related_name="entries")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    verb = models.CharField(max_length=60)
    about = models.TextField()
    before = models.TextField(blank=True)
    after = models.TextField(blank=True)
    data = models.JSONField(default=list, blank=True, encoder=DjangoJSONEncoder)
    once = models.CharField(max_length=32, null=True, blank=True)  # noqa: DJ001  (null, so that the constraint leaves it out)
    reversible = models.BooleanField(default=False)
    undone_by = models.OneToOneField("self", null=True, blank=True, on_delete=models.SET_NULL, related_name="undoes")

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [
            models.Index(fields=["workshop", "-at"]),
            models.Index(fields=["build", "by", "-at"], name="last_of_ones_own"),
        ]
        constraints = [models.UniqueConstraint(fields=["workshop", "once"], name="one_entry_per_form_sent")]

    def __str__(self) -> str:
        return f"{self.verb}: {self.about}"


class HolderKind(models.TextChoices):
    """What kind of row a figure belongs to."""

    ENGINE = "engine", "engine"
    GOAL = "goal", "goal"
    PART = "part", "part"
    FIT = "fit", "fit"


class FigureChange(models.Model):
    """One figure of one owner as it became, in SI; without a value it went back to an estimate. Rows are only ever added."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="figure_changes")
    holder = models.CharField(max_length=8, choices=HolderKind.choices)
    owner_id = models.PositiveBigIntegerField(help_text="of the engine, build, part or side")
    key = models.CharField(max_length=40)
    value = models.FloatField(null=True, blank=True)
    spread = models.FloatField(default=0.0)
    basis = models.CharField(max_length=12, blank=True)
    typed = models.CharField(max_length=80, blank=True)
    unit = models.CharField(max_length=20, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [models.Index(fields=["holder", "owner_id", "key", "-at"], name="history_of_a_figure")]

    def __str__(self) -> str:
        return f"{self.holder} {self.owner_id}, {self.key}"
