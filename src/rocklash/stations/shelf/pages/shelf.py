"""The shelf as a table, a part with what it has behind it, and a table before it is brought in."""

from dataclasses import dataclass

from rocklash.records.figure_column import figures_of
from rocklash.records.models import Individual, Part
from valvetrain.formats.shelf_table import KINDS, PLAIN, ShelfTable
from valvetrain.parts.catalogue import FACTS, FIGURES, Owner
from valvetrain.parts.figure import Basis
from valvetrain.units import QuantityKind, UnitSystem, show, told, unit_symbol
from valvetrain.wording.inputs import basis_words

# The figures that a person knows a part by, of each kind.
_TELLING: dict[Owner, tuple[str, ...]] = {
    Owner.CAM: ("lift", "duration_1"), Owner.SPRING: ("seat_load", "load", "load_height", "rate"), Owner.RETAINER: ("mass", "outer_diameter"),
    Owner.KEEPERS: ("stem_diameter", "cone_angle"), Owner.VALVE: ("head_diameter", "stem_diameter", "mass"), Owner.FOLLOWER: ("mass", "outside"),
    Owner.SHIM: ("diameter", "mass"), Owner.GUIDE: ("bore",), Owner.SEAL: ("stem_diameter", "grip_diameter"), Owner.SEAT: ("outer_diameter",),
    Owner.SPRING_SEAT: ("bore", "thickness"), Owner.SPRING_SHIM: ("thickness",), Owner.CAP: ("bore", "thickness"),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class ShelfLine:
    """One part of the table."""

    pk: int
    name: str
    kind: str
    telling: str
    known: str
    number: str
    supplier: str
    price: str
    lead: str
    quantity: int
    place: str


def telling(part: Part, system: UnitSystem) -> str:
    """The few figures that a part is known by."""
    owner = Owner(part.kind)
    known = figures_of(part.figures, owner)
    said = []
    for key in _TELLING[owner]:
        if key in known:
            kind = FIGURES[owner, key].kind
            said.append(
                f"{FIGURES[owner, key].label.split(',')[0].lower()} {show(known[key].value, kind, system)} {unit_symbol(kind, system)}".strip()
            )
    return ", ".join(said) or "nothing measured yet"


def known_by(part: Part) -> str:
    """How its figures are known."""
    bases = [row["basis"] for row in part.figures.values()]
    return ", ".join(basis_words(basis) for basis in Basis if basis.value in bases)


def price_words(part: Part) -> str:
    """Its price, and for how many."""
    if part.price is None:
        return ""
    return f"{part.price:,.2f}" + (f" for {part.pack}" if part.pack > 1 else "")


def shelf_line(part: Part, system: UnitSystem) -> ShelfLine:
    """One part of the table."""
    lead = "" if part.lead_days is None else f"{part.lead_days} days"
    return ShelfLine(
        pk=part.pk, name=part.name, kind=KINDS[Owner(part.kind)], telling=telling(part, system), known=known_by(part), number=part.number,
        supplier=part.supplier, price=price_words(part), lead=lead, quantity=part.quantity, place=part.place,
    )  # fmt: skip


@dataclass(frozen=True)
class IndividualLine:
    """One used part."""

    pk: int
    name: str
    count: int
    condition: str
    behind: str
    measured: str
    history: str


def individual_line(one: Individual, system: UnitSystem) -> IndividualLine:
    """One used part with what was measured of it."""
    behind = [f"{one.hours:g} h" if one.hours is not None else "", f"{one.seasons} seasons" if one.seasons is not None else ""]

    def told(value: float | None, kind: QuantityKind, before: str = "") -> str:
        return "" if value is None else f"{before}{show(value, kind, system)} {unit_symbol(kind, system)}"

    load = told(one.load, QuantityKind.FORCE) + told(one.load_height, QuantityKind.LENGTH, " at ")
    measured = [
        told(one.mass, QuantityKind.MASS),
        load,
        told(one.rate, QuantityKind.RATE),
        told(one.offset, QuantityKind.LENGTH, "stands higher by "),
    ]
    return IndividualLine(
        one.pk, one.name, one.count, one.get_condition_display(), ", ".join(filter(None, behind)), ", ".join(filter(None, measured)), one.history
    )  # fmt: skip


def column_choices() -> list[tuple[str, str]]:
    """What a column of a table may be."""
    found = [("", "leave out")] + [(key, heading) for key, heading, _ in PLAIN]
    seen = set()
    for (owner, key), row in FIGURES.items():
        if owner in KINDS and key not in seen:
            seen.add(key)
            found.append((f"figure:{key}", row.label))
    for (owner, key), fact in FACTS.items():
        if owner in KINDS and key not in seen:
            seen.add(key)
            found.append((f"fact:{key}", fact.label))
    return found


@dataclass(frozen=True)
class TablePage:
    """A table before it is brought in."""

    columns: list[tuple[int, str, str, str]]
    rows: list[tuple[int, str, str, int]]
    count: int
    new: int
    troubles: list[str]
    more: int
    choices: list[tuple[str, str]]


def table_page(table: ShelfTable, have: set[tuple[str, str]], system: UnitSystem) -> TablePage:
    """What would come in, and what is wrong."""
    shown = [(row.line, row.name, KINDS[row.kind], len(row.figures)) for row in table.rows[:30]]
    new = sum((row.kind.value, row.name) not in have for row in table.rows)
    columns = [(place, each.heading, each.target, each.unit) for place, each in enumerate(table.columns)]
    troubles = [told(each, system) for each in table.troubles[:40]]
    return TablePage(columns, shown, len(table.rows), new, troubles, max(len(table.troubles) - 40, 0), column_choices())
