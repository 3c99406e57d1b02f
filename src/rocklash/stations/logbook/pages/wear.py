"""What a use takes out of springs and seats, as view-models: a band, and a ratio to the parts that lasted; never hours of life."""

from dataclasses import dataclass

from rocklash.answers.results import BuildResult
from rocklash.stations.logbook.pages.due import part_words
from valvetrain.errors import OutOfRangeError
from valvetrain.parts.engine import Side
from valvetrain.studies.logbook.damage import Damage, Wear, against
from valvetrain.studies.logbook.spring_use import SeatStruck, SpringUse, seat_struck, spring_use
from valvetrain.studies.logbook.use import Use


@dataclass(frozen=True, kw_only=True)
class WearRow:
    """One spring of a side."""

    name: str
    wear: str
    band: str
    ratio: str
    above: str
    over: bool


@dataclass(frozen=True, kw_only=True)
class WearPage:
    """The page: springs, seats, time above float; `waits` while the motion is still computed, `missing` what keeps springs from being told."""

    rows: list[WearRow]
    seats: list[str]
    floats: list[str]
    sentence: str
    waits: bool
    missing: list[str]


def _band(found: Damage) -> str:
    if found.absurd:
        return "as entered this wire would not last a run: look at its wire, diameter and grade again"
    return f"{part_words(found.low)} to {part_words(found.high)} of a mean life"


def _more(found: SpringUse) -> list[str]:
    above = [f"half of it above {60 * found.half_above:,.0f} rpm"] if found.half_above else []
    return above if found.peening_told else [*above, "whether it is peened is not known: the band holds both"]


def _ratio(one: SpringUse, stock: SpringUse | None) -> str:
    if stock is None:
        return "the stock spring's wire is not known"
    if one.total == stock.total:
        return "the same springs"
    try:
        found = against(one.total, stock.total)
    except OutOfRangeError:
        return "the stock ones hold none to speak of"
    if not found.told:
        return "about as much as the stock ones"
    times = found.times if found.times >= 1.0 else 1.0 / found.times
    return f"{times:,.0f} times {'more' if found.times > 1.0 else 'less'} than the stock ones"


def _seat(side: Side, found: SeatStruck) -> str:
    return (
        f"{side.value.capitalize()} seats are struck hardest at {60 * found.speed:,.0f} rpm, {1e3 * found.energy:,.1f} mJ, and least at "
        f"{60 * found.softest_speed:,.0f}, {1e3 * found.softest:,.1f} mJ."
    )


def wear_page(answer: BuildResult, use: Use) -> WearPage:
    """Each proposed spring over a use, beside the stock one over the same."""
    rows: list[WearRow] = []
    seats: list[str] = []
    floats: list[str] = []
    missing: list[str] = []
    worst = None
    waits = answer.review is not None and len(answer.motions) < len(answer.train_keys)
    if answer.review is not None:
        done = answer.review.completed
        for side in Side:
            motion, before = (answer.motions.get((role, side)) for role in ("proposed", "stock"))
            if motion is None or motion.sweep is None:
                continue
            own, stock = done.proposed_sides[side], done.stock_sides[side]
            for number, (figures, facts) in enumerate(zip(own.springs, own.spring_facts, strict=False)):
                name = f"{side.value.capitalize()}, {'outer' if number == 0 else 'inner'} spring"
                found = spring_use(use, motion.sweep, number, figures, facts)
                if found is None:
                    missing.append(name)
                    continue
                known = None
                if before is not None and before.sweep is not None and number < len(stock.springs):
                    known = spring_use(use, before.sweep, number, stock.springs[number], stock.spring_facts[number])
                rows.append(
                    WearRow(
                        name=name, wear=str(found.damage.wear), band=_band(found.damage),
                        ratio=_ratio(found, known), above="; ".join(_more(found)),
                        over=found.damage.wear is Wear.OVER,
                    )
                )  # fmt: skip
                if worst is None or found.total > worst[1].total:
                    worst = name, found
            struck = seat_struck(use, motion.sweep)
            if struck is not None:
                seats.append(_seat(side, struck))
            if motion.sustained is not None:
                seconds = use.above(motion.sustained.value)
                if seconds > 0.0:
                    floats.append(
                        f"{side.value.capitalize()} valves ran {seconds / 60.0:,.1f} min above {60 * motion.sustained.value:,.0f} rpm, where they float."
                    )
    sentence = (
        f"{worst[0]}: {worst[1].damage.wear}. Wire scatters eightfold each way, and rust or a scratch breaks springs first: look at them."
        if worst
        else "Nothing can be said of the springs yet."
    )
    return WearPage(rows=rows, seats=seats, floats=floats, sentence=sentence, waits=waits, missing=missing)
