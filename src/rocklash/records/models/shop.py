"""What the machine shop is asked for, and what came back."""

from django.db import models

from rocklash.records.models.account import User
from rocklash.records.models.build import Build
from rocklash.records.models.engine import Position


class ShopOrder(models.Model):
    """One visit of a head to the machine shop: what is to be done (`works`, words of the core), where it is, and what was written beside it."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="shop_orders")
    shop = models.CharField(max_length=80, blank=True, help_text="which machine shop")
    works = models.JSONField(default=list, blank=True, help_text="keys of studies.head.shop.WORKS")
    note = models.CharField(max_length=500, blank=True)
    wanted = models.DateField(null=True, blank=True, help_text="when it shall be back")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    sent_at = models.DateTimeField(null=True, blank=True)
    back_at = models.DateTimeField(null=True, blank=True)
    closed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at"]
        constraints = [
            models.UniqueConstraint(fields=["build"], condition=models.Q(closed_at=None), name="one_open_shop_order_per_build"),
        ]

    def __str__(self) -> str:
        return f"machine shop, {self.shop}" if self.shop else "machine shop"


class ShopReading(models.Model):
    """One measure of one valve, or of the head where there is no position, before it went and when it came back; m and as typed."""

    order = models.ForeignKey(ShopOrder, on_delete=models.CASCADE, related_name="readings")
    position = models.ForeignKey(Position, null=True, blank=True, on_delete=models.CASCADE, related_name="+")
    measure = models.CharField(max_length=16)
    stage = models.CharField(max_length=6, choices=[("before", "before"), ("back", "back")])
    value = models.FloatField()
    typed = models.CharField(max_length=80, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["position__side", "position__place", "measure", "stage"]
        constraints = [
            models.UniqueConstraint(
                fields=["order", "position", "measure", "stage"], nulls_distinct=False, name="one_reading_per_valve_measure_and_stage"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.position or 'the head'}, {self.measure} {self.stage}"
