"""A job on a build: what it was composed of, what of it is done, and which rules were overridden."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.build import Build
from rocklash.records.models.engine import choices_of, only_choices
from valvetrain.studies.job.facts import JobKind


class Job(models.Model):
    """A job; `spec` holds what it was composed of, in the form of studies.job.facts.JobSpec."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=12, choices=choices_of(JobKind))
    spec = models.JSONField(default=dict)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    begun_at = models.DateTimeField(auto_now_add=True)
    closed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-begun_at"]
        constraints = [
            *only_choices("job", kind=JobKind),
            models.UniqueConstraint(fields=["build"], condition=models.Q(closed_at=None), name="one_open_job_per_build"),
        ]

    def __str__(self) -> str:
        return f"{self.build}, {self.kind}"


class JobTick(models.Model):
    """One step done at one place; `key` is the step with its cylinder in a round, `place` a valve, a cylinder or nothing."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="ticks")
    key = models.CharField(max_length=12)
    place = models.CharField(max_length=32, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [models.UniqueConstraint(fields=["job", "key", "place"], name="one_tick_per_step_and_place")]

    def __str__(self) -> str:
        return f"{self.key} {self.place}".strip()


class JobOverride(models.Model):
    """A rule that somebody went against, with the reason that was given."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="overrides")
    rule = models.CharField(max_length=32)
    key = models.CharField(max_length=12)
    reason = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]

    def __str__(self) -> str:
        return f"{self.rule}, {self.key}"
