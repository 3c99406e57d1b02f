"""A port on the flow bench: what flowed at which lift."""

from dataclasses import dataclass

from valvetrain.errors import OutOfRangeError
from valvetrain.parts.engine import Side
from valvetrain.units import LENGTH, amount

_MOST = 200  # rows; a bench gives a dozen
_LOW, _HIGH = 200.0, 20e3  # Pa; benches draw 2.5 to 7 kPa


@dataclass(frozen=True)
class FlowTest:
    """One test of one side: `lifts` m increasing, `flows` m^3/s of air at the bench's conditions for one port, at `depression` Pa. `state` says
    of what: stock or as it is now; `valves` of the port are open together."""

    side: Side
    state: str
    depression: float
    lifts: tuple[float, ...]
    flows: tuple[float, ...]
    valves: int = 1
    name: str = ""

    def __post_init__(self) -> None:
        if len(self.lifts) != len(self.flows) or not 2 <= len(self.lifts) <= _MOST:
            raise OutOfRangeError(f"A flow test has 2 to {_MOST} rows, each a lift and a flow.")
        if any(later <= before for before, later in zip(self.lifts, self.lifts[1:], strict=False)):
            row = next(n for n in range(1, len(self.lifts)) if self.lifts[n] <= self.lifts[n - 1])
            raise OutOfRangeError(
                f"The lift does not increase at row {row + 1}: {amount(self.lifts[row], LENGTH)} after {amount(self.lifts[row - 1], LENGTH)}."
            )
        if min(self.lifts) < 0.0 or min(self.flows) < 0.0:
            raise OutOfRangeError("Lifts and flows are not below zero.")
        if max(self.lifts) > 30e-3:
            raise OutOfRangeError(f"A lift of {amount(max(self.lifts), LENGTH)} is no valve's. Is the unit right?")
        if not _LOW <= self.depression <= _HIGH:
            raise OutOfRangeError(
                "The depression of a flow bench lies between 0.2 and 20 kPa (0.8 and 80 inches of water). Is the unit right?"
            )
        if max(self.flows) > 1.0:
            raise OutOfRangeError("More than 1,000 litres a second through one port: is the unit right?")
