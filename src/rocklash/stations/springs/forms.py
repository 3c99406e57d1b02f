"""What is told of springs and of what they did: tester logs, a rocker's inertia, where an engine gave up."""

from django import forms

from rocklash.ui.forms import BenchForm, FactField, OneOfField, QuantityField
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.units import QuantityKind

_WHICH = dict.fromkeys(("required", "invalid_choice"), "Say which side and which set-up it was seen on.")


class ObservationForm(BenchForm):
    """Where it gave up, how sure that is, with which parts, and what tells so."""

    prefix_id = "seen"
    side = forms.ChoiceField(choices=[(side.value, side.value) for side in Side], widget=forms.HiddenInput, error_messages=_WHICH)
    speed = QuantityField(QuantityKind.SPEED, figure=(Owner.GOAL, "goal_rpm"), label="It gave up at")
    doubt = QuantityField(QuantityKind.SPEED, label="give or take", required=False)
    role = forms.ChoiceField(label="with the", choices=[("stock", "stock parts"), ("proposed", "proposed parts")], error_messages=_WHICH)
    note = forms.CharField(label="what tells so", required=False, max_length=300)

    speed.widget.attrs |= {"size": 7, "inputmode": "numeric"}
    doubt.widget.attrs |= {"size": 6, "inputmode": "numeric", "placeholder": "2 %"}
    note.widget.attrs |= {"placeholder": "tachometer on the straight, soft wall, no misfire before"}


class SpringLogForm(BenchForm):
    """A tester's log as text or file, of new or used springs."""

    prefix_id = "log"
    side = forms.CharField(required=False, widget=forms.HiddenInput)
    text = forms.CharField(
        label="Readings, typed or pasted: height and load a line, or spring, height, load", required=False, strip=False,
        widget=forms.Textarea({"rows": 5, "cols": None, "placeholder": "37.2  178\n33.2  330\n28.2  521"}),
    )  # fmt: skip
    file = forms.FileField(label="or a CSV file", required=False, widget=forms.FileInput({"accept": ".csv,.txt,text/csv"}))
    state = FactField(Owner.SPRING, "state", told=True, label="These springs are")
    leans = forms.CharField(label="Leaning on a square, if any does", required=False, max_length=400)

    leans.widget.attrs |= {"placeholder": "2: 1.2 mm"}


_MASS, _LENGTH, _NUMBER = QuantityKind.MASS, QuantityKind.LENGTH, QuantityKind.NUMBER


class SwingForm(BenchForm):
    """A rocker's or finger's inertia: which way it is known by, and the figures of that way."""

    prefix_id = "sw"
    row = forms.CharField(required=False, widget=forms.HiddenInput)
    way = OneOfField(
        [
            ("pendulum", "swinging it from its pivot: mass, centre, swings, seconds, valve arm"),
            ("weighing", "weighing both ends: two readings, two arms"),
            ("geometry", "its shape, as an even bar: mass, two arms"),
        ],
        label="Known by",
    )
    mass = QuantityField(_MASS, label="Mass", required=False)
    centre = QuantityField(_LENGTH, label="Pivot to centre of mass", required=False)
    swings = QuantityField(_NUMBER, label="Whole swings", required=False)
    seconds = QuantityField(_NUMBER, label="took, seconds", required=False)
    valve_end = QuantityField(_MASS, label="At the valve's end", required=False)
    other_end = QuantityField(_MASS, label="At the other end", required=False)
    valve_arm = QuantityField(_LENGTH, label="Pivot to valve", required=False)
    other_arm = QuantityField(_LENGTH, label="Pivot to the other end, 0 when it is the pivot", required=False)

    swings.widget.attrs |= {"placeholder": "50"}
