"""Mutations of the Engine station beside its plain figures."""

from dataclasses import dataclass

from django.db import transaction
from django.shortcuts import get_object_or_404

from rocklash.commands.base import journal, require_change
from rocklash.records.models import Build, Membership, Position
from valvetrain.errors import QuantityError
from valvetrain.quantities import parse
from valvetrain.units import QuantityKind, UnitSystem, show

_MOST = 3e-3  # m; a spring that stands 3 mm off its side's figure is a slip of the pen


@dataclass(frozen=True)
class ValveTrouble:
    """Why a valve's height was not kept."""

    valve: int
    text: str
    sentence: str


@transaction.atomic
def keep_deviation(member: Membership, build: Build, valve: str, text: str, seen: str) -> ValveTrouble | None:
    """Keep how much higher one valve's spring stands than its side's figure; empty means nought."""
    require_change(member)
    rows = Position.objects.select_for_update().filter(engine=build.engine)
    row = get_object_or_404(rows, pk=int(valve) if valve.isdigit() else -1)
    value = 0.0
    if text.strip():
        try:
            value = parse(text, QuantityKind.LENGTH, UnitSystem(member.user.unit_system)).value
        except QuantityError as error:
            return ValveTrouble(row.pk, text, str(error))
        if abs(value) > _MOST:
            return ValveTrouble(
                row.pk,
                text,
                f"{row.name}: {show(value, QuantityKind.LENGTH)} mm is too much. Give the difference to the side's figure, for example 0.05.",
            )
    if abs(value - row.deviation) < 1e-9:
        return None
    if seen != f"{row.deviation:.7f}":
        return ValveTrouble(row.pk, text, "Meanwhile somebody changed this. Yours is kept in the field: press Enter to use it.")
    before, row.deviation = row.deviation, value
    row.save(update_fields=["deviation"])
    journal(member, "valve height", f"{build.name}: {row.name}", show(before, QuantityKind.LENGTH), show(value, QuantityKind.LENGTH))
    return None
