"""What is written on the order for the machine shop, and what a job, its waits, findings and helpers are told."""

from typing import Any

from django import forms

from rocklash.records.models import JobWait
from rocklash.ui.forms import BenchForm, OneOfField, QuantityField
from valvetrain.parts.engine import Adjuster, Follower, Gear
from valvetrain.studies.head.shop import WORKS
from valvetrain.studies.job.caps import Layout
from valvetrain.studies.job.facts import ASKS, HAS, KIND_WORDS, RENEWED
from valvetrain.studies.job.knowledge import GRADES, schools, signs
from valvetrain.units import QuantityKind, amount, told

_DAY = "Write the day as 2027-03-14."


def _day(label: str, *, required: bool = False) -> forms.DateField:
    return forms.DateField(
        label=label, required=required, widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"),
        error_messages={"invalid": _DAY, "required": _DAY},
    )  # fmt: skip


def _ways(name: str) -> OneOfField:
    school = schools()[name]
    return OneOfField([(way.id, way.words) for way in school.ways], label=school.name)


def _price(label: str) -> forms.DecimalField:
    return forms.DecimalField(
        label=label, required=False, min_value=0, max_digits=8, decimal_places=2, widget=forms.TextInput({"inputmode": "decimal"}),
        error_messages=dict.fromkeys(
            ("invalid", "min_value", "max_digits", "max_decimal_places", "max_whole_digits"), "Write a bare number with at most two decimals: 34.50."
        ),
    )  # fmt: skip


class OrderForm(BenchForm):
    """What is to be done, by whom, until when."""

    prefix_id = "order"
    works = forms.MultipleChoiceField(
        label="To be done", required=False, choices=list(WORKS.items()), widget=forms.CheckboxSelectMultiple,
        error_messages={"invalid_choice": "There is no such work on the list."},
    )  # fmt: skip
    shop = forms.CharField(label="Machine shop", required=False, max_length=80)
    wanted = forms.DateField(
        label="Wanted back on", required=False, widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"),
        error_messages={"invalid": "Write the day as 2027-03-14, or leave it empty."},
    )  # fmt: skip
    note = forms.CharField(label="A note to the shop", required=False, max_length=500, widget=forms.Textarea({"rows": 2, "cols": None}))


class JobForm(BenchForm):
    """What kind of job, on what, with which parts and schools; steps are composed from it."""

    prefix_id = "job"
    template_name = "job/begin_form.html"
    FIRST, LISTS, WAYS = (
        ("kind", "here", "in_frame", "promised"),
        ("renewed", "has", "asks"),
        ("hold", "caps", "seal", "seal_order", "keepers", "lapping"),
    )
    kind = OneOfField([(kind.value, words) for kind, words in KIND_WORDS.items()], label="The job")
    here = OneOfField(
        [("machine", "the whole machine"), ("engine", "the engine on a stand"), ("head", "the head alone")], label="What is here"
    )
    in_frame = forms.BooleanField(label="Engine stays in its frame", required=False)
    drive = OneOfField([("chain", "a chain"), ("belt", "a belt"), ("gears", "gears")], label="Overhead cams driven by")
    held = OneOfField([("caps", "caps"), ("bridge", "one bridge"), ("bores", "bores and a plate")], label="Cams held by")
    hold = _ways("hold")
    caps = _ways("caps")
    seal = _ways("seal")
    seal_order = _ways("seal_order")
    keepers = _ways("keepers")
    lapping = _ways("lapping")
    promised = _day("Promised for")
    renewed = forms.MultipleChoiceField(
        label="Renewed", required=False, choices=[(key, key) for key in RENEWED], widget=forms.CheckboxSelectMultiple
    )
    has = forms.MultipleChoiceField(label="The engine has", required=False, choices=list(HAS.items()), widget=forms.CheckboxSelectMultiple)
    asks = forms.MultipleChoiceField(
        label="And this is so", required=False, choices=list(ASKS.items()), widget=forms.CheckboxSelectMultiple
    )

    def offer(self, about: Any) -> None:
        """Only what such an engine can have is asked; what it cannot is left as it is usual."""
        engine = about.engine
        overhead = engine.gear in (Gear.DOHC, Gear.OHC)
        never = set() if overhead else {"ratchet", "jets", "phaser", "sealed"}
        never |= set() if engine.follower == Follower.ROCKER and overhead else {"tip"}
        never |= {"passes"} if engine.gear == Gear.SIDE_VALVE else set()
        self.fields["has"].choices = [(key, words) for key, words in HAS.items() if key not in never]  # type: ignore[attr-defined]
        if not overhead:
            self.fields["asks"].choices = [(key, words) for key, words in ASKS.items() if key != "degree"]  # type: ignore[attr-defined]
        if engine.adjuster == Adjuster.HYDRAULIC:
            self.fields["asks"].choices = [(key, words) for key, words in ASKS.items() if key != "outside"]  # type: ignore[attr-defined]
        gone = () if overhead else ("drive", "held", "caps")
        for name in (*gone, *(("hold", "seal", "seal_order") if engine.gear == Gear.SIDE_VALVE else ())):
            self.fields[name].widget = forms.HiddenInput()


