"""What tests are told: how they were made and what was read."""

import re
from typing import Any

from django import forms

from rocklash.records.models import Phase
from rocklash.ui.forms import BenchForm, OneOfField, QuantityField
from valvetrain.errors import QuantityError
from valvetrain.quantities import parse
from valvetrain.studies.proof.air import Standard
from valvetrain.studies.proof.compression import Condition
from valvetrain.studies.proof.leak_down import Hiss
from valvetrain.units import QuantityKind, UnitSystem

CONDITIONS = [(each.name.lower(), each.value) for each in Condition]
HISSES = [(each.value, each.value) for each in Hiss]
GAVE_UP = [
    ("", "cannot say"), ("wall", "soft wall: power stops"), ("clean", "clean cut, a steady beat"), ("ragged", "ragged, misfires"),
    ("clatter", "clatter from the head"), ("fades", "fades, keeps going"),
]  # fmt: skip
STANDARDS = [(each.value, each.value) for each in Standard]
_MOST_PULLS = 8


def pressures(text: str, system: UnitSystem) -> list[float]:
    """Pressures (Pa) of one line: `12.4 12.6 bar`, `178, 181 psi`; a unit at the end counts for those before it without one.

    Raises QuantityError naming what cannot be read.
    """
    found = re.findall(r"([+\-\N{MINUS SIGN}]?\d+(?:[.,]\d+)?)\s*([A-Za-z%²0-9/]*[A-Za-z%²/]+\d*)?", text.replace(";", " "))
    if not found and text.strip():
        raise QuantityError(f"“{text.strip()[:24]}” is no pressure. Write each pull with its unit: 12.4 12.6 bar.")
    if len(found) > _MOST_PULLS:
        raise QuantityError(f"{len(found)} pulls are here; {_MOST_PULLS} are plenty.")
    last = next((unit for _, unit in reversed(found) if unit), "")
    return [parse(f"{number} {unit or last}".strip(), QuantityKind.PRESSURE, system).value for number, unit in found]


def _day() -> forms.DateField:
    words = "Write the day as 2027-03-14."
    return forms.DateField(
        label="Made on", required=False, widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"), error_messages={"invalid": words}
    )


def _number(label: str, low: float, high: float) -> forms.FloatField:
    words = f"Write a bare number between {low:g} and {high:g}, or leave it empty.".replace("-", "\N{MINUS SIGN}")
    return forms.FloatField(
        label=label, required=False, min_value=low, max_value=high, widget=forms.TextInput({"inputmode": "decimal"}),
        error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), words),
    )  # fmt: skip


class _TestForm(BenchForm):
    """What every test is told."""

    phase = OneOfField([(each.value, f"{each.label} the work") for each in Phase], label="Made")
    made_on = _day()
    note = forms.CharField(label="Note", required=False, max_length=200)


