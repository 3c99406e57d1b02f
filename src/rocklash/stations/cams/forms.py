"""What is told of a cam: a log of the degree wheel, a file, two readings at one lift."""

from typing import Any

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
    at = OneOfField([("valve", "the valve"), ("follower", "the follower"), ("radius", "the bare lobe")], label="Lifts are given at")


class DegreeForm(BenchForm):
    """Crank angles after overlap TDC at one lift on both flanks."""

    first = QuantityField(QuantityKind.ANGLE, label="First reading", max_length=12)
    second = QuantityField(QuantityKind.ANGLE, label="Second reading, same lift", max_length=12)


class RegrindForm(BenchForm):
    """What is asked of a regrind; an empty field takes the build's own figure."""

    prefix_id = "grind"
    start = OneOfField([("stock", "the stock cam"), ("proposed", "the proposed cam")], label="Ground from")
    ends = OneOfField([("worst", "at their unfavourable ends"), ("middle", "at their middle")], label="Springs and masses")
    speed = QuantityField(QuantityKind.SPEED, label="Must follow to", required=False)
    lift = QuantityField(QuantityKind.LENGTH, label="Full lift at most", required=False)
    wider = QuantityField(QuantityKind.ANGLE, label="Duration added, crank degrees", plain_label=True, required=False)
    acceleration = QuantityField(QuantityKind.NUMBER, label="Acceleration, % of the old peak", plain_label=True, required=False)
    jerk = QuantityField(QuantityKind.NUMBER, label="Jerk, % of the old peak", plain_label=True, required=False)
    radius = QuantityField(QuantityKind.LENGTH, label="Nose radius at least", required=False)
    skim = QuantityField(QuantityKind.LENGTH, label="Ground clean all round", required=False)
    off = QuantityField(QuantityKind.LENGTH, label="Off the base radius at most", required=False)
    wheel = QuantityField(QuantityKind.LENGTH, label="Grinding wheel, diameter", required=False)

    def keep_within(self, key: str, low: float, high: float, words: str) -> None:
        """Refuse a figure out of its bounds (SI), in words."""
        told = self.cleaned_data.get(key)
        if told and not low <= told.value <= high:
            self.add_error(key, words)

    def clean(self) -> dict[str, Any]:
        """Each figure within what a cam can be."""
        self.keep_within("speed", 10.0, 500.0, "A speed between 600 and 30,000 rpm.")
        self.keep_within("lift", 1e-3, 25e-3, "A full lift between 1 and 25 mm (.04 and .98 in).")
        self.keep_within("wider", 0.0, 0.7, "Between 0 and 40 degrees of the crank.")
        for key in ("acceleration", "jerk"):
            self.keep_within(key, 10.0, 400.0, "Between 10 and 400 per cent of the old lobe's.")
        self.keep_within("radius", 0.1e-3, 20e-3, "A radius between 0.1 and 20 mm (.004 and .79 in).")
        self.keep_within("skim", 0.0, 1e-3, "Between 0 and 1 mm (.04 in).")
        self.keep_within("off", 0.0, 5e-3, "Between 0 and 5 mm (.2 in).")
        self.keep_within("wheel", 10e-3, 1.0, "A wheel between 10 and 1,000 mm (.4 and 39 in).")
        return self.cleaned_data


class LayRegrindForm(BenchForm):
    """What the ground cam shall be called."""

    prefix_id = "lay"
    name = forms.CharField(label="Call it", max_length=80)
