"""Forms of the bench: quantities as people type them, words of the catalogue, parts to choose."""

from rocklash.ui.forms.bench_form import BenchForm
from rocklash.ui.forms.fields import FactField, PartField, QuantityField

__all__ = ["BenchForm", "FactField", "PartField", "QuantityField"]
