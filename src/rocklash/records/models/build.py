"""A build: an engine, a goal, and two set-ups of parts."""

from django.db import models

from rocklash.records.models.account import Workshop
from rocklash.records.models.engine import SIDES, Engine, Part, choices_of, only_choices
from valvetrain.parts.engine import Use


class Build(models.Model):
    """One job on one engine. `figures` and `facts` hold the goal's figures and words, in the form described in models/engine.py."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="builds")
    engine = models.ForeignKey(Engine, on_delete=models.PROTECT, related_name="builds")
    name = models.CharField(max_length=80)
    use = models.CharField(max_length=12, default="street", choices=choices_of(Use))
    figures = models.JSONField(default=dict, blank=True)
    facts = models.JSONField(default=dict, blank=True, help_text="words of the goal: fuel, air")
    flows = models.JSONField(default=list, blank=True, help_text="flow bench, tests in the form of the build file")
    practice = models.BooleanField(
        default=False, help_text="a copy to practise on: simulated instruments work here, and nothing can be signed"
    )
    archived_at = models.DateTimeField(null=True, blank=True, help_text="off the board, kept whole")
    deleted_at = models.DateTimeField(null=True, blank=True, help_text="off every list; undone it stands again as it was")
    created_at = models.DateTimeField(auto_now_add=True)
    updated_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-updated_at"]
        constraints = only_choices("build", use=Use)

    def __str__(self) -> str:
        return self.name


class SetupRole(models.TextChoices):
    """Which set-up."""

    STOCK = "stock", "stock"
    PROPOSED = "proposed", "proposed"


class Setup(models.Model):
    """The stock or the proposed set of parts of a build."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="setups")
    role = models.CharField(max_length=8, choices=SetupRole.choices)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["build", "role"], name="one_setup_per_role")]

    def __str__(self) -> str:
        return f"{self.build}, {self.role}"


class SetupSide(models.Model):
    """The parts chosen on one side, and how they are fitted (`figures`)."""

    setup = models.ForeignKey(Setup, on_delete=models.CASCADE, related_name="sides")
    side = models.CharField(max_length=8, choices=SIDES)
    cam = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    valve = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    retainer = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    keepers = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    low_cam = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="+", help_text="of a two-profile train")
    follower = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    shim = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    outer_spring = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    inner_spring = models.ForeignKey(Part, null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    figures = models.JSONField(default=dict, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["setup", "side"], name="one_row_per_setup_and_side")]

    def __str__(self) -> str:
        return f"{self.setup}, {self.side}"


class CamCandidate(models.Model):
    """A further cam laid beside stock and proposed on one side of a build."""

    setup_side = models.ForeignKey(SetupSide, on_delete=models.CASCADE, related_name="candidates")
    cam = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="+")
    letter = models.CharField(max_length=1, choices=[("B", "B"), ("C", "C")])

    class Meta:
        ordering = ["letter"]
        constraints = [models.UniqueConstraint(fields=["setup_side", "letter"], name="one_candidate_per_letter")]

    def __str__(self) -> str:
        return f"{self.letter}: {self.cam}"


class CamTiming(models.Model):
    """A cam degreed in: two wheel readings at one lift (crank rad from overlap TDC) and the lobe centre they give."""

    setup_side = models.ForeignKey(SetupSide, on_delete=models.CASCADE, related_name="timings")
    by = models.ForeignKey("records.User", null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    first = models.FloatField()
    second = models.FloatField()
    centre = models.FloatField()
    wanted = models.FloatField()

    class Meta:
        ordering = ["-at"]

    def __str__(self) -> str:
        return f"{self.setup_side}, degreed in"
