"""Fields that know the trade: what they refuse they refuse in a sentence, with what would be right."""

from collections.abc import Iterable
from typing import Any

from django import forms

from valvetrain.errors import QuantityError
from valvetrain.parts.catalogue import FACTS, FIGURES, Owner
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


class OneOfField(forms.ChoiceField):
    """One of a few words. Where nothing is sent it is the first of them."""

    def __init__(self, choices: Iterable[tuple[str, str]] = (), **options: Any) -> None:
        super().__init__(required=False, **options)
        self.offer(choices)

    def offer(self, choices: Iterable[tuple[str, str]]) -> None:
        """What there is to choose from, as it is sent and as it is read."""
        self.offered = list(choices)
        self.choices = self.offered

    def clean(self, value: Any) -> str:
        """The word chosen. Raises ValidationError for any other."""
        if value and not self.valid_value(value):
            raise forms.ValidationError(f"Choose one of: {', '.join(words for _, words in self.offered)}.")
        return str(value or (self.offered[0][0] if self.offered else ""))


class FactField(OneOfField):
    """A choice of words of the catalogue; `told` leaves out that nobody knows."""

    def __init__(self, owner: Owner, key: str, *, told: bool = False, **options: Any) -> None:
        fact = FACTS[owner, key]
        super().__init__(((word, words) for word, words in fact.choices.items() if word or not told), **{"label": fact.label, **options})


class PartField(OneOfField):
    """A part of the shop; its form offers them once it knows the build. Cleaned it is the part's number, empty for none."""

    def __init__(self, *, none: str = "", **options: Any) -> None:
        super().__init__([("", none)], **options)

    def offer_parts(self, parts: Iterable[tuple[int, str]]) -> None:
        """Parts to choose from, behind the choice of none."""
        self.offer([self.offered[0], *((str(number), name) for number, name in parts)])
