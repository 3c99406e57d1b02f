"""What the forms of the bench share: the reader's unit system, and one template."""

from typing import Any

from django import forms
from django.forms.renderers import TemplatesSetting

from rocklash.ui.forms.fields import OneOfField, QuantityField
from valvetrain.units import UnitSystem


class BenchForm(forms.Form):
    """A form read in the units of whoever sends it; `{{ form }}` prints its fields, each with its label and what is wrong with it.

    `prefix_id` stands before the names of its fields on the page, where another form of the page has fields of the same names."""

    template_name = "ui/form.html"
    prefix_id = ""
    default_renderer = TemplatesSetting

    def __init__(self, *args: Any, system: UnitSystem = UnitSystem.METRIC, about: Any = None, **options: Any) -> None:
        options.setdefault("label_suffix", "")
        options.setdefault("auto_id", f"{self.prefix_id}-%s" if self.prefix_id else "%s")
        super().__init__(*args, **options)
        self.system = system
        for field in self.fields.values():
            if isinstance(field, QuantityField):
                field.read_in(system)
            elif isinstance(field, forms.IntegerField):  # a phone brings up figures
                field.widget.attrs.setdefault(
                    "inputmode", "decimal" if isinstance(field, forms.FloatField | forms.DecimalField) else "numeric"
                )
        if about is not None:
            self.offer(about)

    def offer(self, about: Any) -> None:
        """Fill choices that depend on what the form is about, mostly a build."""

    def one_of(self, name: str) -> OneOfField:
        """A field of choices, to offer some."""
        field = self.fields[name]
        assert isinstance(field, OneOfField)
        return field

    def sentences(self) -> dict[str, str]:
        """What is wrong, by field."""
        return {name: " ".join(str(error) for error in errors) for name, errors in self.errors.items()}

    @property
    def visible_field_errors(self) -> bool:
        """Whether every refusal stands beside a field that is seen."""
        return self.is_bound and bool(self.errors) and not any(self[name].is_hidden for name in self.errors)
