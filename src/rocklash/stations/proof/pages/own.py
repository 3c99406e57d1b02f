"""What the workshop's own engines taught, beside what the trade supposes, as view-models."""

from collections.abc import Callable
from dataclasses import dataclass

from rocklash.answers.own_priors import OwnResult
from rocklash.answers.own_results import Aged
from valvetrain.studies.proof.own_results import LEAST, TRADE, Learned, OwnPrior
from valvetrain.units import QuantityKind, UnitSystem, quantity

_FINE = {UnitSystem.METRIC: 3, UnitSystem.INCH: 5}
_GEARS = {"dohc": "two cams", "ohc": "one cam and rockers", "push_rod": "push-rods", "side_valve": "side valves"}


@dataclass(frozen=True, kw_only=True)
class OwnRow:
    """One figure: the trade's, the workshop's, from how many results, whether it counts, and each result."""

    key: str
    words: str
    trade: str
    own: str
    count: int
    enough: bool
    used: bool
    results: list[tuple[str, str]]


def _told(what: Learned, value: float, system: UnitSystem) -> str:
    match what:
        case Learned.STIFFNESS | Learned.DAMPING:
            return f"{value:.2f} times"
        case Learned.LOAD_LOSS:
            return f"{100 * value:.1f} %"
        case Learned.RECESSION:
            return f"{quantity(100.0 * value, QuantityKind.LENGTH, system, _FINE[system])} in 100 h"
    return f"±{quantity(value, QuantityKind.LENGTH, system, _FINE[system])}"


def own_rows(
    results: dict[Learned, list[OwnResult]], used: Callable[[Learned], bool], prior: Callable[[Learned, str], OwnPrior], system: UnitSystem
) -> list[OwnRow]:  # fmt: skip
    """A line for each figure, stiffness for each gear that has results."""
    lines = []
    for what, mine in results.items():
        for about in sorted({row.about for row in mine}) or [""]:
            found = prior(what, about)
            middle, low, high = TRADE[what]

            def band(a: float, b: float, c: float, what: Learned = what) -> str:
                return f"{_told(what, a, system)}, {_told(what, b, system)} to {_told(what, c, system)}"

            lines.append(
                OwnRow(
                    key=what.name.lower(), words=what.value + (f", {_GEARS.get(about, about)}" if about else ""), trade=band(middle, low, high),
                    own=band(found.middle, found.low, found.high) if found.count else "", count=found.count, enough=found.count >= LEAST,
                    used=used(what), results=[(row.words, _told(what, row.value, system)) for row in mine if row.about == about],
                )
            )  # fmt: skip
    return lines


def aged_words(prior: OwnPrior | None, sides: list[Aged], system: UnitSystem) -> list[str]:
    """What springs that lost their usual load mean for this build."""
    whose = f"this workshop's springs ({prior.count} results)" if prior else "the trade"
    return [
        f"{each.side.capitalize()}: {quantity(each.now, QuantityKind.FORCE, system)} on the seat become {quantity(each.then, QuantityKind.FORCE, system)}, "
        f"{quantity(each.least, QuantityKind.FORCE, system)} to {quantity(each.most, QuantityKind.FORCE, system)}, once the springs have lost what they do by "
        f"{whose}; float then comes {100 * (1 - each.part):.1f} % earlier."
        for each in sides
    ]
