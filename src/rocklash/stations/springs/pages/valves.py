"""The page Valve by valve as view-models: heights, shims to the seat load, recession, weighings and grams."""

from dataclasses import dataclass

from rocklash.answers.results import BuildResult
from rocklash.answers.rows import side_rows
from rocklash.answers.valves import WEIGHED, ValvesAnswer
from rocklash.records.figure_column import fit_fingerprint
from rocklash.records.models import Build, SetupRole, ValveFit, Weighing
from valvetrain.parts.engine import Side
from valvetrain.quantities import plain
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, unit_symbol
from valvetrain.wording import told


@dataclass(frozen=True)
class ValveRow:
    """One valve: what stands in its fields, and what follows."""

    number: int
    name: str
    seen: str
    height: str
    protrusion: str
    drop: str
    shim: str
    ghost: str
    load: str
    next: str
    after: str
    bind: str
    verdict: str
    words: str


@dataclass(frozen=True, kw_only=True)
class WeighRow:
    """One valve's parts on the scale: per slot the field's key, its value and the estimate behind it."""

    number: int
    name: str
    cells: list[tuple[str, str, str, str]]


@dataclass(frozen=True)
class LedgerLine:
    """A part over one valve and over the head, stock and proposed."""

    name: str
    stock: str
    proposed: str
    saved: str


@dataclass(frozen=True, kw_only=True)
class ValvesPage:
    """Everything the page prints."""

    side: str
    row: int
    wanted: str
    wanted_unit: str
    length: str
    force: str
    mass: str
    rows: list[ValveRow]
    sentence: str
    shopping: str
    recession: list[str]
    weigh_heads: list[str]
    weighings: list[WeighRow]
    ledger: list[LedgerLine]
    bought: str
    can_swing: bool


def _plain(value: float | None, system: UnitSystem) -> str:
    return "" if value is None else plain(value, QuantityKind.LENGTH, system)


def _rows(found: ValvesAnswer, fits: dict[str, ValveFit], numbers: dict[str, int], system: UnitSystem) -> list[ValveRow]:
    rows = []
    for each in found.plan:
        fit = fits.get(each.place.name)
        rows.append(
            ValveRow(
                number=numbers[each.place.name],
                name=each.place.name,
                seen=fit_fingerprint(fit),
                height=_plain(fit.height if fit and fit.protrusion is None else None, system),
                protrusion=_plain(fit.protrusion if fit else None, system),
                drop=_plain(fit.drop if fit else None, system),
                shim=_plain(fit.shim if fit else None, system),
                ghost=show(each.height, QuantityKind.LENGTH, system),
                load=show(each.load, QuantityKind.FORCE, system),
                next=" + ".join(show(shim, QuantityKind.LENGTH, system) for shim in each.shims) or "none",
                after=show(each.load_after, QuantityKind.FORCE, system),
                bind=show(each.bind_after, QuantityKind.LENGTH, system),
                verdict=each.verdict.value,
                words=told(each.words, system),
            )
        )
    return rows


def _shopping(found: ValvesAnswer, system: UnitSystem) -> str:
    counts: dict[float, int] = {}
    for each in found.plan:
        for shim in each.shims:
            counts[shim] = counts.get(shim, 0) + 1
    if not counts:
        return "No spring shims are needed."
    unit = unit_symbol(QuantityKind.LENGTH, system)
    return "Spring shims to lay out: " + ", ".join(
        f"{count} of {show(shim, QuantityKind.LENGTH, system)} {unit}" for shim, count in sorted(counts.items())
    )


def _recession(found: ValvesAnswer, system: UnitSystem) -> list[str]:
    sunk = found.recession
    depth, load = quantity(sunk.depth, QuantityKind.LENGTH, system), quantity(abs(sunk.load), QuantityKind.FORCE, system)
    closed = quantity(sunk.closes_at * found.ratio, QuantityKind.LENGTH, system)
    return [
        (
            f"A valve that sinks {depth} into its seat stands that much higher: its spring gives {load} less, "
            f"and its clearance closes by {quantity(abs(sunk.clearance), QuantityKind.LENGTH, system)}."
        ),
        f"After {closed} the clearance is used up and the valve no longer closes: it burns. Set it before.",
    ]


