"""The page Force as view-models: the answers backwards, gas against spring, the price of force, what to measure next."""

import math
from dataclasses import dataclass

from rocklash.answers.forces import ForceAnswer
from rocklash.ui.drawings import curves
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from valvetrain.parts.engine import Side
from valvetrain.quantities import in_unit
from valvetrain.studies.springs.force_cost import Cost
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, shown_unit, unit_symbol
from valvetrain.wording import how_to_measure, input_name, told


@dataclass(frozen=True, kw_only=True)
class AskRow:
    """One demand: what, what is there, what the goal asks, and whether that is met."""

    name: str
    has: str
    asks: str
    unit: str
    met: bool
    words: str


@dataclass(frozen=True, kw_only=True)
class CostRow:
    """One price: stock and proposed."""

    name: str
    stock: str
    proposed: str
    unit: str


@dataclass(frozen=True, kw_only=True)
class ForcePage:
    """Everything the page prints."""

    side: str
    sentence: str
    asks: list[AskRow]
    spring: str
    gas: Plots
    gas_words: list[str]
    costs: list[CostRow]
    band: str
    measures: list[tuple[str, str]]


def _ask(name: str, kind: QuantityKind, has: float, asks: float | None, system: UnitSystem, *, least: bool, words: str) -> AskRow:
    if asks is None:
        return AskRow(
            name=name,
            has=show(has, kind, system),
            asks="none",
            unit=unit_symbol(kind, system),
            met=False,
            words="nothing of the kind would hold the goal",
        )
    met = has >= asks - 1e-9 if least else has <= asks + 1e-9
    sense = "\N{GREATER-THAN OR EQUAL TO}" if least else "\N{LESS-THAN OR EQUAL TO}"
    return AskRow(
        name=name,
        has=show(has, kind, system),
        asks=f"{sense} {show(asks, kind, system)}",
        unit=unit_symbol(kind, system),
        met=met,
        words=words,
    )


def _asks(found: ForceAnswer, system: UnitSystem) -> list[AskRow]:
    need = found.demand
    rows = [
        _ask("Seat load", QuantityKind.FORCE, need.has_seat, need.seat, system, least=True, words="at the present rate, for float and gas"),
        _ask(
            "Rate of the pack", QuantityKind.RATE, need.has_rate, need.rate, system, least=True, words="at the present seat load, for float"
        ),
        _ask(
            "Moving mass",
            QuantityKind.MASS,
            need.has_mass,
            need.mass,
            system,
            least=False,
            words="with these springs, a third of them counted",
        ),
    ]
    bend = [value * 1e3 for value in (need.has_acceleration, need.acceleration)]
    met = need.has_acceleration <= need.acceleration
    rows.append(
        AskRow(
            name="Peak deceleration by the lobe",
            has=f"{bend[0]:.1f}",
            asks=f"\N{LESS-THAN OR EQUAL TO} {bend[1]:.1f}",
            unit="mm/rad²",
            met=met,
            words="per radian of cam, at its worst point",
        )
    )
    shim = "none would: coil bind comes first" if need.shim is None else "none is needed" if need.shim == 0.0 else ""
    asks = show(need.shim, QuantityKind.LENGTH, system) if need.shim else "0"
    rows.append(
        AskRow(
            name="Spring shim to add",
            has="",
            asks=asks if need.shim is not None else "none",
            unit=unit_symbol(QuantityKind.LENGTH, system) if need.shim is not None else "",
            met=need.shim is not None,
            words=shim or "with the springs that are in",
        )
    )
    return rows


def _sentence(found: ForceAnswer, system: UnitSystem) -> str:
    need, limit = found.demand, show(found.demand.limit, QuantityKind.SPEED)
    if need.seat is None:
        return f"No seat load at this rate holds {limit} rpm: rate, mass or lobe must change."
    over = need.has_seat - need.seat
    amount = quantity(abs(over), QuantityKind.FORCE, system)
    if over < 0:
        return f"The least force that holds {limit} rpm and the gas is {quantity(need.seat, QuantityKind.FORCE, system)} on the seat: {amount} more than there is."
    return f"{amount} of the seat load is surplus: {quantity(need.seat, QuantityKind.FORCE, system)} would hold {limit} rpm and the gas. Its price is below."


def _spring(found: ForceAnswer, system: UnitSystem) -> str:
    want = found.demand.spring
    loads = f"{quantity(want.seat, QuantityKind.FORCE, system)} shut and {quantity(want.open, QuantityKind.FORCE, system)} open at {quantity(want.height, QuantityKind.LENGTH, system)}"
    width = f"{quantity(want.outer_diameter, QuantityKind.LENGTH, system)} outside"
    if want.wire is None:
        return f"For {loads}, up to {width}: {told(want.words, system)}."
    wire = quantity(want.wire, QuantityKind.LENGTH, system)
    return f"A single spring for {loads} can be wound: {width}, {wire} wire, {want.coils:.1f} coils, stressed to {want.stress:.0%} of where a new spring takes a set. See that the pocket takes it."


