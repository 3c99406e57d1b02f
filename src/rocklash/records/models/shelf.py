"""The shelf's own records beside the parts: single used parts with their history, sister engines, notes of a family, searches and decisions."""

from django.db import models

from rocklash.records.models.account import User, Workshop
from rocklash.records.models.build import Build
from rocklash.records.models.engine import SIDES, Engine, Part


class Individual(models.Model):
    """One used part, or a lot of them from a donor, with what it has behind it. Measured figures as in records/figure_column.py."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="individuals")
    name = models.CharField(max_length=60, help_text="came off EX 3, donor head lot 2")
    count = models.PositiveSmallIntegerField(default=1)
    hours = models.FloatField(null=True, blank=True, help_text="running hours it has")
    seasons = models.PositiveSmallIntegerField(null=True, blank=True)
    condition = models.CharField(
        max_length=12, default="good", choices=[("good", "good to use"), ("marginal", "to be tested"), ("scrap", "not to be used")]
    )
    history = models.CharField(max_length=300, blank=True)
    mass = models.FloatField(null=True, blank=True, help_text="kg, weighed")
    load = models.FloatField(null=True, blank=True, help_text="N, on the tester, at `load_height`")
    load_height = models.FloatField(null=True, blank=True, help_text="m")
    rate = models.FloatField(null=True, blank=True, help_text="N/m, on the tester")
    offset = models.FloatField(null=True, blank=True, help_text="m, how much higher than the nominal part it lets the spring stand")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["part", "name"]
        constraints = [models.UniqueConstraint(fields=["part", "name"], name="one_name_per_individual")]

    def __str__(self) -> str:
        return f"{self.part}: {self.name}"


class SisterEngine(models.Model):
    """An engine that shares parts with one of the workshop's, and what it is evidence of."""

    engine = models.ForeignKey(Engine, on_delete=models.CASCADE, related_name="sisters")
    name = models.CharField(max_length=60)
    limiter = models.FloatField(null=True, blank=True, help_text="crank rev/s it holds")
    interval = models.FloatField(null=True, blank=True, help_text="s of running between looks at its valves")
    same_springs = models.BooleanField(default=False, help_text="it has the same springs, so its limiter speaks for them")
    evidence = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["engine", "name"], name="one_name_per_sister")]

    def __str__(self) -> str:
        return f"{self.name}, sister of {self.engine}"


class SisterPart(models.Model):
    """One part of both, number beside number, with what was found of it."""

    sister = models.ForeignKey(SisterEngine, on_delete=models.CASCADE, related_name="parts")
    what = models.CharField(max_length=40)
    own_number = models.CharField(max_length=40, blank=True)
    sister_number = models.CharField(max_length=40, blank=True)
    finding = models.CharField(
        max_length=10,
        default="unknown",
        choices=[
            ("same", "the same part"),
            ("fits", "goes in as it is"),
            ("work", "goes in with work"),
            ("not", "does not go in"),
            ("unknown", "not tried"),
        ],
    )
    evidence = models.CharField(max_length=200, blank=True, help_text="how it is known")
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["what"]
        constraints = [models.UniqueConstraint(fields=["sister", "what"], name="one_row_per_part_of_a_sister")]

    def __str__(self) -> str:
        return f"{self.what} of {self.sister}"


class FamilyNote(models.Model):
    """What the workshop knows of a family of engines, offered again at the next of it."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="family_notes")
    family = models.CharField(max_length=60)
    topic = models.CharField(
        max_length=12,
        choices=[
            ("weak", "weak part"),
            ("springs", "springs from which power on"),
            ("access", "access"),
            ("quirk", "quirk"),
            ("oil", "oil feeds and drillings"),
            ("clearance", "clearances"),
        ],
    )
    text = models.CharField(max_length=300)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["family", "topic", "pk"]

    def __str__(self) -> str:
        return f"{self.family}: {self.text}"


class Search(models.Model):
    """What was last asked of the shelf for one side of a build. `places` are those that may change, `weights` by the order of the wishes;
    `asked_key` names the content that was searched, so that a search of changed parts is known to be stale."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="searches")
    side = models.CharField(max_length=8, choices=SIDES)
    budget = models.DecimalField(max_digits=10, decimal_places=2, null=True, blank=True)
    days = models.PositiveSmallIntegerField(null=True, blank=True)
    places = models.JSONField(default=list, blank=True)
    weights = models.JSONField(default=list, blank=True)
    asked_key = models.CharField(max_length=40, blank=True)
    asked_at = models.DateTimeField(null=True, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["build", "side"], name="one_search_per_side")]

    def __str__(self) -> str:
        return f"search of {self.build}, {self.side}"


class Decision(models.Model):
    """A set that was proposed from a search: its parts by place (number, empty for none), what it was chosen over, and why."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="decisions")
    side = models.CharField(max_length=8, choices=SIDES)
    parts = models.JSONField(default=dict)
    names = models.CharField(max_length=400)
    figures = models.JSONField(default=dict, help_text="what it was judged at: force N, mass kg, price, days")
    over = models.CharField(max_length=400, blank=True, help_text="the runner-up")
    reason = models.CharField(max_length=300, blank=True)
    by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.build}, {self.side}: {self.names}"
