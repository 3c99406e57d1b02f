"""What is told of an engine beside its figures: its papers, and its layout where that was wrong."""

from typing import Any

from django import forms

from rocklash.records.models import Build
from rocklash.ui.choices import ADJUSTERS, CYLINDERS, FOLLOWERS, GEARS
from rocklash.ui.forms import BenchForm, OneOfField
from valvetrain.parts.engine import FITTING, Gear

_VALVES = [("1", "two: one in, one out"), ("2", "four: two in, two out"), ("3", "six: three and three")]


class IdentityForm(BenchForm):
    """Serial number, owner, manual."""

    prefix_id = "is"
    seen = forms.CharField(required=False, widget=forms.HiddenInput)
    serial = forms.CharField(label="Serial number", required=False, max_length=60)
    owner = forms.CharField(label="Owner", required=False, max_length=120, help_text="stays in this workshop and goes into no file")
    manual = forms.CharField(
        label="Manual that the maker's figures are from", required=False, max_length=120, help_text="its title and edition"
    )


class LayoutForm(BenchForm):
    """The layout, with what fits together checked as when an engine is begun."""

    prefix_id = "lay"
    seen = forms.CharField(required=False, widget=forms.HiddenInput)
    cylinders = OneOfField(CYLINDERS, label="Cylinders")
    valves_per_side = OneOfField(_VALVES, label="Valves per cylinder")
    gear = OneOfField(GEARS, label="Valve gear")
    follower = OneOfField(FOLLOWERS, label="Follower")
    adjuster = OneOfField(ADJUSTERS, label="Clearance is set by")

    def offer(self, about: Build) -> None:
        """Filled with the engine as it is."""
        for name in ("cylinders", "valves_per_side", "gear", "follower", "adjuster"):
            self.fields[name].initial = str(getattr(about.engine, name))

    def clean(self) -> dict[str, Any]:
        """Refuse what does not exist with the gear, with what would; numbers as numbers."""
        data = super().clean() or {}
        if not {"gear", "follower", "adjuster", "cylinders", "valves_per_side"} <= data.keys():
            return data
        numbers = {name: int(data[name]) for name in ("cylinders", "valves_per_side")}
        followers, adjusters = FITTING[Gear(data["gear"])]
        for name, fitting, words in (("follower", followers, FOLLOWERS), ("adjuster", adjusters, ADJUSTERS)):
            if data[name] not in fitting:
                self.add_error(name, f"With this gear it is {' or '.join(said for value, said in words if value in fitting)}.")
        if data["gear"] == Gear.SIDE_VALVE and data["valves_per_side"] != "1":
            self.add_error("valves_per_side", "A side-valve engine has two valves per cylinder.")
        return data | numbers
