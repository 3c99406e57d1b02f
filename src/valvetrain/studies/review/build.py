"""The whole answer for a build: stock and proposed checks, how far each is good, and what to measure next."""

import hashlib
import threading
from dataclasses import dataclass, replace

from cachetools import LRUCache, cached

from valvetrain.parts.record import BuildRecord
from valvetrain.parts.setup import Goal, Setup
from valvetrain.studies.checks.assessment import bare_checks, good_to, piston_speed_rpm
from valvetrain.studies.checks.check import Check, Verdict
from valvetrain.studies.checks.remedies import remedies_for
from valvetrain.studies.gaps.gaps import RoomReview, room_review
from valvetrain.studies.gaps.remedies import remedied
from valvetrain.studies.train.assembly import CompletedBuild, complete
from valvetrain.units import QuantityKind

_MOST = 64  # stock set-ups kept in one process
_WORTH = 0.08  # share of the variance below which knowing an input would change nothing to speak of. Source: judgement
_WORST_FIRST = (Verdict.SHORT, Verdict.UNPROVEN, Verdict.SLIM, Verdict.HOLDS)


@dataclass(frozen=True)
class MeasureNext:
    """An input worth measuring: whose spread it narrows, and from what to what (k = 2, SI of `kind`)."""

    what: str
    about: str
    kind: QuantityKind
    before: float
    after: float


@dataclass(frozen=True)
class SetupReview:
    """Checks of one set-up, worst first, with its overall verdict and the speed (rev/s) it is good to."""

    checks: tuple[Check, ...]
    verdict: Verdict
    good_to: float | None
    measure_next: tuple[MeasureNext, ...]


@dataclass(frozen=True)
class BuildReview:
    """Both set-ups reviewed; `piston_limit` is the crank speed (rev/s) at the piston-speed limit; `room` every gap of the proposed one."""

    completed: CompletedBuild
    stock: SetupReview
    proposed: SetupReview
    piston_limit: float
    room: RoomReview


def assess(setup: Setup, goal: Goal) -> list[Check]:
    """Every check of a set-up against a goal, worst first, each that does not hold with its remedies."""
    checks = bare_checks(setup, goal)
    judged = [
        check if check.verdict is Verdict.HOLDS else replace(check, remedies=remedies_for(check, setup, goal, tuple(checks)))
        for check in checks
    ]
    return worst_first(judged)


def worst_first(checks: list[Check]) -> list[Check]:
    """Checks by verdict, and within one by margin over spread."""
    return sorted(checks, key=lambda check: (_WORST_FIRST.index(check.verdict), check.margin / max(check.spread, 1e-12)))


def overall(checks: list[Check]) -> Verdict:
    """The worst verdict of all checks."""
    return min((check.verdict for check in checks), key=_WORST_FIRST.index)


def measure_next(checks: list[Check]) -> tuple[MeasureNext, ...]:
    """Inputs ordered by how much knowing them exactly would narrow the checks that are not settled."""
    found: dict[tuple[str, str], MeasureNext] = {}
    for check in checks:
        # what falls short beyond every doubt stays short however well it is known
        if check.verdict is Verdict.HOLDS or not check.dominant or check.margin < -check.spread:
            continue
        for what, share in check.dominant[:2]:
            key = (what, check.side.value if check.side else check.about)
            if share > _WORTH and key not in found:
                after = check.spread * max(1.0 - share, 0.0) ** 0.5
                found[key] = MeasureNext(what, check.about, check.kind, check.spread, after)
    return tuple(sorted(found.values(), key=lambda item: item.after / item.before))[:6]


def _review(setup: Setup, goal: Goal, more: list[Check] | None = None) -> SetupReview:
    checks = worst_first([*assess(setup, goal), *(more or [])])
    return SetupReview(tuple(checks), overall(checks), good_to(checks, goal), measure_next(checks))


# Reviews of stock set-ups by content: what a person changes is the proposed one, and the stock one need not be judged again.
_kept: LRUCache[str, SetupReview] = LRUCache(maxsize=_MOST)


@cached(_kept, key=lambda setup, goal: hashlib.blake2b(repr((setup, goal)).encode(), digest_size=16).hexdigest(), lock=threading.Lock())
def _stock_review(setup: Setup, goal: Goal) -> SetupReview:
    return _review(setup, goal)


def review(record: BuildRecord) -> BuildReview:
    """Complete a record and judge both set-ups. Raises ValveTrainError when its figures contradict each other."""
    done = complete(record)
    room = remedied(done, room_review(record, done))
    proposed = _review(done.proposed, done.goal, room.counting)
    return BuildReview(done, _stock_review(done.stock, done.goal), proposed, piston_speed_rpm(done.proposed, done.goal), room)
