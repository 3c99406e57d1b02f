"""Two readings of the degree wheel."""

from rocklash.ui.forms import BenchForm, QuantityField
from valvetrain.units import QuantityKind


class DegreeForm(BenchForm):
    """Crank angles after overlap TDC at one lift on both flanks."""

    first = QuantityField(QuantityKind.ANGLE, label="First reading", max_length=12)
    second = QuantityField(QuantityKind.ANGLE, label="Second reading, same lift", max_length=12)
