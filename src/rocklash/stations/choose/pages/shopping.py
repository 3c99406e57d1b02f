"""What was decided, and what to buy for it: first what takes longest."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from django.utils.timezone import localtime

from rocklash.answers.choose import COLUMNS, WORDS, needed
from rocklash.answers.rows import kind_of, side_rows
from rocklash.records.models import Build, Decision, Part, SetupSide
from valvetrain.parts.engine import Side
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol

_STEM = 0.1e-3  # m, within which a seal is for a stem. Source: trade


@dataclass(frozen=True, kw_only=True)
class BuyLine:
    """One part to have: how many are wanted, here, to buy, in packs, left over; its price and when it is here at the latest order."""

    part: str
    number: str
    where: str
    wanted: int
    here: int
    buy: int
    packs: str
    over: int
    price: str
    days: int
    order: str
    alternates: str
    exchange: str


@dataclass(frozen=True)
class Decided:
    """A decision with its reason."""

    side: str
    names: str
    over: str
    reason: str
    by: str
    at: str
    figures: str


@dataclass(frozen=True)
class ShoppingPage:
    """The list in the order of ordering, its sum, and the decisions behind it."""

    lines: list[BuyLine]
    total: str
    unpriced: int
    ready: str
    decisions: list[Decided]


def shopping_page(
    build: Build, decisions: list[Decision], wished: Mapping[str, int | None], others: list[Part], system: UnitSystem, today: date
) -> ShoppingPage:
    """Everything of the proposed set-up that is not stock; `wished` days by side, `others` the parts of the shelf that may go in."""
    kind, rows = kind_of(build.engine), side_rows(build)
    wanted: dict[int, int] = {}
    found: dict[int, Part] = {}
    places: dict[int, set[str]] = {}
    sides: dict[int, set[str]] = {}
    for side in Side:
        proposed, stock = rows["proposed", side.value], rows["stock", side.value]
        valves = sum(place.side == side.value for place in build.engine.positions.all()) or 1
        counts = needed(kind, side, valves)
        for slot, column in COLUMNS.items():
            part: Part | None = getattr(proposed, column)
            if part is None or part == getattr(stock, column) or part.stock:
                continue
            found[part.pk] = part
            wanted[part.pk] = wanted.get(part.pk, 0) + counts[slot]
            places.setdefault(part.pk, set()).add(WORDS[slot])
            sides.setdefault(part.pk, set()).add(side.value)
    lines = [
        _line(part, wanted[number], sorted(sides[number]), [each for each in others if each.kind == part.kind and each.pk != number], wished, today)
        for number, part in found.items()
    ]  # fmt: skip
    lines += _seals(rows, len(build.engine.positions.all()), others, wished, today) if lines else []
    lines.sort(key=lambda line: (-line.days, line.part))
    prices = [float(line.price.replace(",", "")) for line in lines if line.price]
    longest = max((line.days for line in lines if line.buy), default=0)
    ready = today + timedelta(days=longest)
    return ShoppingPage(
        lines, f"{sum(prices):,.2f}", sum(not line.price and bool(line.buy) for line in lines), f"{ready.day} {ready:%B}" if lines else "",
        [_decided(each, system) for each in decisions],
    )  # fmt: skip


def _line(part: Part, wanted: int, sides: list[str], others: list[Part], wished: Mapping[str, int | None], today: date) -> BuyLine:
    here = min(part.quantity, wanted)
    buy = wanted - here
    packs = math.ceil(buy / part.pack)
    days = (part.lead_days or 0) if buy else 0
    limits = [limit for side in sides if (limit := wished.get(side)) is not None]
    order = ""
    if buy and part.lead_days is not None and limits:
        latest = today + timedelta(days=min(limits) - part.lead_days)
        order = "today" if latest <= today else f"by {latest.day} {latest:%b}"
    elif buy:
        order = "lead time not known" if part.lead_days is None else "first" if part.lead_days else "any day"
    alternates = ", ".join(each.name for each in sorted(others, key=lambda each: (each.lead_days is None, each.lead_days or 0))[:2])
    return BuyLine(
        part=part.name, number=" ".join(filter(None, (part.number, part.supplier))), where=" and ".join(sides), wanted=wanted, here=here, buy=buy,
        packs=f"{packs} of {part.pack}" if part.pack > 1 and buy else "", over=packs * part.pack - buy if buy else 0,
        price=f"{part.price * packs:,.2f}" if part.price is not None and buy else "", days=days, order=order, alternates=alternates,
        exchange=part.exchange,
    )  # fmt: skip


def _seals(
    rows: Mapping[tuple[str, str], SetupSide], valves: int, others: list[Part], wished: Mapping[str, int | None], today: date
) -> list[BuyLine]:  # fmt: skip
    """Stem seals for every valve, which are lost whenever springs come off over them: those of the shelf for these stems, cheapest for the lot."""
    stems = {
        row.valve.figures["stem_diameter"]["value"]
        for (role, _), row in rows.items()
        if role == "proposed" and row.valve and "stem_diameter" in row.valve.figures
    }  # fmt: skip
    if len(stems) != 1:
        return []
    stem = stems.pop()
    fitting = [
        part
        for part in others
        if part.kind == "seal" and "stem_diameter" in part.figures and abs(part.figures["stem_diameter"]["value"] - stem) < _STEM
    ]
    cost = lambda part: float(part.price or 0) * math.ceil(max(valves - part.quantity, 0) / part.pack)
    priced = [part for part in fitting if part.price is not None] or fitting
    if not priced:
        return []
    best = min(priced, key=lambda part: (cost(part), part.pk))
    return [_line(best, valves, sorted(side.value for side in Side), [part for part in fitting if part.pk != best.pk], wished, today)]


def _decided(each: Decision, system: UnitSystem) -> Decided:
    told = each.figures
    force, mass = (
        f"{show(told[key], kind, system)} {unit_symbol(kind, system)}"
        for key, kind in (("force", QuantityKind.FORCE), ("mass", QuantityKind.MASS))
    )
    by = each.by.username if each.by else "somebody"
    return Decided(
        each.side,
        each.names,
        each.over,
        each.reason,
        by,
        f"{localtime(each.at):%d %b %Y}",
        f"open {force}, moving {mass}, {told['price']:,.2f}, {told['days']} days",
    )
