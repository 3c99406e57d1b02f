"""Who changed what, when: one line a mutation, kept with the workshop."""

from django.db import models

from rocklash.records.models.account import User, Workshop


class JournalEntry(models.Model):
    """One mutation. `before` and `after` are what a person would call the value."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="entries")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    what = models.CharField(max_length=60)
    about = models.CharField(max_length=160)
    before = models.CharField(max_length=160, blank=True)
    after = models.CharField(max_length=160, blank=True)

    class Meta:
        ordering = ["-at"]
        indexes = [models.Index(fields=["workshop", "-at"])]

    def __str__(self) -> str:
        return f"{self.what}: {self.about}"
