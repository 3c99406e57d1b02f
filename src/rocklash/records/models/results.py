"""Results that take long, by content: computed once by whichever worker is free, read by every web process."""

from django.db import models


class ResultState(models.TextChoices):
    """How far a result is."""

    QUEUED = "queued", "waits for a worker"
    RUNNING = "running", "is being computed"
    DONE = "done", "done"
    REFUSED = "refused", "cannot be computed"
    CANCELLED = "cancelled", "nobody waits for it any more"


class Result(models.Model):
    """One result. `key` names the code and everything the result depends on, so that equal questions of two workshops share one answer and nothing
    tells whose it was. `inputs` and `payload` are pickles of the core's own frozen objects, written and read by answers/tasks.py alone."""

    key = models.CharField(max_length=80, primary_key=True)
    kind = models.CharField(max_length=20)
    state = models.CharField(max_length=10, choices=ResultState.choices, default=ResultState.QUEUED)
    share = models.FloatField(default=0.0)
    inputs = models.BinaryField(null=True)
    payload = models.BinaryField(null=True)
    sentence = models.TextField(blank=True)
    asked_at = models.DateTimeField(auto_now_add=True)
    begun_at = models.DateTimeField(null=True, blank=True)
    ended_at = models.DateTimeField(null=True, blank=True)
    tries = models.PositiveSmallIntegerField(default=0)

    class Meta:
        indexes = [models.Index(fields=["kind", "ended_at"], name="old_results_of_a_kind")]

    def __str__(self) -> str:
        return f"{self.kind} {self.key[:12]}, {self.state}"