class CompressionForm(_TestForm):
    """A gauge on each cylinder, dry and with oil, and how it was done."""

    prefix_id = "compression"
    template_name = "proof/cylinders_form.html"
    met = forms.MultipleChoiceField(
        label="So it was done", required=False, choices=CONDITIONS, widget=forms.CheckboxSelectMultiple
    )  # fmt: skip
    cranking = QuantityField(QuantityKind.SPEED, label="Cranking speed", required=False)
    ambient = QuantityField(QuantityKind.PRESSURE, label="Air pressure that day", required=False)
    hose = QuantityField(QuantityKind.VOLUME, label="Hose, where its valve sits at the gauge", required=False)
    oil_volume = QuantityField(QuantityKind.VOLUME, label="Oil for the wet pulls", required=False)
    oil = forms.CharField(label="Oil in the engine", required=False, max_length=60)
    decompressor = forms.BooleanField(label="has a decompressor", required=False)

    def offer(self, about: Any) -> None:
        """A line dry and a line wet for each cylinder."""
        for number in range(1, about.engine.cylinders + 1):
            for key, words in (
                ("dry", f"Cylinder {number}"),
                ("first", f"Cylinder {number}, first stroke"),
                ("wet", f"Cylinder {number} with oil"),
            ):
                self.fields[f"{key}_{number}"] = forms.CharField(
                    label=words, required=False, max_length=80, widget=forms.TextInput({"aria-label": words})
                )
        self.cylinders = range(1, about.engine.cylinders + 1)

    @property
    def lines(self) -> list[tuple[int, list[Any]]]:
        """Number with its fields: dry, first stroke, wet."""
        return [(number, [self[f"{key}_{number}"] for key in ("dry", "first", "wet")]) for number in self.cylinders]

    @property
    def others(self) -> list[Any]:
        """Everything but the lines."""
        return [field for field in self.visible_fields() if not field.name.startswith(("dry_", "first_", "wet_"))]

    def clean(self) -> dict[str, Any]:
        """Pressures in pascal by cylinder."""
        sent = super().clean() or {}
        read: dict[str, dict[str, Any]] = {}
        for number in self.cylinders:
            for key in ("dry", "first", "wet"):
                try:
                    found = pressures(sent.get(f"{key}_{number}", ""), self.system)
                except QuantityError as error:
                    self.add_error(f"{key}_{number}", error.told(self.system))
                    continue
                if any(not 1e3 <= value <= 60e5 for value in found):
                    self.add_error(f"{key}_{number}", "A gauge reads between 0.01 and 60 bar. Which unit is it?")
                elif key == "first" and found:
                    self._first(number, found, read)
                elif found:
                    read.setdefault(str(number), {})[key] = found
        if not any("dry" in each for each in read.values()) and not self.errors:
            self.add_error("dry_1", "Give at least one dry pull: 12.4 bar, or several: 12.4 12.6 bar.")
        turned = sent.get("cranking")
        if turned and not 0.5 <= turned.value <= 30.0:
            self.add_error("cranking", "A starter turns an engine at 30 to 1,800 rpm. Leave it empty where it is not known.")
        sent["cylinders_read"] = read
        return sent

    def _first(self, number: int, found: list[float], read: dict[str, dict[str, Any]]) -> None:
        """Where the needle stood after the first stroke: one reading, below the last of the same pull."""
        dry = read.get(str(number), {}).get("dry", [])
        if len(found) > 1:
            self.add_error(f"first_{number}", "One reading: where the needle stood after the first stroke of the first pull.")
        elif dry and found[0] > 1.02 * dry[0]:
            self.add_error(f"first_{number}", "The first stroke cannot read more than the whole pull. Are the two exchanged?")
        else:
            read.setdefault(str(number), {})["first"] = found[0]


class LeakForm(_TestForm):
    """A leak-down tester on each cylinder: the pressure behind it or its percent, and where it hisses."""

    prefix_id = "leak"
    template_name = "proof/leaks_form.html"
    regulated = QuantityField(QuantityKind.PRESSURE, label="Regulated pressure", required=False)
    restrictor = QuantityField(QuantityKind.LENGTH, label="Restrictor's bore", required=False)

    def offer(self, about: Any) -> None:
        """A line and a list of places for each cylinder."""
        for number in range(1, about.engine.cylinders + 1):
            self.fields[f"leak_{number}"] = forms.CharField(label=f"Cylinder {number}", required=False, max_length=24)
            self.fields[f"hiss_{number}"] = forms.MultipleChoiceField(
                label=f"Cylinder {number} hisses at", required=False, choices=HISSES, widget=forms.CheckboxSelectMultiple
            )
        self.cylinders = range(1, about.engine.cylinders + 1)

    @property
    def lines(self) -> list[tuple[int, Any, Any]]:
        """Number with its two fields."""
        return [(number, self[f"leak_{number}"], self[f"hiss_{number}"]) for number in self.cylinders]

    @property
    def others(self) -> list[Any]:
        """Everything but the lines."""
        return [field for field in self.visible_fields() if not field.name.startswith(("leak_", "hiss_"))]

    def clean(self) -> dict[str, Any]:
        """Pressure behind the restrictor in pascal by cylinder."""
        sent = super().clean() or {}
        given = sent.get("regulated")
        regulated = given.value if given else 550e3
        read: dict[str, dict[str, Any]] = {}
        for number in self.cylinders:
            text = sent.get(f"leak_{number}", "").strip()
            if not text:
                continue
            try:
                if text.endswith("%"):
                    lost = float(text[:-1].replace(",", ".")) / 100.0
                    behind = regulated * (1.0 - lost)
                else:
                    behind = parse(text, QuantityKind.PRESSURE, self.system).value
            except (ValueError, QuantityError):
                self.add_error(f"leak_{number}", "Write the percent lost, 8 %, or the pressure behind the restrictor, 4.9 bar.")
                continue
            if not 0.0 <= behind <= regulated:
                self.add_error(f"leak_{number}", "This lies above the regulated pressure, or below nothing. Percent is what is lost.")
                continue
            read[str(number)] = {"behind": behind, "hisses": sent.get(f"hiss_{number}", [])}
        if not read and not self.errors:
            self.add_error("leak_1", "Give at least one cylinder: 8 %, or the pressure behind the restrictor.")
        sent["cylinders_read"] = read
        return sent


