"""Changes of the Engine station beside its plain figures."""

from django.shortcuts import get_object_or_404

from rocklash.commands.base import Command, Refused, number_of
from rocklash.records.models import Position
from valvetrain.errors import QuantityError
from valvetrain.quantities import parse
from valvetrain.units import LENGTH, amount, quantity

_MOST = 3e-3  # m; a spring that stands 3 mm off its side's figure is a slip of the pen


class KeepDeviation(Command):
    """Keep how much higher one valve's spring stands than its side's figure; empty means nought."""

    verb = "valve height"
    nothing = ""

    def apply(self) -> None:
        """`valve` is the position's number, `seen` the difference the person saw."""
        row = get_object_or_404(Position.objects.select_for_update(), engine=self.subject.engine_id, pk=number_of(self.text("valve")))
        text, value = self.text("text"), 0.0
        self.made = row.pk
        if text:
            value = parse(text, LENGTH, self.system).value
            if abs(value) > _MOST:
                raise QuantityError(
                    f"{row.name}: {amount(value, LENGTH)} is too much. Give the difference to the side's figure, for example 0.05."
                )
        if abs(value - row.deviation) < 1e-9:
            return
        if self.text("seen") != f"{row.deviation:.7f}":
            raise Refused("Meanwhile somebody changed this. Yours is kept in the field: press Enter to use it.", conflict=True)
        self.note(row.name, quantity(row.deviation, LENGTH, self.system), quantity(value, LENGTH, self.system))
        self.ledger.set(row, deviation=value)
