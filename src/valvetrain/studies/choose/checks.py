"""The checks a set of parts passes through, in the order of the sieve, and how far it got."""

from dataclasses import dataclass
from enum import StrEnum


class SetCheck(StrEnum):
    """What a set may fall at, after what fits together."""

    LOBE = "lobe under its follower"
    STAND = "springs as they stand"
    SEAT = "seat force"
    FLOAT = "float"
    BIND = "coil bind"
    RETAINER = "retainer to seal"
    ROOM = "other gaps"
    BUDGET = "budget"
    DAYS = "date"


ORDER = tuple(SetCheck)
BIT = {check: number for number, check in enumerate(ORDER)}


@dataclass(frozen=True)
class Tray:
    """One check of the sieve: how many sets come to it, fall short at it, and are left; `alone` fall short at nothing else."""

    name: str
    came: int
    stops: int
    alone: int

    @property
    def left(self) -> int:
        """How many are left after it."""
        return self.came - self.stops
