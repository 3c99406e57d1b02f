"""How far a station is, where it follows from which figures are known."""

from typing import Any

from valvetrain.parts.figure import Basis

DISAGREE = ("waits", "figures disagree")


def known_state(stored: dict[str, Any], keys: tuple[str, ...]) -> tuple[str, str]:
    """Of a column of figures: how many of `keys` are known, estimates left out."""
    count = sum(key in stored and stored[key]["basis"] != Basis.ESTIMATE for key in keys)
    state = share_state(count, len(keys))
    return state, "done" if state == "done" else f"{count} of {len(keys)} known"


def share_state(count: int, of: int) -> str:
    """`done` for all, `work` for some, `none`."""
    return "done" if count == of else "work" if count else "none"
