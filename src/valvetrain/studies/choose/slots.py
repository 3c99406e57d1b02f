"""The places that a set of parts fills on one side of a head, and the parts that may go there."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from valvetrain.parts.catalogue import Owner
from valvetrain.parts.record import PartRecord


class Slot(StrEnum):
    """A place of a set."""

    CAM = "cam"
    OUTER = "outer"
    INNER = "inner"
    RETAINER = "retainer"
    KEEPERS = "keepers"
    VALVE = "valve"
    FOLLOWER = "follower"
    SPRING_SHIM = "spring_shim"

    @property
    def owner(self) -> Owner:
        """What kind of part goes there."""
        return Owner.SPRING if self in (Slot.OUTER, Slot.INNER) else Owner(self.value)


@dataclass(frozen=True, kw_only=True)
class Candidate:
    """A part that may go into a place. `price` in money for what one side needs, `days` until it is on the bench, `service` running hours after
    which it is renewed; None is not known. An empty `key` is the place left empty (no inner spring, no shim); `stock` came with the engine, and
    `alone` is a stock spring as it goes into another pack; of a `guessed` one price or date is not known but taken like others'."""

    key: str
    record: PartRecord
    price: float | None = None
    days: int | None = None
    service: float | None = None
    stock: bool = False
    alone: PartRecord | None = None
    guessed: bool = False

    @property
    def empty(self) -> bool:
        """Whether nothing goes there."""
        return not self.key


NOTHING = Candidate(key="", record=PartRecord(""), price=0.0, days=0)


@dataclass(frozen=True, kw_only=True)
class Shelf:
    """What may go where: at least one part for each place but inner spring and shim, which may stay empty."""

    parts: Mapping[Slot, tuple[Candidate, ...]]

    @property
    def count(self) -> int:
        """How many sets can be put together, whether they fit or not."""
        total = 1
        for slot in Slot:
            total *= len(self.parts[slot])
        return total


@dataclass(frozen=True, kw_only=True)
class Wishes:
    """What a set may cost (money, one side) and when it must be on the bench (days from now); None asks nothing."""

    budget: float | None = None
    days: int | None = None


@dataclass(frozen=True)
class PartSet:
    """One part for every place, `picks` by place."""

    picks: Mapping[Slot, Candidate] = field(default_factory=dict)

    @property
    def price(self) -> float:
        """Sum of the prices told."""
        return sum(each.price or 0.0 for each in self.picks.values())

    @property
    def unpriced(self) -> tuple[str, ...]:
        """Names of the parts of which price or date are not known but taken like those of others."""
        return tuple(each.record.name for each in self.picks.values() if (each.guessed or each.price is None) and not each.stock)

    @property
    def days(self) -> int:
        """Days until the last of them is there."""
        return max(each.days or 0 for each in self.picks.values())

    @property
    def service(self) -> float:
        """Running hours until the first of them is renewed; infinite where nothing is told of any."""
        return min((each.service for each in self.picks.values() if each.service is not None), default=float("inf"))

    @property
    def name(self) -> str:
        """What is not stock in it, by name."""
        new = [each.record.name for each in self.picks.values() if not each.stock and not each.empty]
        return ", ".join(dict.fromkeys(new)) or "stock parts"
