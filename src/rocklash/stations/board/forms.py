"""A new engine by its kind, and a build file."""

from typing import Any

from django import forms

from rocklash.stations.board.pages.doors import DOORS
from rocklash.ui.choices import ADJUSTERS, CYLINDERS, FOLLOWERS, GEARS, USES
from rocklash.ui.forms import BenchForm, QuantityField
from valvetrain.parts.beginnings import BEGINNINGS
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import FITTING, Adjuster, Follower, Gear, Side, Use
from valvetrain.units import QuantityKind, unit_symbol

GOES_WITH = {gear.value: ([f.value for f in followers], [a.value for a in adjusters]) for gear, (followers, adjusters) in FITTING.items()}


_KNOWN = (
    ("seat_load", "Seat force", QuantityKind.FORCE, Owner.SPRING),
    ("rate", "Spring rate", QuantityKind.RATE, Owner.SPRING),
    ("mass", "Retainer mass", QuantityKind.MASS, Owner.RETAINER),
)


class NewBuildForm(BenchForm):
    """From nothing to an engine: its kind and what is known of it. Only the name is asked for, and the goal where that is what it came for."""

    why = forms.CharField(widget=forms.HiddenInput, required=False)
    like = forms.ChoiceField(
        label="Begin from a plausible engine",
        required=False,
        widget=forms.RadioSelect,
        choices=[*((key, each.name) for key, each in BEGINNINGS.items()), ("", "none of these")],
        initial="",
    )

    name = forms.CharField(label="What do you call it?", max_length=60, help_text="For example Plover 305, or the owner's nickname for it.")
    cylinders = forms.ChoiceField(label="Cylinders", choices=CYLINDERS, initial="1")
    gear = forms.ChoiceField(label="Valve gear", choices=GEARS, initial="dohc")
    valves_per_side = forms.ChoiceField(
        label="Valves per cylinder",
        choices=[("1", "two: one in, one out"), ("2", "four: two in, two out"), ("3", "six: three and three")],
        initial="2",
    )
    follower = forms.ChoiceField(label="Follower", choices=FOLLOWERS, initial="bucket")
    adjuster = forms.ChoiceField(label="Clearance is set by", choices=ADJUSTERS, initial="shim_under")
    use = forms.ChoiceField(label="What is it for?", choices=USES, initial="street",
        help_text="It sets the limits until you type the maker's: races allow less room and more piston speed. Goal shows them, and can change it.",
    )  # fmt: skip
    bore = QuantityField(
        QuantityKind.LENGTH, figure=(Owner.ENGINE, "bore"), label="Bore", required=False, help_text="for example 77 mm or 3.03 in"
    )
    stroke = QuantityField(
        QuantityKind.LENGTH, figure=(Owner.ENGINE, "stroke"), label="Stroke", required=False, help_text="for example 53.6 mm or 2.11 in"
    )
    limiter = QuantityField(QuantityKind.SPEED, figure=(Owner.ENGINE, "limiter"), label="Stock limiter", required=False)
    goal_rpm = QuantityField(
        QuantityKind.SPEED,
        figure=(Owner.GOAL, "goal_rpm"),
        label="Highest engine speed it must hold, rpm",
        plain_label=True,
        required=False,
        help_text="for example 9,800",
    )
    boost = QuantityField(QuantityKind.PRESSURE, figure=(Owner.GOAL, "boost"), label="Boost if any", required=False)

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, auto_id="id_%s", **options)
        for key, label, kind, owner in _KNOWN:
            for side in Side:
                told = QuantityField(kind, figure=(owner, key), label=f"{label}, {side.value}", required=False)
                told.read_in(self.system)
                self.fields[f"{key}_{side.value}"] = told
        for field in self.fields.values():
            if isinstance(field, QuantityField):
                field.help_text = field.help_text or field.hint()

    def clean(self) -> dict[str, Any]:
        """Refuse a follower or adjuster that does not exist with the gear, with what would."""
        data = super().clean() or {}
        gear = data.get("gear")
        if gear:
            followers, adjusters = FITTING[Gear(gear)]
            if data.get("follower") and Follower(data["follower"]) not in followers:
                self.add_error("follower", f"With this gear it is {self._words(FOLLOWERS, followers)}.")
            if data.get("adjuster") and Adjuster(data["adjuster"]) not in adjusters:
                self.add_error("adjuster", f"With this gear it is {self._words(ADJUSTERS, adjusters)}.")
            if gear == "side_valve" and data.get("valves_per_side") != "1":
                self.add_error("valves_per_side", "A side-valve engine has two valves per cylinder.")
        if not data.get("goal_rpm") and not self.errors.get("goal_rpm") and self.door == "raise":
            self.add_error("goal_rpm", "Say the highest speed it must hold, for example 9,800; or say at the top what else brings it here.")
        if data.get("use"):
            data["use"] = Use(data["use"])
        return data

    @property
    def door(self) -> str:
        """What the engine came for, as a key of DOORS."""
        asked = "clearances" if self.data.get("only") == "clearances" else str(self.data.get("why", ""))
        return asked if asked in DOORS else "raise"

    @property
    def known(self) -> list[tuple[str, list[Any]]]:
        """What may be known of the springs: a row of fields for each, intake and exhaust."""
        return [
            (f"{label}, {unit_symbol(kind, self.system)}", [self[f"{key}_{side.value}"] for side in Side]) for key, label, kind, _ in _KNOWN
        ]

    @staticmethod
    def _words(choices: list[tuple[str, str]], wanted: tuple[Follower | Adjuster, ...]) -> str:
        words = [label for value, label in choices if value in wanted]
        return " or ".join(words)


class ImportForm(forms.Form):
    """A build file."""

    file = forms.FileField(label="Build file (JSON), or a zip with all its records")
