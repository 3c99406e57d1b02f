"""Changes of the shelf of shims: what comes, what goes, and what a signature moves."""

from django.shortcuts import get_object_or_404

from rocklash.answers.clearances import ValveStatus
from rocklash.answers.shim_plan import SAME, shelf_change
from rocklash.commands.base import Command, Refused, number_of
from rocklash.records.models import ClearanceSession, Engine, ShimMove, ShimStock
from rocklash.stations.lash.forms import ShelfForm
from valvetrain.errors import QuantityError
from valvetrain.quantities import parse
from valvetrain.units import LENGTH, UnitSystem, amount, quantity

_LEAST, _MOST, _MOST_COUNT = 0.5e-3, 12e-3, 500


def _sizes(text: str, system: UnitSystem) -> list[tuple[float, int]]:
    """`2.50`, `2.50 x 3` or several with semicolons or lines between: size (m) and how many. Raises QuantityError naming what is wrong."""
    found = []
    for part in [each.strip() for each in text.replace("\n", ";").split(";") if each.strip()]:
        size, _, count = part.lower().replace("\N{MULTIPLICATION SIGN}", "x").partition("x")
        value = parse(size.strip(), LENGTH, system).value
        if not _LEAST <= value <= _MOST:
            raise QuantityError(f"{amount(value, LENGTH)} is not the size of a shim.")
        many = int(count.strip()) if count.strip().isascii() and count.strip().isdigit() else 1 if not count.strip() else 0
        if not 1 <= many <= _MOST_COUNT:
            raise QuantityError(f"“{part}”: write a size and how many, for example 2.50 x 3.")
        found.append((value, many))
    if not found:
        raise QuantityError("Nothing is typed. Write sizes, for example 2.50 x 3; 2.525.")
    return found


def move(command: Command, row: ShimStock, change: int, why: str, session: ClearanceSession | None = None) -> None:
    """Shims that come to the shelf or leave it; the row is locked."""
    command.ledger.set(row, count=row.count + change)
    command.ledger.make(ShimMove, stock=row, session=session, change=change, why=why, by=command.member.user)


def row_of(command: Command, shape: str, size: float, *, measured: bool) -> ShimStock:
    """The row of one size on the shelf, locked; made where there is none."""
    where = {"workshop": command.member.workshop, "shape": shape, "size": round(size, 7), "measured": measured}
    row: ShimStock | None = ShimStock.objects.select_for_update(no_key=True).filter(**where).first()
    if row is None:
        row = command.ledger.make(ShimStock, **where)
    return row


class _ShelfCommand(Command):
    """A command on the shelf, which builds share."""

    judged = False


class PutOnShelf(_ShelfCommand):
    """Put shims on the shelf, all of them or none."""

    verb = "shims"
    form = ShelfForm

    def apply(self) -> None:
        """`sizes` with how many of each."""
        sizes = _sizes(self.cleaned["sizes"], self.system)
        shape, measured = self.cleaned["shape"], self.cleaned["measured"] == "yes"
        for size, count in sizes:
            move(self, row_of(self, shape, size, measured=measured), count, "put on the shelf")
        self.note("shelf", "", ", ".join(f"{count} × {quantity(size, LENGTH, self.system, 3)}" for size, count in sizes))


class TakeFromShelf(_ShelfCommand):
    """Take one shim off a row of the shelf."""

    verb = "shims"

    def apply(self) -> None:
        """`row` is its number."""
        row = get_object_or_404(
            ShimStock.objects.select_for_update(no_key=True), workshop=self.member.workshop, pk=number_of(self.text("row"))
        )
        if row.count < 1:
            raise Refused(f"There is no {row} on the shelf.")
        move(self, row, -1, "taken off the shelf")
        self.note("shelf", "", f"1 × {row} taken")


class SetShape(_ShelfCommand):
    """Keep which shape of shim this engine takes: only such shims of the shelf are planned into it."""

    verb = "shim shape"

    def apply(self) -> None:
        """The shape in `takes`."""
        engine, shape = Engine.objects.select_for_update(no_key=True).get(pk=self.subject.engine_id), self.text("takes", 40)
        if not self.changed("takes", engine.shim_shape):
            return
        self.note("", engine.shim_shape, shape)
        self.ledger.set(engine, shim_shape=shape)


def move_shims(command: Command, session: ClearanceSession, rows: list[ValveStatus]) -> None:
    """What a signature moves on the shelf, inside its transaction. Raises Refused, and the sheet stays unsigned."""
    build, workshop = command.subject, command.member.workshop
    shape = build.engine.shim_shape
    shelf = list(ShimStock.objects.select_for_update(no_key=True).filter(workshop=workshop, shape=shape))
    change = shelf_change(rows, session, shelf)
    if change.trouble:
        raise Refused(f"{change.trouble} {command.nothing}")
    by_number = {row.pk: row for row in shelf}
    for number, count in change.taken.items():
        move(command, by_number[number], -count, f"fitted, {build.name}", session)
    for size in change.given:
        row = next((each for each in shelf if each.measured and abs(each.size - size) <= SAME / 2), None)
        if row is None:
            row = row_of(command, shape, size, measured=True)
            shelf.append(row)
        move(command, row, 1, f"came out, {build.name}", session)
