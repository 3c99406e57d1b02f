"""What is told of a cam: a log of the degree wheel, a file, two readings at one lift."""

from django import forms

from rocklash.ui.forms import BenchForm, OneOfField, QuantityField
from valvetrain.units import QuantityKind

_TABLES = {"accept": ".csv,.txt,text/csv"}


class LogForm(BenchForm):
    """A degree-wheel log as text or file, and how it was taken."""

    prefix_id = "log"
    text = forms.CharField(
        label="Readings, typed or pasted: one a line, angle and indicator", required=False, strip=False,
        widget=forms.Textarea({"rows": 4, "cols": None, "placeholder": "-120  0.02\n-118  0.05"}),
    )  # fmt: skip
    file = forms.FileField(label="or a CSV file", required=False, widget=forms.FileInput(_TABLES))
    angles = OneOfField([("crank", "crank degrees"), ("cam", "cam degrees")], label="Angles are")
    at = OneOfField(
        [("valve", "the retainer, no clearance"), ("follower", "the follower, along its path"), ("radius", "the bare lobe, with a point")],
        label="The indicator stands on",
    )
    zero = OneOfField([("", "no matter where"), ("tdc", "overlap TDC: take the lobe centre too")], label="The wheel reads zero at")
    tilt = QuantityField(QuantityKind.ANGLE, label="Indicator off the axis by, degrees", plain_label=True, required=False)

    tilt.widget.attrs |= {"size": 4, "placeholder": "0"}


class CamFileForm(BenchForm):
    """A cam as a file, and how a lift table is told."""

    prefix_id = "file"
    side = forms.CharField(required=False, widget=forms.HiddenInput)
    file = forms.FileField(
        label="CSV of angle and lift, or JSON", required=False, widget=forms.FileInput({"accept": ".csv,.txt,.json", "required": True})
    )
    angles = OneOfField([("cam", "cam degrees"), ("crank", "crank degrees")], label="Angles in a CSV are")
    at = OneOfField([("valve", "the valve"), ("follower", "the follower"), ("radius", "the bare lobe")], label="Lifts are told at")


class DegreeForm(BenchForm):
    """Crank angles after overlap TDC at one lift on both flanks."""

    first = QuantityField(QuantityKind.ANGLE, label="First reading", max_length=12)
    second = QuantityField(QuantityKind.ANGLE, label="Second reading, same lift", max_length=12)
