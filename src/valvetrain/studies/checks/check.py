"""A check and its parts: what it is about, its verdict, what would mend it."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from valvetrain.formulas.stacks import likely_half_width, worst_case
from valvetrain.parts.engine import Side
from valvetrain.parts.gaps import GUESSED_GAPS, GapKind
from valvetrain.units import QuantityKind


class Verdict(StrEnum):
    """The four verdicts, worst last."""

    HOLDS = "holds"
    SLIM = "slim"
    UNPROVEN = "unproven"
    SHORT = "short"


class CheckCode(StrEnum):
    """What a check is about, where it is no gap between parts."""

    FLOAT = "float"
    LOW_FLOAT = "low_lobe_float"
    MOTION = "motion"
    SEAT = "seat_force"
    PISTON = "piston_speed"
    LIFTERS = "hydraulic_elements"
    AT_SPEED = "piston_gap_at_speed"


CheckSubject = CheckCode | GapKind
GUESSED = GUESSED_GAPS | {CheckCode.AT_SPEED}


@dataclass(frozen=True)
class Effect:
    """What a remedy does to one check: its new figure and verdict, and the verdict before where it is a neighbour's."""

    code: CheckSubject
    about: str
    kind: QuantityKind
    figure: float
    verdict: Verdict
    before: Verdict | None = None

    @property
    def worse(self) -> bool:
        """Whether a neighbour is worse off than it was."""
        order = list(Verdict)
        return self.before is not None and order.index(self.verdict) > order.index(self.before)


@dataclass(frozen=True)
class SideEffect:
    """What a remedy costs elsewhere: what, before and after (SI of `kind`; a change from zero is told as such)."""

    what: str
    before: float
    after: float
    kind: QuantityKind


@dataclass(frozen=True)
class Remedy:
    """A change that would help: what, by how much, what it does to this and the neighbouring checks, and its price elsewhere."""

    action: str
    amount: float
    kind: QuantityKind
    suffices: bool
    effects: tuple[Effect, ...]
    prices: tuple[SideEffect, ...] = ()

    @property
    def spoils(self) -> tuple[Effect, ...]:
        """Neighbours that it leaves worse off."""
        return tuple(effect for effect in self.effects if effect.worse)


@dataclass(frozen=True)
class Check:
    """One check. `figure`, `limit`, `margin`, `spread` are SI of `kind`; `margin` is positive when there is some to spare.

    `spread` is how far the interval of about 95 % reaches from the figure towards the limit; `low` and `high` are its ends where it is skew.
    Of a gap, `parts` are the half widths of what it is made of (m), widest first.
    `about` names side and spring, `worst` the valve it was found on, `at_least` the sense of the limit, `basis` what the
    figure rests on, `made_of` the parts of the limit, `dominant` the inputs whose spread decides, largest first with their share of the variance.
    """

    code: CheckSubject
    about: str
    side: Side | None
    worst: str
    kind: QuantityKind
    figure: float
    limit: float
    at_least: bool
    margin: float
    spread: float
    basis: str
    dominant: tuple[tuple[str, float], ...]
    verdict: Verdict
    why: str
    limit_origin: str
    remedies: tuple[Remedy, ...] = ()
    made_of: tuple[tuple[str, float], ...] = ()
    low: float | None = None
    high: float | None = None
    parts: tuple[float, ...] = ()

    @property
    def skew(self) -> bool:
        """Whether the interval lies so unevenly about the figure that one spread would mislead."""
        return self.low is not None and self.high is not None

    @property
    def worst_case(self) -> float | None:
        """How far a gap may be off with every part at its worst (m); None where nothing is known of its parts."""
        return worst_case(np.array(self.parts)) if self.parts else None

    @property
    def likely(self) -> float | None:
        """How far a gap may be off with 95 % when each part lies anywhere within its own limits (m); likewise."""
        return likely_half_width(np.array(self.parts)) if self.parts else None
