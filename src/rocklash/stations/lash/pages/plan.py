"""The swap plan, the stops and what follows a reading, as view-models of the Lash station."""

from dataclasses import dataclass

from rocklash.answers.clearances import ValveStatus, pins_told
from rocklash.answers.shim_plan import Swaps
from rocklash.answers.stops import told_stops
from rocklash.records.models import ClearanceSession, Pins
from rocklash.ui.drawings.shim_arrows import MoveData
from valvetrain.studies.clearance.measuring_plan import MeasuringPlan
from valvetrain.studies.clearance.shim_plan import Act, exchanged, grind_passes
from valvetrain.studies.clearance.swap_plan import Fitting, in_valve
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol

_FROM = {"stock": "shelf", "buy": "buy one", "stays": "stays"}


@dataclass(frozen=True, kw_only=True)
class MoveRow:
    """One line of the bench's list. `pinned` tells what holds this valve."""

    letter: str
    size: str
    source: str
    out_of: str
    valve: str
    pk: int
    key: str
    own: str
    read: str
    after: str
    other: str
    inside: str
    verdict: str
    moves: bool
    pinned: str
    was: str


@dataclass(frozen=True, kw_only=True)
class PlanView:
    """The swap plan as printed."""

    headline: str
    rows: list[MoveRow]
    impossible: list[tuple[str, str]]
    buy: list[tuple[str, int]]
    price: str
    to_stock: list[tuple[str, str]]
    pins: str


@dataclass(frozen=True, kw_only=True)
class StopView:
    """The stop at hand and all of them."""

    sentence: str
    stops: list[tuple[str, str, str, bool]]
    valves: frozenset[str]
    note: str


def _size(value: float, system: UnitSystem) -> str:
    return show(value, QuantityKind.LENGTH, system, 4 if system is UnitSystem.INCH else 3)


def _row(each: Fitting, row: ValveStatus, session: ClearanceSession, system: UnitSystem) -> MoveRow:
    other = UnitSystem.METRIC if system is UnitSystem.INCH else UnitSystem.INCH
    pin = session.pins.get(row.position.pk, Pins())
    held = "pinned: stays" if pin.stays else "pinned" if pin.only else "one forbidden" if pin.never else ""
    known = {"stock": "shelf", "buy": "new, by its packet", "stays": row.first.shim_source if row.first else ""}.get(
        each.source, "micrometer"
    )
    middle = (each.low + each.high) / 2.0
    return MoveRow(
        letter=each.letter, size=_size(each.size, system), source=known, out_of=_FROM.get(each.source, each.source), valve=each.valve, pk=row.position.pk, key=each.key,
        own=in_valve(each.valve), read=_size(row.found.middle, system) if row.found else "", after=f"{_size(each.low, system)}–{_size(each.high, system)}",
        other=f"{show(middle, QuantityKind.LENGTH, other, 3 if other is UnitSystem.METRIC else 4)} {unit_symbol(QuantityKind.LENGTH, other)}", inside=f"{each.inside:.0%}" if each.inside < 0.995 else "surely",
        verdict="in range" if each.inside >= 0.95 else "undecided", moves=each.source != "stays", pinned=held, was=pins_told(pin),
    )  # fmt: skip


def plan_view(found: Swaps, rows: list[ValveStatus], session: ClearanceSession, price: float | None, system: UnitSystem) -> PlanView:
    """The plan with headline, list, purchases, and what the pins cost."""
    plan, by_name = found.plan, {row.position.name: row for row in rows}
    unit = unit_symbol(QuantityKind.LENGTH, system)
    count = sum(plan.buy.values())
    bits = [f"{plan.moved} of {len(rows)} valves get another shim", f"buy {count}" if count else "nothing to buy"]
    if plan.to_stock:
        bits.append(f"{len(plan.to_stock)} to the shelf")
    if plan.fittings:
        bits.append(f"each inside with {plan.worst:.0%} or more" if plan.worst < 0.995 else "each surely inside")
    pins = ""
    if session.pins:
        more, moves = count - sum(found.free.buy.values()), plan.moved - found.free.moved
        cost = [
            f"{more:+d} to buy" if more else "",
            f"{moves:+d} moves" if moves else "",
            f"{len(plan.impossible) - len(found.free.impossible)} valve left out"
            if len(plan.impossible) > len(found.free.impossible)
            else "",
        ]
        told = ", ".join(each for each in cost if each) or "nothing"
        pins = f"The pins cost {told}.".replace("-", "\N{MINUS SIGN}")
    return PlanView(
        headline="; ".join(bits) + ".",
        rows=[_row(each, by_name[each.valve], session, system) for each in plan.fittings],
        impossible=list(plan.impossible.items()),
        buy=[(f"{_size(size, system)} {unit}", many) for size, many in plan.buy.items()],
        price=f"{price * count:.2f} at {price:.2f} each" if price and count else "",
        to_stock=[(name, f"{_size(size, system)} {unit}") for name, size in plan.to_stock.items()],
        pins=pins,
    )


def moves_of(found: Swaps | None, rows: list[ValveStatus]) -> tuple[MoveData, ...]:
    """Arrows of the plan over the head; dashed until the valve was re-checked."""
    if found is None:
        return ()
    done = {row.position.name for row in rows if row.again is not None}
    names = {row.position.name for row in rows}
    return tuple(
        MoveData(each.source if each.source in names else "", each.valve, each.letter, each.valve in done)
        for each in found.plan.fittings
        if each.source != "stays"
    )


# What is felt or seen of a valve on its base circle: with push-rods and side valves nobody sees a lobe.
_UNSEEN = ("push_rod", "side_valve")


def stop_view(plan: MeasuringPlan | None, number: int | None, note: str, gear: str = "") -> StopView | None:
    """The stops as sentences; `number` is the one at hand, `gear` what moves the valves."""
    if plan is None or not plan.stops:
        return None
    listed = [(where, turn or "begin here", valves, place == number) for place, (where, turn, valves) in enumerate(told_stops(plan))]
    here = plan.stops[number] if number is not None else None
    sentence = ""
    if here is not None and number is not None:
        told = "rocker or tappet free to move" if gear in _UNSEEN else "lobe away from it"
        sentence = f"Stop {number + 1} of {len(plan.stops)}: {listed[number][0]}. The lit valves are on their base circles: {told}."
    return StopView(sentence=sentence, stops=listed, valves=frozenset(here.valves) if here else frozenset(), note=note)


def passes_words(row: ValveStatus, system: UnitSystem) -> str:
    """Grinding in steps that stop short; empty for anything else."""
    if row.plan is None or row.plan.act is not Act.GRIND or not row.plan.amount:
        return ""
    steps = [show(each, QuantityKind.LENGTH, system, 4 if system is UnitSystem.INCH else 2) for each in grind_passes(row.plan.amount)]
    return f"Take {', then '.join(steps)} off, reading between: what is ground off does not come back."


def exchanged_words(rows: list[ValveStatus]) -> list[str]:
    """Valves whose re-checks look as if their shims went into one another."""
    off, shims = {}, {}
    for row in rows:
        if row.as_predicted is False and row.expected and row.found_again and row.again and row.again.shim:
            off[row.position.name] = row.found_again.middle - sum(row.expected) / 2.0
            shims[row.position.name] = row.again.shim
    slack = 0.03e-3
    return [
        f"{one} and {two} are off as if their shims had been exchanged: look which is in which."
        for one, two in exchanged(off, shims, slack)
    ]
