"""Fields that know the trade: what they refuse they refuse in a sentence, with what would be right."""

from typing import Any

from django import forms

from valvetrain.errors import QuantityError
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.quantities import Typed, parse
from valvetrain.units import QuantityKind, UnitSystem, example, unit_symbol


class QuantityField(forms.CharField):
    """A quantity with or without its unit; cleaned it is a `Typed` (SI value, unit, text), or None where nothing is typed.

    `figure` names the line of the catalogue whose bounds it keeps. The form tells it the reader's unit system.
    """

    def __init__(self, kind: QuantityKind, *, figure: tuple[Owner, str] | None = None, plain_label: bool = False, **options: Any) -> None:
        options.setdefault("max_length", 40)
        super().__init__(**options)
        self.kind, self.figure, self.plain_label = kind, figure, plain_label
        self.system = UnitSystem.METRIC
        self.widget.attrs |= {"autocomplete": "off"}

    def read_in(self, system: UnitSystem) -> None:
        """Read bare numbers, and name the unit, in the reader's system."""
        self.system = system
        unit = unit_symbol(self.kind, system)
        if unit and not self.plain_label:
            self.label = f"{self.label}, {unit}"
        self.error_messages["required"] = f"Nothing is typed here. Write it {self.hint()}."

    def clean(self, value: Any) -> Typed | None:
        """The quantity typed. Raises ValidationError with a sentence."""
        text = str(super().clean(value) or "").replace("\x00", "").strip()
        if not text:
            return None
        try:
            typed = parse(text, self.kind, self.system)
            if self.figure:
                FIGURES[self.figure].check(typed.value, self.system)
        except QuantityError as error:
            raise forms.ValidationError(error.told(self.system)) from error
        return typed

    def hint(self) -> str:
        """What may be typed."""
        return f"for example {example(self.kind)}"