def _ledger(found: ValvesAnswer, system: UnitSystem) -> list[LedgerLine]:
    unit = unit_symbol(QuantityKind.MASS, system)
    lines = [
        LedgerLine(
            name.capitalize(),
            show(old, QuantityKind.MASS, system),
            show(new, QuantityKind.MASS, system),
            show(old - new, QuantityKind.MASS, system, difference=True),
        )
        for name, old, new in found.masses
    ]
    old, new = sum(was for _, was, _ in found.masses), sum(now for _, _, now in found.masses)
    lines.append(
        LedgerLine(
            f"One valve, {unit}",
            show(old, QuantityKind.MASS, system),
            show(new, QuantityKind.MASS, system),
            show(old - new, QuantityKind.MASS, system),
        )
    )
    count = len(found.plan)
    whole = [show(value * count, QuantityKind.MASS, system) for value in (old, new, old - new)]
    return [*lines, LedgerLine(f"All {count} of this side, {unit}", *whole)]


def _bought(found: ValvesAnswer, system: UnitSystem) -> str:
    saved, rpm = found.saving.over_side, found.saving.bought * 60.0
    gram = f"The next gram off each valve would buy {show(found.saving.per_gram, QuantityKind.SPEED)} rpm."
    if abs(saved) < 0.05e-3:
        return f"Nothing is saved against stock yet. {gram}"
    word, what = ("saved", "buys") if saved > 0 else ("added", "costs")
    return f"{quantity(abs(saved), QuantityKind.MASS, system)} {word} over this side {what} {abs(rpm):,.0f} rpm of float with these springs. {gram}"


def valves_page(
    answer: BuildResult,
    build: Build,
    side: Side,
    found: ValvesAnswer | None,
    fits: list[ValveFit],
    weighings: list[Weighing],
    system: UnitSystem,
) -> ValvesPage | None:
    """View-model of the page; None when the figures contradict one another."""
    if answer.review is None or found is None:
        return None
    row = side_rows(build)[SetupRole.PROPOSED, side.value]
    own = {fit.position.name: fit for fit in fits}
    numbers = {place.name: place.pk for place in build.engine.positions.all()}
    weighed = {(one.position.name, one.slot): one.mass for one in weighings}
    done = answer.review.completed.proposed_sides[side]
    cells = []
    for each in found.plan:
        name = each.place.name
        line = []
        for slot, owner in WEIGHED.items():
            mass = weighed.get((name, slot))
            kept = "" if mass is None else plain(mass, QuantityKind.MASS, system)
            ghost = show(done.parts[owner]["mass"].value, QuantityKind.MASS, system)
            line.append((slot, kept, ghost, "none" if mass is None else f"{mass:.7f}"))
        cells.append(WeighRow(number=numbers[name], name=name, cells=line))
    short = [each.place.name for each in found.plan if each.verdict.value == "short"]
    spread = max(each.load for each in found.plan) - min(each.load for each in found.plan)
    sentence = f"As they stand the seat loads of this side differ by {quantity(spread, QuantityKind.FORCE, system)}."
    if short:
        sentence += f" No shim brings {', '.join(short)} to what is wanted."
    return ValvesPage(
        side=side.value,
        row=row.pk,
        wanted=plain(found.wanted, QuantityKind.FORCE, system),
        wanted_unit=unit_symbol(QuantityKind.FORCE, system),
        length=unit_symbol(QuantityKind.LENGTH, system),
        force=unit_symbol(QuantityKind.FORCE, system),
        mass=unit_symbol(QuantityKind.MASS, system),
        rows=_rows(found, own, numbers, system),
        sentence=sentence,
        shopping=_shopping(found, system),
        recession=_recession(found, system),
        weigh_heads=list(WEIGHED),
        weighings=cells,
        ledger=_ledger(found, system),
        bought=_bought(found, system),
        can_swing=build.engine.follower in ("finger", "rocker"),
    )
