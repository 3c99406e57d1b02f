"""Photographs of an engine: private to its workshop, made anew so that nothing but the picture is kept."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.engine import Engine


class Photo(models.Model):
    """One photograph, as JPEG."""

    engine = models.ForeignKey(Engine, on_delete=models.CASCADE, related_name="photos")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    caption = models.CharField(max_length=120, blank=True)
    width = models.PositiveSmallIntegerField()
    height = models.PositiveSmallIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.caption or f"photograph {self.pk}"
