"""Mutations of the shelf of shims: what comes, what goes, and what a signature moves."""

from django.db import transaction
from django.db.models import F
from django.http import QueryDict
from django.shortcuts import get_object_or_404

from rocklash.answers.clearances import ValveStatus
from rocklash.answers.shim_plan import SAME, shelf_change
from rocklash.commands.base import journal, require_change
from rocklash.records.models import Build, ClearanceSession, Engine, Membership, ShimMove, ShimStock
from valvetrain.errors import QuantityError
from valvetrain.quantities import parse
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol

_LEAST, _MOST, _MOST_COUNT = 0.5e-3, 12e-3, 500


def _number(text: str) -> int:
    return int(text) if text.isdigit() else -1


def _sizes(text: str, system: UnitSystem) -> list[tuple[float, int]]:
    """`2.50`, `2.50 x 3` or several with commas or lines between: size (m) and how many. Raises QuantityError naming what is wrong."""
    found = []
    for part in [each.strip() for each in text.replace("\n", ";").split(";") if each.strip()]:
        size, _, count = part.lower().replace("\N{MULTIPLICATION SIGN}", "x").partition("x")
        value = parse(size.strip(), QuantityKind.LENGTH, system).value
        if not _LEAST <= value <= _MOST:
            raise QuantityError(
                f"{show(value, QuantityKind.LENGTH, system)} {unit_symbol(QuantityKind.LENGTH, system)} is not the size of a shim."
            )
        many = int(count.strip()) if count.strip().isdigit() else 1 if not count.strip() else 0
        if not 1 <= many <= _MOST_COUNT:
            raise QuantityError(f"“{part}”: write a size and how many, for example 2.50 x 3.")
        found.append((value, many))
    if not found:
        raise QuantityError("Nothing is typed. Write sizes, for example 2.50 x 3; 2.525.")
    return found


def put_on_shelf(member: Membership, post: QueryDict) -> str:
    """Put shims on the shelf; a sentence when it was not done. All of them or none."""
    require_change(member)
    system = UnitSystem(member.user.unit_system)
    try:
        sizes = _sizes(post.get("sizes", ""), system)
    except QuantityError as error:
        return f"{error} Nothing was kept."
    shape, measured = post.get("shape", "").strip()[:40], post.get("measured", "yes") == "yes"
    with transaction.atomic():
        for size, count in sizes:
            row, _ = ShimStock.objects.select_for_update().get_or_create(
                workshop=member.workshop, shape=shape, size=round(size, 7), measured=measured
            )
            _move(row, count, "put on the shelf", member)
        journal(member, "shims", "shelf", "", ", ".join(f"{count} × {size * 1e3:.3f}" for size, count in sizes))
    return ""


def take_from_shelf(member: Membership, post: QueryDict) -> str:
    """Take one shim off a row of the shelf."""
    require_change(member)
    with transaction.atomic():
        row = get_object_or_404(ShimStock.objects.select_for_update(), workshop=member.workshop, pk=_number(post.get("row", "")))
        if row.count < 1:
            return f"There is no {row} on the shelf."
        _move(row, -1, "taken off the shelf", member)
        journal(member, "shims", "shelf", "", f"1 × {row} taken")
    return ""


def set_shape(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep which shape of shim this engine takes: only such shims of the shelf are planned into it."""
    require_change(member)
    with transaction.atomic():
        engine = Engine.objects.select_for_update().get(pk=build.engine_id)
        before, shape = str(engine.facts.get("shim_shape", "")), post.get("takes", "").strip()[:40]
        engine.facts = engine.facts | {"shim_shape": shape}
        engine.save(update_fields=["facts"])
        journal(member, "shim shape", build.name, before, shape)
    return ""


def shelf_act(member: Membership, build: Build, post: QueryDict) -> str:
    """One mutation of the shelf's page; a sentence when it was refused."""
    match post.get("act", ""):
        case "take":
            return take_from_shelf(member, post)
        case "shape":
            return set_shape(member, build, post)
    return put_on_shelf(member, post)


def _move(row: ShimStock, change: int, why: str, member: Membership, session: ClearanceSession | None = None) -> None:
    ShimStock.objects.filter(pk=row.pk).update(count=F("count") + change)
    ShimMove.objects.create(stock=row, session=session, change=change, why=why, by=member.user)


def move_shims(member: Membership, build: Build, session: ClearanceSession, rows: list[ValveStatus]) -> str:
    """What a signature moves on the shelf, inside its transaction; a sentence keeps the sheet unsigned."""
    shape = str(build.engine.facts.get("shim_shape", ""))
    shelf = list(ShimStock.objects.select_for_update().filter(workshop=member.workshop, shape=shape))
    change = shelf_change(rows, session, shelf)
    if change.trouble:
        return change.trouble
    by_number = {row.pk: row for row in shelf}
    for number, count in change.taken.items():
        _move(by_number[number], -count, f"fitted, {build.name}", member, session)
    for size in change.given:
        row = next((each for each in shelf if each.measured and each.shape == shape and abs(each.size - size) <= SAME / 2), None)
        if row is None:
            row, _ = ShimStock.objects.get_or_create(workshop=member.workshop, shape=shape, size=round(size, 7), measured=True)
            shelf.append(row)
        _move(row, 1, f"came out, {build.name}", member, session)
    return ""
