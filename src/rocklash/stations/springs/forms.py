"""What is told of springs and of what they did: tester logs, a rocker's inertia, where an engine gave up."""

from typing import Any, ClassVar

from django import forms

from rocklash.answers.rows import PART_OWNERS
from rocklash.ui.forms import BenchForm, FactField, OneOfField, QuantityField
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.units import QuantityKind

_WHICH = dict.fromkeys(("required", "invalid_choice"), "Say which side and which set-up it was seen on.")


class ObservationForm(BenchForm):
    """Where it gave up, how sure that is, with which parts, and what shows it."""

    prefix_id = "seen"
    side = forms.ChoiceField(choices=[(side.value, side.value) for side in Side], widget=forms.HiddenInput, error_messages=_WHICH)
    speed = QuantityField(QuantityKind.SPEED, figure=(Owner.GOAL, "goal_rpm"), label="It gave up at")
    doubt = QuantityField(QuantityKind.SPEED, label="give or take", required=False)
    role = forms.ChoiceField(label="with the", choices=[("stock", "stock parts"), ("proposed", "proposed parts")], error_messages=_WHICH)
    note = forms.CharField(label="what shows it", required=False, max_length=300)

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


_KNOWN = [("card", "packet, card or maker's data"), ("measured", "measured here"), ("estimate", "estimate")]


class NewPartForm(BenchForm):
    """A part for a slot of the proposed set-up: its name and the few figures that tell most of it, in at most eight fields."""

    KEYS: ClassVar[dict[Owner, tuple[str, ...]]] = {
        Owner.SPRING: ("seat_load", "rate", "load", "load_height", "solid_height"),
        Owner.VALVE: ("mass", "head_diameter", "stem_diameter", "seat_width"),
        Owner.CAM: ("lift", "duration_1", "lobe_centre"),
    } | dict.fromkeys((Owner.RETAINER, Owner.KEEPERS, Owner.FOLLOWER, Owner.SHIM), ("mass",))

    prefix_id = "new"
    row = forms.CharField(required=False, widget=forms.HiddenInput)
    slot = forms.CharField(required=False, widget=forms.HiddenInput)
    seen = forms.CharField(required=False, widget=forms.HiddenInput)
    name = forms.CharField(label="Name", required=False, max_length=80)
    basis = OneOfField(_KNOWN, label="These figures are from")
    both = forms.BooleanField(label="The same on the other side", required=False)

    name.widget.attrs |= {"placeholder": "what its packet or label says", "autocomplete": "off"}

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        owner = PART_OWNERS.get(str(self["slot"].value() or ""))
        for key in self.KEYS.get(owner, ()) if owner else ():
            row = FIGURES[owner, key]  # type: ignore[index]
            field = QuantityField(row.kind, figure=(row.owner, key), label=row.label, required=False, help_text=row.hint)
            field.read_in(self.system)
            self.fields[key] = field
        self.order_fields(["name", *self.KEYS.get(owner, ()), "basis", "both"] if owner else ["name"])
