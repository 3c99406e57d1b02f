"""What a figure and a word of the catalogue are: key, owner, what is measured, and the bounds beyond which it is a slip."""

from dataclasses import dataclass
from enum import StrEnum

from valvetrain.errors import QuantityError
from valvetrain.parts.figure import Basis
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol


class Owner(StrEnum):
    """What a figure belongs to."""

    ENGINE = "engine"
    GOAL = "goal"
    CAM = "cam"
    VALVE = "valve"
    RETAINER = "retainer"
    KEEPERS = "keepers"
    FOLLOWER = "follower"
    SHIM = "shim"
    SPRING = "spring"
    FIT = "fit"
    GUIDE = "guide"
    SEAL = "seal"
    SEAT = "seat"
    SPRING_SEAT = "spring_seat"
    SPRING_SHIM = "spring_shim"
    CAP = "cap"


@dataclass(frozen=True)
class FigureKind:
    """One kind of figure; `low` and `high` are SI. `card_spread`/`measured_spread` are shares of the value (k = 2), `floor` (SI) the least
    spread of a figure that may be near zero. `counts` says where a figure counts that moves no check of the verdict sheet by itself."""

    key: str
    owner: Owner
    label: str
    kind: QuantityKind
    low: float
    high: float
    card_spread: float
    measured_spread: float
    hint: str = ""
    floor: float = 0.0
    counts: str = ""

    def check(self, value: float, system: UnitSystem = UnitSystem.METRIC) -> None:
        """Raise QuantityError with a sentence when the SI value lies outside the bounds."""
        if not self.low <= value <= self.high:
            unit = unit_symbol(self.kind, system)
            given, low, high = (show(number, self.kind, system) for number in (value, self.low, self.high))
            raise QuantityError(
                f"{self.label}: {given} {unit} cannot be; it lies between {low} and {high} {unit}. Is the unit right?".replace("  ", " ")
            )


@dataclass(frozen=True)
class FactKind:
    """Something of a part that is no number: `choices` maps what is stored to the words a person reads; the first is assumed."""

    owner: Owner
    key: str
    label: str
    choices: dict[str, str]


def usual_spread(kind: FigureKind, value: float, basis: Basis) -> float:
    """Spread (k = 2, SI) to take when none is stated. Source: judgement, see the catalogue."""
    share = {
        Basis.MEASURED: kind.measured_spread,
        Basis.MAKER: kind.card_spread,
        Basis.CARD: kind.card_spread,
        Basis.ESTIMATE: max(3 * kind.card_spread, 0.1),
    }
    floor = kind.floor * (2.0 if basis is Basis.ESTIMATE else 1.0)
    return max(abs(value) * share[basis], floor)
