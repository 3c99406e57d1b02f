"""Gaps as they are read at the bench, and an over-rev as it is told."""

from django import forms

from rocklash.answers.rows import kind_of
from rocklash.records.models import Build
from rocklash.ui.forms import BenchForm, OneOfField, QuantityField
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Gear
from valvetrain.parts.gaps import GapKind, Way
from valvetrain.units import QuantityKind, unit_symbol

_READ = [kind for kind in GapKind if kind not in (GapKind.COIL_BIND, GapKind.RETAINER)]
_WAYS = {
    Way.CLAY: "clay, thickness",
    Way.DROP: "drop test: valve pushed until it meets",
    Way.CHECKING: "checking springs",
    Way.GAUGE: "feeler, caliper or gauge",
}
_REV = (Owner.GOAL, "over_rev")


class GapForm(BenchForm):
    """One gap of one valve, read once or at several crank angles."""

    prefix_id = "g"
    valve = OneOfField([], label="Valve")
    gap = OneOfField([], label="Gap")
    way = OneOfField([(way.value, words) for way, words in _WAYS.items()], label="Read with")
    readings = forms.CharField(
        label="Reading", required=False, strip=False, max_length=4000,
        help_text="clay or gauge: the figure alone. Drop test and checking springs: crank degrees from overlap TDC, then the gap, a line each",
        widget=forms.Textarea({"rows": 4, "cols": None, "data-draft": "room-readings", "placeholder": "−10  1.84\n0  1.55\n10  2.30"}),
    )  # fmt: skip

    def offer(self, about: Build) -> None:
        """The valves of the build, and the gaps of its kind of engine."""
        side_valve = kind_of(about.engine).gear is Gear.SIDE_VALVE
        shown = [gap for gap in _READ if (gap is GapKind.HEAD_ROOM) == side_valve or gap in (GapKind.NESTED, GapKind.LOBE_HEAD)]
        self.one_of("valve").offer([(str(place.pk), place.name) for place in about.engine.positions.all()])
        self.one_of("gap").offer([(gap.value, ", ".join(filter(None, (gap.words, gap.where)))) for gap in shown])
        self.fields["readings"].label = f"Reading, {unit_symbol(QuantityKind.LENGTH, self.system)}"


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
