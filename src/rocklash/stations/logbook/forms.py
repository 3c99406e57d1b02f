"""What is typed into a logbook: what it ran, and what was done."""

from datetime import timedelta
from typing import Any

from django import forms
from django.utils import timezone

from rocklash.ui.forms import BenchForm, QuantityField
from valvetrain.units import QuantityKind

_LONGEST = 24.0 * 3600.0 * 31.0  # s in one entry
_PASSES = dict.fromkeys(("invalid", "min_value", "max_value"), "Passes are a whole number between one and 1,000.")


class RunForm(BenchForm):
    """What an engine ran."""

    prefix_id = "run"
    ran = QuantityField(QuantityKind.DURATION, label="It ran", required=False)
    passes = forms.IntegerField(label="Passes", required=False, min_value=1, max_value=1000, error_messages=_PASSES)
    fuel = QuantityField(QuantityKind.VOLUME, label="Fuel", required=False)
    made_on = forms.DateField(
        label="On", required=False, widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"), error_messages={"invalid": "Write the day as 2027-03-14."}
    )  # fmt: skip
    note = forms.CharField(label="Note", required=False, max_length=200)

    def clean(self) -> dict[str, Any]:
        """Something of it, not more than a month at once, not in the days to come."""
        sent = super().clean() or {}
        if not any(sent.get(key) for key in ("ran", "passes", "fuel")) and not self.errors:
            self.add_error("ran", "Say what it ran: 1.5 h, 40 min, or passes, or fuel.")
        ran = sent.get("ran")
        if ran and not 0.0 < ran.value <= _LONGEST:
            self.add_error("ran", "One entry holds up to 744 hours, and an engine runs forwards.")
        fuel = sent.get("fuel")
        if fuel and not 0.0 < fuel.value <= 1.0:
            self.add_error("fuel", "Fuel lies between nothing and 1,000 l: 12 l.")
        day = sent.get("made_on")
        if day and day > timezone.localdate() + timedelta(days=1):
            self.add_error("made_on", "This day has not come yet.")
        return sent


class CareForm(BenchForm):
    """Something that was due and is done."""

    prefix_id = "care"
    what = forms.CharField(max_length=60, widget=forms.HiddenInput)
    note = forms.CharField(label="Note", required=False, max_length=200)
