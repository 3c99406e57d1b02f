"""The swap plan of a sheet: readings, shelf and pins to the core's optimiser; and what a signature does to the shelf."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from rocklash.answers import store
from rocklash.answers.clearances import ValveStatus
from rocklash.records.models import ClearanceSession, Pins, ShimSource, ShimStock
from valvetrain.studies.clearance.shim_plan import ClearanceInterval
from valvetrain.studies.clearance.swap_plan import LABEL, MICROMETER, StockShim, SwapPlan, ValveNeed, swap_plan
from valvetrain.units import LENGTH, amount

SAME = 6e-6  # m; two shims within it are the same size to a micrometer of 0.01 mm


def stock_key(row: ShimStock) -> str:
    """Key of a shelf row in a plan."""
    return f"stock {row.pk}"


def needs_of(rows: list[ValveStatus], session: ClearanceSession, *, pinned: bool) -> list[ValveNeed]:
    """One need a valve that was read; pins of the sheet with `pinned`."""
    needs, pins = [], session.pins if pinned else {}
    for row in rows:
        if row.found is None or row.first is None:
            continue
        found = ClearanceInterval(row.found.low, row.found.high, row.first.shim or row.first.label)
        sigma = MICROMETER if row.first.shim_source == ShimSource.MICROMETER else LABEL
        pin = pins.get(row.position.pk, Pins())
        needs.append(
            ValveNeed(
                name=row.position.name, found=found, limits=row.limits, aim=row.aim, ratio=row.ratio, sigma=sigma, stays=pin.stays, only=pin.only,
                never=frozenset(pin.never),
            )
        )  # fmt: skip
    return needs


def _stock(shelf: list[ShimStock]) -> list[StockShim]:
    return [StockShim(stock_key(row), row.size, row.count, MICROMETER if row.measured else LABEL) for row in shelf if row.count > 0]


def _key(needs: list[ValveNeed], shelf: list[StockShim]) -> str:
    return store.content_key(tuple(needs), tuple(shelf))


@dataclass(frozen=True)
class Swaps:
    """The plan with the sheet's pins, and the one without any, for what the pins cost."""

    plan: SwapPlan
    free: SwapPlan


def swaps_of(rows: list[ValveStatus], session: ClearanceSession | None, shelf: list[ShimStock], *, compute: bool) -> Swaps | None:
    """The plan of a sheet whose valves are all read; None before that, or while it is not computed and shall not be."""
    if session is None or not rows or any(row.first is None for row in rows):
        return None
    needs, stock = needs_of(rows, session, pinned=True), _stock(shelf)
    key = _key(needs, stock)
    known: Swaps | None = store.recall("plan", key)
    if known is not None:
        return known
    if not compute:
        return None
    plan = swap_plan(needs, stock)
    free = swap_plan(needs_of(rows, session, pinned=False), stock) if session.pins else plan
    store.remember("plan", key, Swaps(plan, free))
    return Swaps(plan, free)


def frozen(plan: SwapPlan) -> dict[str, dict[str, Any]]:
    """The plan as a sheet keeps it when the re-check begins, by valve."""
    return {
        each.valve: {"size": each.size, "key": each.key, "source": each.source, "low": each.low, "high": each.high}
        for each in plan.fittings
    }


@dataclass(frozen=True)
class ShelfChange:
    """What a signature does to the shelf: rows that give shims away (by number), sizes (m) that come to it; `trouble` keeps it unsigned."""

    taken: Counter[int]
    given: list[float]
    trouble: str = ""


def shelf_change(rows: list[ValveStatus], session: ClearanceSession, shelf: Iterable[ShimStock]) -> ShelfChange:
    """Which shims left the shelf and which came to it, from what was fitted against what was in.

    A fitted shim is first taken to be one that was in the engine, then the planned one of the shelf, then any of its size there, else bought.
    """
    plan = session.planned
    was = [row.first.shim for row in rows if row.first and row.first.shim]
    fitted = [(row, row.again.shim) for row in rows if row.again and row.again.shim]
    pool, taken, by_key = list(was), Counter[int](), {stock_key(row): row for row in shelf}
    for row, size in fitted:
        own = next((each for each in pool if abs(each - size) <= SAME), None)
        planned = plan.get(row.position.pk)
        source, told = (by_key.get(planned.key), planned.source) if planned else (None, "")
        if source is not None and abs(source.size - size) <= SAME:
            if taken[source.pk] >= source.count:
                return ShelfChange(
                    taken, [], f"The {source} of the shelf is fitted more often than it is there ({source.count}). Read the shims again."
                )
            taken[source.pk] += 1
        elif own is not None:
            pool.remove(own)
        elif told not in ("buy", "stock"):
            other = next((each for each in by_key.values() if abs(each.size - size) <= SAME and each.count > taken[each.pk]), None)
            if other is None and told not in ("", "stays"):
                return ShelfChange(
                    taken, [], f"{row.position.name}: a shim of {amount(size, LENGTH, 3)} is fitted twice, or was never in engine or shelf. Read it again."
                )  # fmt: skip
            if other is not None:
                taken[other.pk] += 1
    return ShelfChange(taken, pool)


def fits_of(rows: list[ValveStatus], session: ClearanceSession | None, shelf: list[ShimStock]) -> dict[int, float]:
    """What each valve is to get, m by position: the plan frozen with the sheet, else the one that stands now; empty before all are read."""
    if session is None:
        return {}
    planned = session.planned
    if planned:
        return {number: kept.size for number, kept in planned.items()}
    found = swaps_of(rows, session, shelf, compute=True)
    by_name = {row.position.name: row.position.pk for row in rows}
    return {by_name[each.valve]: each.size for each in found.plan.fittings} if found else {}
