"""Pictures of an engine or of a part: private to its workshop, made anew so that nothing but the picture is kept."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.engine import Engine, Part


class Picture(models.Model):
    """One picture, as JPEG, whatever it shows."""

    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    caption = models.CharField(max_length=120, blank=True)
    width = models.PositiveSmallIntegerField()
    height = models.PositiveSmallIntegerField()
    data = models.BinaryField()

    class Meta:
        abstract = True
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.caption or f"picture {self.pk}"


class Photo(Picture):
    """A photograph of an engine."""

    engine = models.ForeignKey(Engine, on_delete=models.CASCADE, related_name="photos")


class PartPhoto(Picture):
    """A picture of a part of the shelf."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="photos")
