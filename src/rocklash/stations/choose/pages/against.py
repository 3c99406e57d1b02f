"""Check by check: stock, chosen, runner-up and a third side by side."""

from dataclasses import dataclass
from datetime import date, timedelta

from rocklash.answers.choose import Plan
from valvetrain.studies.checks.check import Check
from valvetrain.studies.choose.compare import Shown
from valvetrain.units import QuantityKind, UnitSystem, show, told, unit_symbol
from valvetrain.wording.checks import title
from valvetrain.wording.inputs import input_name


@dataclass(frozen=True)
class Cell:
    """A set at one check: verdict (empty for a bare figure), figure, what is in hand and its spread."""

    verdict: str
    figure: str
    hand: str = ""
    spread: str = ""


@dataclass(frozen=True)
class AgainstRow:
    """One check or figure with a cell for each set."""

    name: str
    limit: str
    cells: tuple[Cell, ...]
    rule: bool = False


@dataclass(frozen=True)
class Against:
    """The table: letters and names of the sets, rows, and what decides what is not proven."""

    heads: tuple[tuple[str, str], ...]
    rows: tuple[AgainstRow, ...]
    decides: tuple[str, ...]


def _signed(value: float, kind: QuantityKind, system: UnitSystem) -> str:
    sign = "+" if value >= 0 else "\N{MINUS SIGN}"
    return sign + show(abs(value), kind, system, difference=True)


def _cell(check: Check | None, system: UnitSystem) -> Cell:
    if check is None:
        return Cell("", "not computed yet")
    return Cell(
        check.verdict.value, show(check.figure, check.kind, system), _signed(check.margin, check.kind, system), f"±{show(check.spread, check.kind, system, difference=True)}"
    )  # fmt: skip


def _key(check: Check) -> tuple[str, str]:
    return str(check.code), check.about


def against(
    plan: Plan, stock: Shown, sets: list[tuple[str, Shown]], speeds: dict[str, Check | None], system: UnitSystem, today: date
) -> Against:  # fmt: skip
    """The table of stock and the sets."""
    columns = [("S", stock), *sets]
    keyed = {letter: {_key(check): check for check in one.checks} for letter, one in columns}
    first = sets[0][1] if sets else stock
    order = [_key(check) for check in sorted(first.checks, key=lambda check: (check.side is None, str(check.code)))]
    order += [key for found in keyed.values() for key in found if key not in order]
    rows = []
    for key in dict.fromkeys(order):
        sample = next(found[key] for found in keyed.values() if key in found)
        sign = "\N{GREATER-THAN OR EQUAL TO}" if sample.at_least else "\N{LESS-THAN OR EQUAL TO}"
        limit = f"{sign} {show(sample.limit, sample.kind, system)} {unit_symbol(sample.kind, system)}"
        cells = tuple(_cell(found[key], system) if key in found else Cell("", "–") for found in keyed.values())
        rows.append(AgainstRow(told(title(sample), system), limit, cells))
    moving = next((check for check in speeds.values() if check), None)
    asked = f"\N{GREATER-THAN OR EQUAL TO} {show(moving.limit, moving.kind, system)} rpm" if moving else ""
    rows.append(AgainstRow("Lost for good at, moving", asked, tuple(_cell(speeds.get(letter), system) for letter, _ in columns)))
    return Against(
        tuple((letter, one.chosen.name) for letter, one in columns), (*rows, *_bare(plan, columns, system, today)), _decides(first, system)
    )


def _bare(plan: Plan, columns: list[tuple[str, Shown]], system: UnitSystem, today: date) -> list[AgainstRow]:
    """Figures without a limit."""

    def row(name: str, kind: QuantityKind, values: list[float | None], decimals: int | None = None, *, rule: bool = False) -> AgainstRow:
        base = values[0]
        cells = []
        for number, value in enumerate(values):
            if value is None:
                cells.append(Cell("", "not known"))
                continue
            change = _signed(value - base, kind, system) if number and base is not None else ""
            cells.append(Cell("", show(value, kind, system, decimals) if decimals is not None else show(value, kind, system), change))
        return AgainstRow(name, unit_symbol(kind, system), tuple(cells), rule)

    sets = [one for _, one in columns]
    goal = f"{sets[0].review.completed.goal.goal_rpm * 60:,.0f}"
    rows = [
        row(f"Open force, {plan.side}", QuantityKind.FORCE, [one.open_force.value for one in sets], rule=True),
        row(f"Moving mass, {plan.side}", QuantityKind.MASS, [one.mass for one in sets]),
        row(f"Friction at {goal} rpm", QuantityKind.POWER, [one.friction for one in sets]),
        row("At the crank bolt, plugs out", QuantityKind.TORQUE, [one.hand for one in sets]),
    ]
    prices, dates, service, cost = [], [], [], []
    for number, one in enumerate(sets):
        chosen, budget = one.chosen, plan.wishes.budget
        unpriced = f" ({len(chosen.unpriced)} guessed)" if chosen.unpriced and number else ""
        over = "short" if budget is not None and chosen.price > budget else "holds" if budget is not None else ""
        prices.append(
            Cell(
                over if number else "",
                f"{chosen.price:,.2f}{unpriced}" if number else "none",
                f"{budget - chosen.price:+,.2f}" if number and budget is not None else "",
            )
        )
        late = plan.wishes.days is not None and chosen.days > plan.wishes.days
        mark = "short" if late else "holds" if plan.wishes.days is not None else ""
        when = today + timedelta(days=chosen.days)
        dates.append(
            Cell(
                mark if number else "",
                f"{when.day} {when:%b}" if number else "fitted now",
                f"{plan.wishes.days - chosen.days:+d} d" if number and plan.wishes.days is not None else "",
            )
        )
        hours = chosen.service
        service.append(Cell("", "not known" if hours == float("inf") else f"{hours:g} h"))
        cost.append(Cell("", "–" if hours == float("inf") or not number else f"{chosen.price / hours:,.2f}"))
    limit = "" if plan.wishes.budget is None else f"\N{LESS-THAN OR EQUAL TO} {plan.wishes.budget:,.2f}"
    until = "" if plan.wishes.days is None else f"\N{LESS-THAN OR EQUAL TO} {plan.wishes.days} days"
    return [
        AgainstRow("Price added", limit, tuple(prices)), AgainstRow("On the bench", until, tuple(dates)), *rows,
        AgainstRow("First renewed after", "", tuple(service)), AgainstRow("Cost an hour", "", tuple(cost)),
    ]  # fmt: skip


def _decides(one: Shown, system: UnitSystem) -> tuple[str, ...]:
    """Which figure decides what is not proven of the chosen set: what to measure next."""
    found = []
    for item in one.measure[:3]:
        unit = unit_symbol(item.kind, system)
        found.append(
            f"{input_name(item.what)} ({item.about}): known exactly, ±{show(item.before, item.kind, system, difference=True)} would become ±{show(item.after, item.kind, system, difference=True)} {unit}"
        )
    return tuple(found)
