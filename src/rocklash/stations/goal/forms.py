"""What is told of a port on the flow bench."""

from django import forms

from rocklash.ui.forms import BenchForm, OneOfField, QuantityField
from valvetrain.units import QuantityKind


class FlowForm(BenchForm):
    """A flow bench's log, typed or as a file, and how it was taken."""

    prefix_id = "flow"
    side = OneOfField([("intake", "intake"), ("exhaust", "exhaust")], label="Port")
    state = OneOfField([("now", "as it is now"), ("stock", "stock, before the work")], label="The port is")
    depression = QuantityField(QuantityKind.PRESSURE, label="Depression, such as 28 inH2O or 7 kPa", plain_label=True)
    unit = OneOfField([("l/s", "l/s"), ("cfm", "cfm"), ("l/min", "l/min"), ("m3/h", "m³/h")], label="Bare flows are in")
    name = forms.CharField(label="A note: whose bench, which port", required=False, max_length=80)
    text = forms.CharField(
        label="Readings, typed or pasted: one a line, lift and flow", required=False, strip=False,
        widget=forms.Textarea({"rows": 4, "cols": None, "placeholder": "2  18\n4  35"}),
    )  # fmt: skip
    file = forms.FileField(label="or a CSV file", required=False, widget=forms.FileInput({"accept": ".csv,.txt,text/csv"}))