class PromiseForm(BenchForm):
    """The day the owner was promised."""

    prefix_id = "promise"
    promised = _day("Promised for")


class WaitForm(BenchForm):
    """What a job waits for, from which day to which."""

    prefix_id = "wait"
    what = forms.CharField(label="Waits for", max_length=80, error_messages={"required": "Say what it waits for."})
    kind = OneOfField(list(JobWait.KINDS), label="It is")
    first = _day("Earliest here", required=True)
    last = _day("Latest here")
    key = forms.CharField(label="Holds up", required=False, max_length=12)
    price = _price("Price")

    def clean(self) -> dict[str, Any]:
        """Days in their order."""
        sent = super().clean() or {}
        first, last = sent.get("first"), sent.get("last")
        if first and last and last < first:
            self.add_error("last", "The latest day lies before the earliest: turn them round.")
        return sent


class HabitsForm(BenchForm):
    """How a workshop works."""

    prefix_id = "habits"
    day_hours = forms.FloatField(
        label="Hours of work a day", min_value=0.5, max_value=16.0, widget=forms.TextInput({"inputmode": "decimal"}),
        error_messages={
            "invalid": "Write hours as 6 or 6.5.", "required": "Write hours as 6 or 6.5.", "min_value": "Less than half an hour a day finishes nothing.",
            "max_value": "Nobody works more than 16 hours a day for long.",
        },
    )  # fmt: skip
    hour_price = _price("What an hour costs")
    hold = _ways("hold")
    caps = _ways("caps")
    seal = _ways("seal")
    seal_order = _ways("seal_order")
    keepers = _ways("keepers")
    lapping = _ways("lapping")


class FindingForm(BenchForm):
    """What is seen on one part."""

    prefix_id = "finding"
    valve = OneOfField(label="Valve")
    place = forms.CharField(label="Or another place", required=False, max_length=60)
    part = OneOfField([("", "…"), *((part, part) for part in dict.fromkeys(sign.part for sign in signs().values()))], label="Part")
    sign = OneOfField(
        [("", "something else"), *((sign.id, f"{sign.part}: {sign.sign}") for sign in signs().values())], label="What you see"
    )
    words = forms.CharField(label="In words", required=False, max_length=300, widget=forms.Textarea({"rows": 2, "cols": None}))
    measured = forms.CharField(label="Measured", required=False, max_length=80)
    grade = OneOfField([("", "as the list says"), *((str(grade), f"{grade}, {words}") for grade, words in GRADES.items())], label="How bad")

    def offer(self, about: Any) -> None:
        """The valves of the build."""
        self.one_of("valve").offer([("", "no valve"), *((place.name, place.name) for place in about.engine.positions.all())])


class HelperForm(BenchForm):
    """What the helpers are told of bolts, caps and air."""

    prefix_id = "helper"
    rows = forms.IntegerField(label="Rows of head bolts", required=False, min_value=1, max_value=4)
    columns = forms.IntegerField(label="Head bolts in a row", required=False, min_value=1, max_value=12)
    stages = forms.CharField(label="Stages of the manual", required=False, max_length=80)
    layout = OneOfField(
        [(Layout.MIDDLE, "over the middle of each cylinder"), (Layout.BETWEEN, "between the cylinders")], label="Cam caps stand"
    )
    thrust = OneOfField([("drive", "at the drive end"), ("far", "at the far end")], label="Thrust cap")
    angle = forms.IntegerField(label="Crank, ° after cylinder 1 fires", required=False, min_value=0, max_value=719)
    pressure = QuantityField(QuantityKind.PRESSURE, label="Air pressure", required=False)

    def clean_pressure(self) -> float | None:
        """In pascal, between nothing and what a workshop's line has."""
        typed = self.cleaned_data["pressure"]
        if typed is None:
            return None
        if not 0.0 < typed.value <= 12e5:
            line, low, high = (amount(each, QuantityKind.PRESSURE) for each in (12e5, 2e5, 4e5))
            raise forms.ValidationError(told(f"A workshop's line has up to {line}: {low} to {high} hold a valve.", self.system))
        return float(typed.value)
