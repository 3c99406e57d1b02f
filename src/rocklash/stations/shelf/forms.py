"""A part of the shelf, one used part of it, and a table of parts."""

from typing import Any

from django import forms

from rocklash.records.figure_column import figures_of
from rocklash.records.models import Part
from rocklash.ui.forms import BenchForm, FactField, OneOfField, QuantityField
from valvetrain.formats.shelf_table import KINDS
from valvetrain.parts.catalogue import FACTS, Owner, of_owner
from valvetrain.quantities import plain
from valvetrain.units import QuantityKind

_KNOWN = [("card", "packet, card or maker's data"), ("measured", "measured here"), ("estimate", "estimate")]
KIND_CHOICES = [(owner.value, words) for owner, words in KINDS.items()]


def _whole(label: str, most: int, *, least: int = 0, hint: str = "") -> forms.IntegerField:
    wrong = f"Write a whole number from {least} to {most:,}, or leave it empty."
    return forms.IntegerField(
        label=label, required=False, min_value=least, max_value=most, help_text=hint,
        error_messages={"invalid": wrong, "min_value": wrong, "max_value": wrong}, widget=forms.TextInput({"inputmode": "numeric"}),
    )  # fmt: skip


class PartForm(BenchForm):
    """Everything of a part: what it is called and costs, and its figures and words by its kind. `about` is the part."""

    prefix_id = "part"
    name = forms.CharField(label="Name", max_length=80, error_messages={"required": "Give it a name, such as what its packet says."})
    number = forms.CharField(label="Part number", required=False, max_length=40)
    side = OneOfField([("", "either side"), ("intake", "intake only"), ("exhaust", "exhaust only")], label="For")
    claim = forms.CharField(label="The packet says", required=False, max_length=80)
    supplier = forms.CharField(label="Supplier", required=False, max_length=80)
    price = forms.DecimalField(
        label="Price, as it is sold", required=False, min_value=0, max_digits=9, decimal_places=2, widget=forms.TextInput({"inputmode": "decimal"}),
        error_messages=dict.fromkeys(
            ("invalid", "min_value", "max_digits", "max_decimal_places", "max_whole_digits"), "Write a bare number with at most two decimals: 34.50."
        ),
    )  # fmt: skip
    pack = _whole("Sold by", 1000, least=1, hint="how many are in what the price is for")
    lead_days = _whole("Days from order to bench", 1000)
    quantity = _whole("On the shelf", 100_000, hint="single ones")
    service_hours = forms.FloatField(
        label="Renewed after, running hours", required=False, min_value=0.1, max_value=100_000, widget=forms.TextInput({"inputmode": "decimal"}),
        error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "Write hours as a bare number: 60."),
    )  # fmt: skip
    place = forms.CharField(label="Lies in", required=False, max_length=40)
    exchange = forms.CharField(label="Exchange", required=False, max_length=120, help_text="whether and how the supplier changes it")
    note = forms.CharField(label="Note", required=False, max_length=300)
    basis = OneOfField(_KNOWN, label="Figures that you type or change are from")
    seen = forms.CharField(required=False, widget=forms.HiddenInput)

    ABOUT = (
        "name",
        "number",
        "side",
        "claim",
        "supplier",
        "price",
        "pack",
        "lead_days",
        "quantity",
        "service_hours",
        "place",
        "exchange",
        "note",
    )

    def offer(self, about: Any) -> None:
        """The figures and words of the part's kind, with what is known of it."""
        part: Part = about
        owner = Owner(part.kind)
        known = figures_of(part.figures, owner)
        for key in self.ABOUT:
            self.fields[key].initial = getattr(part, key)
        for row in of_owner(owner):
            field = QuantityField(row.kind, figure=(owner, row.key), label=row.label, required=False, help_text=row.hint)
            field.read_in(self.system)
            if row.key in known:
                field.initial = plain(known[row.key].value, row.kind, self.system)
            self.fields[f"figure-{row.key}"] = field
        for kind, key in FACTS:
            if kind is owner:
                word = FactField(owner, key)
                word.initial = part.facts.get(key, "")
                self.fields[f"fact-{key}"] = word
        self.order_fields([*self.ABOUT, *(name for name in self.fields if name.startswith(("figure-", "fact-"))), "basis"])

    def figures(self) -> list[Any]:
        """The fields of figures and words, for a column of their own."""
        return [self[name] for name in self.fields if name.startswith(("figure-", "fact-"))]

    def rest(self) -> list[Any]:
        """The fields of what it is called and costs."""
        return [self[name] for name in self.ABOUT]


class IndividualForm(BenchForm):
    """One used part, or a lot of a donor."""

    prefix_id = "one"
    name = forms.CharField(label="Which one", max_length=60, error_messages={"required": "Say which one: came off EX 3, donor head lot 2."})
    count = _whole("How many of it", 10_000, least=1)
    hours = forms.FloatField(label="Running hours it has", required=False, min_value=0, max_value=100_000, widget=forms.TextInput(
        {"inputmode": "decimal"}), error_messages=dict.fromkeys(("invalid", "min_value", "max_value"), "Write hours as a bare number: 40."))  # fmt: skip
    seasons = _whole("Seasons it has", 100)
    condition = OneOfField([("good", "good to use"), ("marginal", "to be tested"), ("scrap", "not to be used")], label="It is")
    mass = QuantityField(QuantityKind.MASS, label="Weighed", required=False)
    load = QuantityField(QuantityKind.FORCE, label="Load on the tester", required=False)
    load_height = QuantityField(QuantityKind.LENGTH, label="at a height of", required=False)
    rate = QuantityField(QuantityKind.RATE, label="Rate on the tester", required=False)
    offset = QuantityField(
        QuantityKind.LENGTH, label="Lets the spring stand higher by", required=False, help_text="against the nominal part"
    )
    history = forms.CharField(label="What it has behind it", required=False, max_length=300)


class TableForm(BenchForm):
    """A table of parts as file or text."""

    prefix_id = "in"
    file = forms.FileField(label="CSV or XLSX file", required=False, widget=forms.FileInput({"accept": ".csv,.xlsx,.txt"}))
    text = forms.CharField(
        label="or paste the table, headings first", required=False, strip=False,
        widget=forms.Textarea({"rows": 6, "cols": None, "placeholder": "name,kind,price,mass [g]\nLight retainer,retainer,36,7.2"}),
    )  # fmt: skip
    update = forms.BooleanField(label="Change parts that are on the shelf already under the same kind and name", required=False)
