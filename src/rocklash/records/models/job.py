"""A job on a build: what it was composed of, what of it is done, what it waits for, what went wrong, what was found, and where each part went."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.build import Build
from rocklash.records.models.engine import Position, choices_of, only_choices
from rocklash.records.models.photos import Picture
from valvetrain.studies.job.facts import JobKind


class Job(models.Model):
    """A job; `spec` holds what it was composed of, in the form of studies.job.facts.JobSpec; `moves` a person's own order, pairs of step and the step
    it was put before; `helper` what the helpers were told: bolt layout, stages, caps, air."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=12, choices=choices_of(JobKind))
    spec = models.JSONField(default=dict)
    moves = models.JSONField(default=list, blank=True)
    helper = models.JSONField(default=dict, blank=True)
    promised = models.DateField(null=True, blank=True)
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
    """One step done at one place; `key` is the step with its cylinder in a round, `place` a valve, a cylinder or nothing; `said` what was read there."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="ticks")
    key = models.CharField(max_length=12)
    place = models.CharField(max_length=32, blank=True)
    said = models.CharField(max_length=120, blank=True)
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


class JobWait(models.Model):
    """Something a job waits for: parts, the machine shop, an answer. It holds up the step `key` (the end of the job where it is empty), and is expected
    between two days until it is got."""

    KINDS = (("parts", "parts"), ("shop", "machine shop"), ("owner", "the owner's answer"), ("other", "something else"))
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="waits")
    what = models.CharField(max_length=80)
    kind = models.CharField(max_length=8, choices=KINDS, default="parts")
    key = models.CharField(max_length=12, blank=True)
    first = models.DateField()
    last = models.DateField()
    price = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    got_on = models.DateField(null=True, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [models.CheckConstraint(condition=models.Q(last__gte=models.F("first")), name="a_wait_ends_after_it_begins")]

    def __str__(self) -> str:
        return self.what


class JobDetour(models.Model):
    """A trouble that struck before the step `at_key` was done; `number` names its steps within the job."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="detours")
    number = models.PositiveSmallIntegerField()
    trouble = models.CharField(max_length=12)
    at_key = models.CharField(max_length=12)
    note = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="one_number_per_detour")]

    def __str__(self) -> str:
        return f"{self.trouble} at {self.at_key}"


class Finding(models.Model):
    """What was found on one part at one place, how bad it is (1 do not run it, to 5 harmless), and what became of it."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="findings")
    job = models.ForeignKey(Job, null=True, blank=True, on_delete=models.SET_NULL, related_name="findings")
    number = models.PositiveSmallIntegerField()
    part = models.CharField(max_length=20)
    position = models.ForeignKey(Position, null=True, blank=True, on_delete=models.SET_NULL, related_name="findings")
    place = models.CharField(max_length=60, blank=True, help_text="where, when it is no valve: cylinder 2, cam cap 3")
    sign = models.CharField(max_length=16, blank=True)
    grade = models.PositiveSmallIntegerField(default=4)
    words = models.CharField(max_length=300, blank=True)
    measured = models.CharField(max_length=80, blank=True)
    settled = models.CharField(max_length=200, blank=True, help_text="what became of it; open while empty")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["build", "number"], name="one_number_per_finding"),
            models.CheckConstraint(condition=models.Q(grade__gte=1, grade__lte=5), name="a_finding_has_one_of_five_grades"),
        ]

    def __str__(self) -> str:
        return f"finding {self.number}, {self.part}"


class FindingPicture(Picture):
    """A picture of what was found."""

    finding = models.ForeignKey(Finding, on_delete=models.CASCADE, related_name="pictures")


class PartPlace(models.Model):
    """Which part sits at a valve now: where it came from, which way round, and why it moved."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="part_places")
    slot = models.CharField(max_length=12)
    position = models.ForeignKey(Position, on_delete=models.CASCADE, related_name="part_places")
    came_from = models.CharField(max_length=40)
    way = models.CharField(max_length=40, blank=True)
    why = models.CharField(max_length=120, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["position", "slot"]
        constraints = [models.UniqueConstraint(fields=["build", "slot", "position"], name="one_part_per_slot_and_valve")]

    def __str__(self) -> str:
        return f"{self.slot} at {self.position}: from {self.came_from}"
