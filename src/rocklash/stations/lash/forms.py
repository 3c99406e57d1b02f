"""What one valve's reading sends, and shims as they come to the shelf."""

from dataclasses import dataclass

from django import forms

from rocklash.records.models import Build
from rocklash.ui.forms import BenchForm, OneOfField
from valvetrain.units import QuantityKind, unit_symbol


@dataclass(frozen=True)
class Sent:
    """What was sent for one valve, as typed. `seen` is the revision of the reading the person saw, 0 for none."""

    valve: str
    goes: str
    stops: str
    shim: str
    source: str
    seen: str
    label: str = ""
    renewed: str = ""


class ShelfForm(BenchForm):
    """Sizes with how many of each, their shape, and how they are known."""

    sizes = forms.CharField(
        label="Sizes", required=False, max_length=4000,
        widget=forms.Textarea({"rows": 4, "cols": None, "data-draft": "shelf-sizes", "placeholder": "2.50 x 3; 2.525; 2.550 x 2"}),
    )  # fmt: skip
    shape = forms.CharField(label="Shape", required=False, max_length=40, widget=forms.TextInput({"placeholder": "9.5 mm round"}))
    measured = OneOfField([("yes", "micrometer"), ("no", "label only")], label="Known by")

    def offer(self, about: Build) -> None:
        """The shape this engine takes, and the reader's unit."""
        self.fields["shape"].initial = about.engine.shim_shape
        self.fields["sizes"].label = f"Sizes, {unit_symbol(QuantityKind.LENGTH, self.system)}, with how many"
