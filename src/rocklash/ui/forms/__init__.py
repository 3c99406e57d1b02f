"""Forms of the bench: quantities are read as people type them, and refused in sentences."""

from rocklash.ui.forms.bench_form import BenchForm
from rocklash.ui.forms.fields import FactField, OneOfField, PartField, QuantityField

__all__ = ["BenchForm", "FactField", "OneOfField", "PartField", "QuantityField"]
