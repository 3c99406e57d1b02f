"""The whole answer for a build: stock and proposed checks, how far each is good, and what to measure next."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import partial

from valvetrain.memory import Kept, name_of
from valvetrain.parts.engine import Side
from valvetrain.parts.record import BuildRecord
from valvetrain.parts.setup import Goal, Setup
from valvetrain.studies.checks.assessment import checks_of_side, checks_of_whole, good_to, piston_speed_rpm
from valvetrain.studies.checks.check import Check, Verdict
from valvetrain.studies.checks.remedies import remedies_for
from valvetrain.studies.gaps.gaps import RoomReview, room_review
from valvetrain.studies.gaps.others import LEFT_BY_MEASURING
from valvetrain.studies.gaps.remedies import remedied
from valvetrain.studies.train.assembly import CompletedBuild, complete
from valvetrain.units import QuantityKind

_JUDGED: Kept[list[Check]] = Kept(256)
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


def _judged(checks: list[Check], setup: Setup, goal: Goal) -> list[Check]:
    return [
        check if check.verdict is Verdict.HOLDS else replace(check, remedies=remedies_for(check, setup, goal, tuple(checks)))
        for check in checks
    ]


def assess(setup: Setup, goal: Goal, names: Mapping[Side, str] | None = None) -> list[Check]:
    """Every check of a set-up against a goal, worst first, each that does not hold with its remedies. `names` say what each side follows from:
    a side of the same name and goal is not judged again."""
    found = _judged(checks_of_whole(setup, goal), setup, goal)
    for side in setup.sides:
        judge = partial(_side_alone, setup, goal, side)
        found += _JUDGED.get(name_of(names[side], goal), judge) if names else judge()
    return worst_first(found)


def _side_alone(setup: Setup, goal: Goal, side: Side) -> list[Check]:
    """The checks of one side with their remedies, which move nothing of the other."""
    return _judged(checks_of_side(setup, goal, side), setup, goal)


def worst_first(checks: list[Check]) -> list[Check]:
    """Checks by verdict, and within one by margin over spread."""
    return sorted(checks, key=lambda check: (_WORST_FIRST.index(check.verdict), check.margin / max(check.spread, 1e-12)))


def overall(checks: list[Check]) -> Verdict:
    """The worst verdict of all checks."""
    return min((check.verdict for check in checks), key=_WORST_FIRST.index)


def measure_next(checks: list[Check]) -> tuple[MeasureNext, ...]:
    """Inputs ordered by how much measuring them would narrow the checks that are not settled: knowing them exactly, but for gaps that are
    guessed whole, of which a reading leaves its own spread."""
    found: dict[tuple[str, str], MeasureNext] = {}
    for check in checks:
        # what falls short beyond every doubt stays short however well it is known
        if check.verdict is Verdict.HOLDS or not check.dominant or check.margin < -check.spread:
            continue
        for what, share in check.dominant[:2]:
            key = (what, check.side.value if check.side else check.about)
            left = LEFT_BY_MEASURING.get(what.rpartition(":")[2], 0.0) if what.startswith("room:") else 0.0
            after = math.hypot(check.spread * max(1.0 - share, 0.0) ** 0.5, left)
            if after < check.spread * (1.0 - _WORTH) ** 0.5 and key not in found:
                found[key] = MeasureNext(what, check.about, check.kind, check.spread, after)
    return tuple(sorted(found.values(), key=lambda item: item.after / item.before))[:6]


def _review(done: CompletedBuild, role: str, more: list[Check]) -> SetupReview:
    setup, goal = done.proposed if role == "proposed" else done.stock, done.goal
    checks = worst_first([*assess(setup, goal, {side: done.names[role, side] for side in Side}), *more])
    return SetupReview(tuple(checks), overall(checks), good_to(checks, goal), measure_next(checks))


def review(record: BuildRecord) -> BuildReview:
    """Complete a record and judge both set-ups. Raises ValveTrainError when its figures contradict each other."""
    done = complete(record)
    room = remedied(done, room_review(record, done))
    return BuildReview(
        done, _review(done, "stock", []), _review(done, "proposed", room.counting), piston_speed_rpm(done.proposed, done.goal), room
    )