def _gas(found: ForceAnswer, system: UnitSystem) -> Plots:
    gas = found.gas
    pressure, force = (shown_unit(kind, system) for kind in (QuantityKind.PRESSURE, QuantityKind.FORCE))
    x = tuple(in_unit(float(p), QuantityKind.PRESSURE, pressure) for p in gas.pressure)
    newton = in_unit(1.0, QuantityKind.FORCE, force)
    ends = (x[0], x[-1])
    lines = (
        Curve(x, tuple((gas.cracked * newton).tolist()), "p-b"),
        Curve(x, tuple((gas.closed * newton).tolist()), "p-ink", "gas"),
        Curve(ends, (gas.seat * newton, gas.seat * newton), "p-proposed", "spring"),
    )
    decimals = 1
    ticks = [(x[0] + (x[-1] - x[0]) * n / 5, f"{x[0] + (x[-1] - x[0]) * n / 5:.{decimals}f}") for n in range(6)]
    at = in_unit(gas.goal, QuantityKind.PRESSURE, pressure)
    return curves.draw(
        [PlotData(f"Force on the valve over pressure ({pressure})", force, lines, ((at, gas.seat * newton, False),), 190.0)],
        *ends,
        ticks,
        width=290.0,
    )


def _gas_words(found: ForceAnswer, system: UnitSystem) -> list[str]:
    gas, intake = found.gas, found.side is Side.INTAKE
    what = (
        "boost in the port, cylinder at ambient"
        if intake
        else "lifting off, the worse moment: mean back pressure still behind the valve, the cylinder below ambient"
        if gas.lifting_off
        else f"mean back pressure times {gas.pulse:.1f} for pulses, cylinder at intake pressure"
    )
    lines = [
        (f"At the goal's {quantity(gas.goal, QuantityKind.PRESSURE, system)} ({what}) {quantity(gas.kept, QuantityKind.FORCE, system)} are left on the seat, "
        f"and {quantity(gas.returns, QuantityKind.FORCE, system)} shut the valve again from just off it, where gas reaches under the whole head.")
    ]  # fmt: skip
    if gas.lifts_at is not None and gas.lifts_at > 0.0:
        lines.append(f"The gas alone would lift it at {quantity(gas.lifts_at, QuantityKind.PRESSURE, system)}.")
    return lines


def _costs(found: ForceAnswer, system: UnitSystem) -> list[CostRow]:
    rows = []

    def both(name: str, kind: QuantityKind, decimals: int | None, pick: str, stock: Cost | None, proposed: Cost | None) -> None:
        texts = ["unknown" if each is None else show(getattr(each, pick), kind, system, decimals) for each in (stock, proposed)]
        rows.append(CostRow(name=name, stock=texts[0], proposed=texts[1], unit=unit_symbol(kind, system)))

    for speed, stock, proposed in found.costs:
        both(f"Friction power at {speed}", QuantityKind.POWER, None, "power", stock, proposed)
        both(f"Cam drive torque at {speed}, greatest", QuantityKind.TORQUE, 2, "torque_most", stock, proposed)
        both(f"Greatest force at a valve, {speed}", QuantityKind.FORCE, None, "force_most", stock, proposed)
    nose = [show(value, QuantityKind.STRESS, system) if value else "unknown" for value in found.nose]
    rows.append(
        CostRow(name="Stress at the nose, turning slowly", stock=nose[0], proposed=nose[1], unit=unit_symbol(QuantityKind.STRESS, system))
    )
    for name, pick in (("Outer spring's stress at full lift", "open"), ("Stress at which a new spring takes a set", "yields")):
        texts = ["wire unknown" if each is None else show(getattr(each, pick), QuantityKind.STRESS, system) for each in found.strengths]
        unit = unit_symbol(QuantityKind.STRESS, system) if any(each is not None for each in found.strengths) else ""
        rows.append(CostRow(name=name, stock=texts[0], proposed=texts[1], unit=unit))
    factors = ["wire unknown" if each is None else f"{each.fatigue:.2f}" for each in found.strengths]
    rows.append(CostRow(name="Outer spring's factor against fatigue", stock=factors[0], proposed=factors[1], unit=""))
    lives = [
        "wire unknown" if each is None else "endless" if each.life == math.inf else f"{each.life / 1e6:.1f} M" for each in found.strengths
    ]
    rows.append(CostRow(name="Expected life, cam turns", stock=lives[0], proposed=lives[1], unit=""))
    return rows


def force_page(found: ForceAnswer, system: UnitSystem) -> ForcePage:
    """View-model of the page."""
    spread, measures, band = found.spread, [], ""
    if spread:
        low, high = show(spread.low, QuantityKind.SPEED), show(spread.high, QuantityKind.SPEED)
        below = spread.below(found.demand.limit)
        band = (
            f"10,000 trains drawn from these figures: a rigid one separates between {low} and {high} rpm (95 %); "
            f"{below:.0%} of them below the {show(found.demand.limit, QuantityKind.SPEED)} rpm it must hold."
        )
        measures = [
            (
                input_name(item.what).capitalize(),
                f"{how_to_measure(item.what)} \N{MIDDLE DOT} ±{show(item.before, QuantityKind.SPEED)} \N{RIGHTWARDS ARROW} ±{show(item.after, QuantityKind.SPEED)} rpm",
            )
            for item in spread.narrowing[:6]
        ]
    return ForcePage(
        side=found.side.value, sentence=_sentence(found, system), asks=_asks(found, system), spring=_spring(found, system), gas=_gas(found, system), gas_words=_gas_words(found, system),
        costs=_costs(found, system), band=band, measures=measures,
    )  # fmt: skip
