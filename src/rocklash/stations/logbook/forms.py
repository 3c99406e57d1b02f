"""What is typed into a logbook: what it ran, and what was done."""

import re
from dataclasses import replace
from datetime import timedelta
from typing import Any

from django import forms
from django.utils import timezone

from rocklash.answers.logbook import logs_told
from rocklash.ui.forms import BenchForm, OneOfField, QuantityField
from valvetrain.parts.engine import Side
from valvetrain.studies.logbook.due import Unit
from valvetrain.units import QuantityKind

_BARE = re.compile(r"\d+(?:[.,]\d+)?")
_LONGEST = 24.0 * 3600.0 * 31.0  # s in one entry
_SEASONS = dict.fromkeys(("invalid", "min_value", "max_value"), "Seasons are a whole number between one and 40.")
_PASSES = dict.fromkeys(("invalid", "min_value", "max_value"), "Passes are a whole number between one and 1,000.")


class RunForm(BenchForm):
    """What an engine ran."""

    prefix_id = "run"
    ran = QuantityField(QuantityKind.DURATION, label="It ran", required=False)
    log = OneOfField(label="Or by the log of a run", choices=[("", "no, as typed")])
    passes = forms.IntegerField(label="Passes", required=False, min_value=1, max_value=1000, error_messages=_PASSES)
    fuel = QuantityField(QuantityKind.VOLUME, label="Fuel, l", plain_label=True, required=False)
    seasons = forms.IntegerField(label="Seasons", required=False, min_value=1, max_value=40, error_messages=_SEASONS)
    made_on = forms.DateField(
        label="On", required=False, widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"), error_messages={"invalid": "Write the day as 2027-03-14."}
    )  # fmt: skip
    note = forms.CharField(label="Note", required=False, max_length=200)

    def offer(self, about: Any) -> None:
        """Logs that tell time and speed; none, and nobody is asked."""
        known = logs_told(about)
        if known:
            self.one_of("log").offer([("", "no, as typed"), *known])
        else:
            del self.fields["log"]

    def clean(self) -> dict[str, Any]:
        """Something of it, not more than a month at once, not in the days to come."""
        sent = super().clean() or {}
        if not any(sent.get(key) for key in ("ran", "passes", "fuel", "seasons", "log")) and not self.errors:
            self.add_error("ran", "Say what it ran: 1.5 h, 40 min, passes, fuel or seasons.")
        ran = sent.get("ran")
        if ran and not 0.0 < ran.value <= _LONGEST:
            self.add_error("ran", "One entry holds up to 744 hours, and an engine runs forwards.")
        fuel = sent.get("fuel")
        if fuel and _BARE.fullmatch(fuel.text.strip()):  # a bare number is litres here, whoever reads in whichever units
            fuel = sent["fuel"] = replace(fuel, value=float(fuel.text.replace(",", ".")) / 1e3)
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


_DAY = {"invalid": "Write the day as 2027-03-14."}


class NoteForm(BenchForm):
    """Words for the line of time; a picture may come with them."""

    prefix_id = "note"
    words = forms.CharField(label="What is to be remembered", required=False, max_length=600, widget=forms.Textarea({"rows": 3}))
    made_on = forms.DateField(label="Of", required=False, widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"), error_messages=_DAY)

    def clean(self) -> dict[str, Any]:
        """Not of the days to come."""
        sent = super().clean() or {}
        day = sent.get("made_on")
        if day and day > timezone.localdate() + timedelta(days=1):
            self.add_error("made_on", "This day has not come yet.")
        return sent


class StartForm(BenchForm):
    """Since when a part runs in this engine, and what it brought along."""

    prefix_id = "start"
    part = forms.IntegerField(widget=forms.HiddenInput)
    side = forms.ChoiceField(choices=[(side.value, side.value) for side in Side], widget=forms.HiddenInput)
    made_on = forms.DateField(label="In since", widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"), error_messages=_DAY)
    had = QuantityField(QuantityKind.DURATION, label="It had run", required=False)

    def clean(self) -> dict[str, Any]:
        """Not of the days to come, and forwards."""
        sent = super().clean() or {}
        if sent.get("made_on") and sent["made_on"] > timezone.localdate():
            self.add_error("made_on", "This day has not come yet.")
        if sent.get("had") and not 0.0 <= sent["had"].value <= 3.6e8:
            self.add_error("had", "A part has run nothing or more, up to 100,000 h.")
        return sent


class RuleForm(BenchForm):
    """When something is due: as the manual of this engine says, or as the workshop does it on every engine."""

    prefix_id = "rule"
    what = forms.CharField(
        label="What", max_length=60, help_text="as the list names it, such as clearances, to take that rule's place; or anything else"
    )
    whose = forms.ChoiceField(label="Who says so", choices=[("maker", "this engine's manual"), ("own", "this workshop, for every engine")])
    least = forms.FloatField(label="Every", min_value=0.01, max_value=100_000, error_messages={"invalid": "Write a number: 15."})
    most = forms.FloatField(
        label="up to", required=False, min_value=0.01, max_value=100_000, help_text="empty where it is one figure",
        error_messages={"invalid": "Write a number: 20."},
    )  # fmt: skip
    unit = forms.ChoiceField(label="of", choices=[(Unit.HOURS, "hours"), (Unit.PASSES, "passes"), (Unit.SEASONS, "years")])
    page = forms.CharField(label="Page of the manual", required=False, max_length=60)
    does = forms.CharField(label="What to do", required=False, max_length=120)

    def clean(self) -> dict[str, Any]:
        """A range ends after it begins."""
        sent = super().clean() or {}
        least, most = sent.get("least"), sent.get("most")
        if least and most and most < least:
            self.add_error("most", f"It begins at {least:g}: end it there or later.")
        return sent
