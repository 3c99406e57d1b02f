"""The one way in which a formula refuses an argument outside its range."""

import math

from valvetrain.errors import OutOfRangeError


def require_above(name: str, value: float, lowest: float = 0.0) -> None:
    """Raise OutOfRangeError unless `value` is finite and greater than `lowest`."""
    if not (math.isfinite(value) and value > lowest):
        raise OutOfRangeError(f"{name} must be more than {lowest:g}, and is {value:g}.")


def require_between(name: str, value: float, lowest: float, highest: float) -> None:
    """Raise OutOfRangeError unless `lowest <= value <= highest`."""
    if not (math.isfinite(value) and lowest <= value <= highest):
        raise OutOfRangeError(f"{name} must be between {lowest:g} and {highest:g}, and is {value:g}.")
