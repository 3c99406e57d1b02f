"""Forms of the bench: quantities are read as people type them, and refused in sentences."""

from rocklash.ui.forms.bench_form import BenchForm
from rocklash.ui.forms.fields import QuantityField

__all__ = ["BenchForm", "QuantityField"]
