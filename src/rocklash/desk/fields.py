"""Fields of a page as view-models: what is kept, what is estimated, what was typed and refused."""

from collections.abc import Mapping
from dataclasses import dataclass

from rocklash.commands.figures import FieldError
from rocklash.records.figure_column import Stored, fingerprint
from valvetrain.parts.catalogue import FIGURES, FigureKind, Owner
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.quantities import plain
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol
from valvetrain.wording.inputs import basis_words

BASES = tuple((basis.value, basis_words(basis)) for basis in (Basis.MEASURED, Basis.MAKER, Basis.CARD, Basis.ESTIMATE))
_BY_A_FACTOR = frozenset({"train_stiffness", "train_damping", "seat_stiffness", "seat_damping", "spring_damping", "clash"})


@dataclass(frozen=True, kw_only=True)
class FieldView:
    """One field. `maker`: it stands in the manual, and is taken to be from there until another basis is chosen. `value` is what stands in the box, `ghost` the estimate shown while nothing is known."""

    holder: str
    key: str
    label: str
    hint: str
    unit: str
    value: str
    ghost: str
    other: str
    basis: str
    spread: str
    seen: str
    known: bool
    exact: bool
    source: str
    error: str = ""
    maker: bool = False

    @property
    def id(self) -> str:
        """Identity on the page."""
        return f"{self.holder}-{self.key}"


def _other(value: float, kind: QuantityKind, system: UnitSystem) -> str:
    other = UnitSystem.METRIC if system is UnitSystem.INCH else UnitSystem.INCH
    if unit_symbol(kind, other) == unit_symbol(kind, system):
        return ""
    return f"{show(value, kind, other)} {unit_symbol(kind, other)}"


def _give_or_take(value: float, spread: float, row: FigureKind, system: UnitSystem, *, guessed: bool) -> str:
    """The spread; guesses of stiffness and damping that leave as much open as they are themselves are drawn by a factor of 1 + spread / value
    to either side (`studies/motion/case.py`): less than nothing they cannot be."""
    if guessed and row.key in _BY_A_FACTOR and spread >= 0.95 * abs(value):
        factor = 1.0 + spread / value
        return "half to double" if factor < 2.1 else f"a factor of {factor:.1f} either way"
    return f"±{show(spread, row.kind, system, difference=True)}"


def _source(row: FigureKind, completed: Figure | None) -> str:
    """Where the figure comes from while nobody typed it."""
    if completed is None:
        return ""
    if row.key.startswith("seat_force_"):
        return "stock seat load"
    if row.key == "spring_shim":
        return "none"
    if row.owner is Owner.GOAL and row.key not in ("back_pressure", "pulse_factor"):
        return "taken until typed"
    return basis_words(completed.basis)


def _of_the_manual(row: FigureKind) -> bool:
    return row.owner is Owner.ENGINE and row.key.startswith(("clearance_", "torque_", "service_interval"))


def field_view(
    holder: str, row: FigureKind, stored: Stored, completed: Figure | None, system: UnitSystem, trouble: FieldError | None = None
) -> FieldView:
    """View-model of one field from what is stored and what the core completed."""
    kept = stored.get(row.key)
    value = kept["value"] if kept else (completed.value if completed else None)
    spread = kept["spread"] if kept else (completed.spread if completed else 0.0)
    failed = trouble if trouble and (trouble.holder, trouble.key) == (holder, row.key) else None
    return FieldView(
        holder=holder,
        key=row.key,
        label=row.label,
        hint="; ".join(each for each in (row.hint, row.counts if kept else "") if each),
        unit=unit_symbol(row.kind, system),
        value=failed.text if failed else (plain(kept["value"], row.kind, system) if kept else ""),
        ghost=show(value, row.kind, system) if value is not None and not kept else "",
        other=_other(value, row.kind, system) if value is not None else "",
        basis=(failed.basis if failed else kept["basis"] if kept else Basis.MAKER.value if _of_the_manual(row) else Basis.MEASURED.value),
        spread=_give_or_take(value, spread, row, system, guessed=not kept) if value is not None and spread else "",
        seen=fingerprint(stored, row.key),
        known=kept is not None,
        exact=row.card_spread == 0.0 and row.measured_spread == 0.0,
        source=_source(row, completed),
        error=failed.sentence if failed else "",
        maker=_of_the_manual(row),
    )


def field_views(
    holder: str,
    owner: Owner,
    keys: list[str],
    stored: Stored,
    completed: FigureMap | None,
    system: UnitSystem,
    trouble: FieldError | None = None,
) -> list[FieldView]:
    """View-models of several fields of one owner, in the order of `keys`."""
    found: Mapping[str, Figure] = completed or {}
    return [field_view(holder, FIGURES[owner, key], stored, found.get(key), system, trouble) for key in keys]
