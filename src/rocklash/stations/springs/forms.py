"""What an engine was seen to do, as it is asked."""

from django import forms

from rocklash.ui.forms import BenchForm, QuantityField
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
