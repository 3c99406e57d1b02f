"""The one next act on a set-up: a fix where something is short beyond doubt, else the measurement that gains most for the time and money it takes."""

from dataclasses import dataclass
from typing import Final

from valvetrain.studies.checks.check import Check, Remedy, Verdict
from valvetrain.studies.review.build import MeasureNext, SetupReview

# Minutes at the bench by what is measured, with the engine as it stands then. Source: judgement
_MINUTES: Final[tuple[tuple[str, float], ...]] = (
    ("mass:", 8.0), ("clearance", 12.0), ("retainer_to_seal", 12.0), ("installed_height", 15.0), ("spring_shim", 8.0), ("stroke", 5.0), ("rate_", 15.0), ("load_", 15.0), ("solid", 10.0), ("bend_", 20.0),
    ("active_", 5.0), ("lift", 15.0), ("duration", 40.0), ("shape", 60.0), ("shake:", 90.0), ("room:rest", 90.0), ("room:", 15.0), ("goal:", 25.0),
)  # fmt: skip
_USUAL: Final = 20.0
# What a fix takes, minutes and money as minutes together; a lower goal or less boost takes none and gives up what was wanted: these come last. Source: judgement
_FIXES: Final = {
    "more clearance": 20.0, "less spring shim": 60.0, "an earlier change-over": 20.0, "the cam later": 45.0, "the cam earlier": 45.0, "less phaser range": 40.0, "lighter retainer": 240.0,
    "stiffer springs at this height": 240.0, "a thicker gasket": 200.0, "springs with a lower solid height": 240.0, "lower seal or guide": 180.0, "spring seat cut deeper": 400.0, "deeper pockets": 500.0,
}  # fmt: skip
_SHIM: Final = 60.0
GIVES_UP: Final = frozenset({"a lower goal", "less boost"})


@dataclass(frozen=True, kw_only=True)
class NextAct:
    """A fix of a check, or a measurement; both empty where everything holds."""

    check: Check | None = None
    remedy: Remedy | None = None
    measure: MeasureNext | None = None


def minutes_to_measure(what: str) -> float:
    """Minutes that measuring an input takes, about."""
    return next((minutes for stem, minutes in _MINUTES if what.startswith(stem)), _USUAL)


def gain_per_minute(item: MeasureNext) -> float:
    """Part of the doubt that knowing it takes away, a minute."""
    return (1.0 - item.after / item.before) / minutes_to_measure(item.what) if item.before > 0.0 else 0.0


def effort(remedy: Remedy) -> float:
    """What a fix takes, in minutes; money counts as minutes."""
    return _FIXES.get(remedy.action, _SHIM)


def _rank(remedy: Remedy) -> tuple[bool, bool, bool, float]:
    return remedy.action in GIVES_UP, not remedy.suffices, bool(remedy.spoils), effort(remedy)


def next_act(found: SetupReview) -> NextAct:
    """Short beyond doubt: the cheapest fix that suffices alone and spoils nothing, of the check that is shortest. Not proven: the measurement that gains most a minute.
    What is only just held, or held: nothing."""
    for check in found.checks:
        if check.verdict is Verdict.SHORT and check.remedies:
            return NextAct(check=check, remedy=min(check.remedies, key=_rank))
    if found.measure_next and any(check.verdict is not Verdict.HOLDS for check in found.checks):
        return NextAct(measure=max(found.measure_next, key=gain_per_minute))
    return NextAct()
