"""What an engine ran and what was done to it, beside what sheets, tests and jobs tell."""

from django.core.validators import MinValueValidator
from django.db import models

from rocklash.records.models.account import User, Workshop
from rocklash.records.models.build import Build
from rocklash.records.models.engine import SIDES, Part, choices_of, only_choices
from rocklash.records.models.photos import Picture
from valvetrain.studies.logbook.due import Unit

_TYPED = (Unit.HOURS, Unit.PASSES, Unit.SEASONS)


class RunEntry(models.Model):
    """What an engine ran up to a day: seconds, passes, fuel (m3), whole seasons, any of them."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="run_entries")
    made_on = models.DateField()
    seconds = models.FloatField(null=True, blank=True, validators=[MinValueValidator(0.0)])
    passes = models.PositiveIntegerField(null=True, blank=True)
    fuel = models.FloatField(null=True, blank=True, help_text="m3")
    seasons = models.PositiveSmallIntegerField(null=True, blank=True)
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


class LogNote(models.Model):
    """Words on an engine's line of time, with pictures."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="log_notes")
    made_on = models.DateField()
    words = models.CharField(max_length=600)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_on", "-at", "-pk"]

    def __str__(self) -> str:
        return self.words[:60]


class LogPicture(Picture):
    """A picture on the line of time."""

    log_note = models.ForeignKey(LogNote, on_delete=models.CASCADE, related_name="pictures")


class PartStart(models.Model):
    """Since when a part runs in this engine, and the running seconds it brought along; a part without one came with the engine or with its slot's last
    change."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="part_starts")
    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="starts")
    side = models.CharField(max_length=8, choices=SIDES)
    made_on = models.DateField()
    had = models.FloatField(default=0.0, validators=[MinValueValidator(0.0)], help_text="running seconds it brought along")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["build", "part", "side"], name="one_start_per_part_and_side"),
            models.CheckConstraint(condition=models.Q(had__gte=0.0), name="a_part_ran_forwards"),
        ]

    def __str__(self) -> str:
        return f"{self.part} since {self.made_on}"


class DueRule(models.Model):
    """When something is due, as typed: of this engine's manual (`build`), or of the workshop for every engine. `every` and `most` count `unit`."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="due_rules")
    build = models.ForeignKey(Build, null=True, blank=True, on_delete=models.CASCADE, related_name="due_rules")
    what = models.CharField(max_length=60)
    least = models.FloatField()
    most = models.FloatField()
    unit = models.CharField(max_length=8, choices=choices_of(_TYPED))
    page = models.CharField(max_length=60, blank=True, help_text="where in the manual")
    does = models.CharField(max_length=120, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["what", "pk"]
        constraints = [
            *only_choices("duerule", unit=_TYPED),
            models.CheckConstraint(condition=models.Q(least__gt=0.0, most__gte=models.F("least")), name="an_interval_runs_forwards"),
        ]

    def __str__(self) -> str:
        return f"{self.what} every {self.least:g} {self.unit}"


class DueState(models.Model):
    """What was due on an engine when it was last worked out; it counts while the day is the same and the build was not changed since. `rank` is that of
    the most urgent state, `lines` are what stands out, the most urgent first."""

    build = models.OneToOneField(Build, on_delete=models.CASCADE, related_name="due_state")
    rank = models.PositiveSmallIntegerField(db_index=True)
    hours = models.FloatField(default=0.0)
    lines = models.JSONField(default=list)
    day = models.DateField()
    at = models.DateTimeField()

    def __str__(self) -> str:
        return f"{self.build}: {len(self.lines)} lines"


class Reminder(models.Model):
    """Something that became due and was told to the workshop; `put_away` once somebody saw to it."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="reminders")
    rule = models.CharField(max_length=80)
    words = models.CharField(max_length=300)
    at = models.DateTimeField(auto_now_add=True)
    mailed_at = models.DateTimeField(null=True, blank=True)
    put_away = models.DateTimeField(null=True, blank=True)
    put_away_by = models.ForeignKey(User, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [
            models.UniqueConstraint(fields=["build", "rule"], condition=models.Q(put_away=None), name="one_open_reminder_per_rule"),
        ]

    def __str__(self) -> str:
        return self.words