class StarterForm(_TestForm):
    """A starter's current over time as a file."""

    prefix_id = "starter"
    good = forms.BooleanField(label="This is a known-good trace of this engine", required=False)


class RevForm(_TestForm):
    """Where it gave up, on which stretch, in which gear, by which instrument."""

    prefix_id = "rev"
    speed = QuantityField(QuantityKind.SPEED, label="Gave up at")
    doubt = QuantityField(QuantityKind.SPEED, label="Give or take", required=False)
    stretch = forms.CharField(label="Stretch or dyno", required=False, max_length=60)
    gear = forms.CharField(label="Gear", required=False, max_length=12)
    by = OneOfField([("tachometer", "tachometer"), ("logger", "logger"), ("dyno", "dyno"), ("ear", "by ear")], label="Read from")
    how = OneOfField(GAVE_UP, label="How")


class SoundForm(_TestForm):
    """A recording of a pull, from on the machine."""

    prefix_id = "sound"
    top = QuantityField(QuantityKind.SPEED, label="Expected to end near", required=False)
    where = forms.CharField(label="Where the microphone was", required=False, max_length=60)


class RunForm(_TestForm):
    """A run as a file, what it was made on, and the day's air."""

    prefix_id = "run"
    name = forms.CharField(label="Name", required=False, max_length=40)
    standard = OneOfField(STANDARDS, label="The file's power is")
    ambient = QuantityField(QuantityKind.PRESSURE, label="Air pressure there", required=False)
    temperature = QuantityField(QuantityKind.TEMPERATURE, label="Air temperature", required=False)
    humidity = forms.FloatField(
        label="Humidity, %", required=False, min_value=0, max_value=100, widget=forms.TextInput({"inputmode": "decimal"}),
        error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "Humidity lies between 0 and 100 %."),
    )  # fmt: skip
    dyno = forms.CharField(label="Dyno, or road", required=False, max_length=40)
    gear = forms.CharField(label="Gear", required=False, max_length=12)
    wheel = forms.CharField(label="Wheel and tyre", required=False, max_length=40)

    mass = QuantityField(QuantityKind.MASS, label="Road pull: mass with rider", required=False)
    drag = _number("Road pull: drag area, m²", 0.05, 3.0)
    at_100 = QuantityField(QuantityKind.SPEED, label="Road pull: engine at 100 km/h", required=False)
    slope = _number("Road pull: slope, %", -20.0, 20.0)
    way = OneOfField(
        [("", "one way only"), ("out", "out, and there is one back"), ("back", "back on the same road")], label="Road pull: way"
    )
    taken_off = _number("Turning parts changed, kg m² at the crank", -1.0, 1.0)


class VacuumForm(_TestForm):
    """Vacuum at full throttle by speed."""

    prefix_id = "vacuum"
    readings = forms.CharField(
        label="Speed, vacuum behind the throttle, and before it if read; one line each", max_length=1200, widget=forms.Textarea({"rows": 5, "cols": None}),
        error_messages={"required": "Write one pair a line: 9000 25 mbar."},
    )  # fmt: skip
    bore = QuantityField(QuantityKind.LENGTH, label="Throttle bore")
    throttles = forms.IntegerField(
        label="Throttles", min_value=1, max_value=12,
        error_messages=dict.fromkeys(("invalid", "required", "min_value", "max_value"), "Between one and twelve throttles."),
    )  # fmt: skip

    def clean_readings(self) -> list[list[float]]:
        """Lines of rev/s and Pa behind the throttle, and Pa before it where that was read too."""
        pairs = []
        for number, line in enumerate(self.cleaned_data["readings"].splitlines(), start=1):
            cells = line.split(None, 1)
            if not cells:
                continue
            try:
                speed = parse(cells[0], QuantityKind.SPEED, self.system).value
                found = pressures(cells[1].replace("mbar", "hPa"), self.system)
            except (IndexError, QuantityError) as error:
                raise forms.ValidationError(f"Line {number}: write speed and vacuum with its unit, 9000 25 mbar.") from error
            if not 1 <= len(found) <= 2:
                raise forms.ValidationError(f"Line {number}: one vacuum behind the throttle, and one before it at most.")
            if not all(0.0 <= vacuum <= 50e3 for vacuum in found) or not 5.0 <= speed <= 400.0:
                raise forms.ValidationError(f"Line {number}: at full throttle between nothing and 500 mbar, at 300 to 24,000 rpm.")
            if len(found) == 2 and found[1] > found[0]:
                raise forms.ValidationError(
                    f"Line {number}: before the throttle there is less vacuum than behind it. Are the two exchanged?"
                )
            pairs.append([speed, *found])
        return pairs
