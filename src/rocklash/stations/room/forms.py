"""An over-rev as it is told."""

from django import forms

from rocklash.ui.forms import BenchForm, QuantityField
from valvetrain.parts.catalogue import Owner
from valvetrain.units import QuantityKind

_REV = (Owner.GOAL, "over_rev")


class OverRevForm(BenchForm):
    """What is known: the speed before a shift with both gears, a speed over the ground with one, or a logged peak."""

    prefix_id = "o"
    before = QuantityField(QuantityKind.SPEED, figure=_REV, label="Speed before the shift", required=False)
    gear_from = QuantityField(QuantityKind.NUMBER, label="From the gear with ratio", required=False)
    gear_to = QuantityField(QuantityKind.NUMBER, label="into the one with", required=False)
    road = QuantityField(
        QuantityKind.ROAD, label="or the speed over the ground, and the gear it went into", required=False, plain_label=True
    )
    peak = QuantityField(QuantityKind.SPEED, figure=_REV, label="or the peak as logged", required=False)
    note = forms.CharField(label="Note", required=False, max_length=200)

    before.widget.attrs |= {"inputmode": "numeric", "placeholder": "10,450"}
    gear_from.widget.attrs |= {"list": "gears", "inputmode": "decimal", "placeholder": "1.420"}
    gear_to.widget.attrs |= {"list": "gears", "inputmode": "decimal", "placeholder": "1.885"}
    road.widget.attrs |= {"placeholder": "96 km/h"}
    peak.widget.attrs |= {"inputmode": "numeric"}
