"""What is asked of a search, and told of sister engines and of a family."""

from django import forms

from rocklash.ui.forms import BenchForm, OneOfField, QuantityField
from valvetrain.parts.catalogue import Owner
from valvetrain.units import QuantityKind

FINDINGS = [
    ("unknown", "not tried"),
    ("same", "the same part"),
    ("fits", "goes in as it is"),
    ("work", "goes in with work"),
    ("not", "does not go in"),
]
TOPICS = [
    ("weak", "weak part"), ("springs", "springs from which power on"), ("access", "access"), ("quirk", "quirk"),
    ("oil", "oil feeds and drillings"), ("clearance", "clearances"),
]  # fmt: skip


class AskForm(BenchForm):
    """What a set may cost, when it must be there, which places may change."""

    prefix_id = "ask"
    budget = forms.DecimalField(
        required=False, min_value=0, max_digits=9, decimal_places=2,
        error_messages=dict.fromkeys(
            ("invalid", "min_value", "max_digits", "max_decimal_places", "max_whole_digits"), "Budget: a bare number, or empty for any price."
        ),
    )  # fmt: skip
    days = forms.IntegerField(
        required=False, min_value=0, max_value=1000,
        error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "Days: a whole number up to 1,000, or empty for any date."),
    )  # fmt: skip


class SisterForm(BenchForm):
    """An engine that shares parts with this one."""

    prefix_id = "sister"
    name = forms.CharField(label="Sister engine", max_length=60, error_messages={"required": "Give the sister a name."})
    limiter = QuantityField(QuantityKind.SPEED, figure=(Owner.ENGINE, "limiter"), label="Its limiter", required=False)
    interval = QuantityField(
        QuantityKind.DURATION, figure=(Owner.ENGINE, "service_interval"), label="Its valves are looked at every", required=False
    )
    same_springs = forms.BooleanField(label="It has the same springs", required=False)
    evidence = forms.CharField(label="How that is known", required=False, max_length=200)


class SisterPartForm(BenchForm):
    """One part of both engines."""

    prefix_id = "twin"
    what = forms.CharField(label="Part", max_length=40, error_messages={"required": "Say which part."})
    own_number = forms.CharField(label="Number in this engine", required=False, max_length=40)
    sister_number = forms.CharField(label="Number in the sister", required=False, max_length=40)
    finding = OneOfField(FINDINGS, label="Found")
    evidence = forms.CharField(label="How that is known", required=False, max_length=200)


class NoteForm(BenchForm):
    """Something the workshop knows of a family of engines."""

    prefix_id = "note"
    topic = OneOfField(TOPICS, label="About")
    text = forms.CharField(label="What you know", max_length=300, error_messages={"required": "Write what you know of it."})
