"""Sets as a page shows them: judged by the core itself, with what they weigh, cost, rub and ask of the hand at the crank bolt."""

from dataclasses import dataclass

from valvetrain.errors import ValveTrainError
from valvetrain.parts.engine import Side
from valvetrain.parts.record import BuildRecord
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.checks.check import Check, Verdict
from valvetrain.studies.choose.proposal import Bench, with_set
from valvetrain.studies.choose.slots import PartSet
from valvetrain.studies.review.build import BuildReview, MeasureNext, review
from valvetrain.studies.springs.force_cost import try_cost
from valvetrain.studies.train.side_figures import moving_mass, open_load, weakest
from valvetrain.studies.train.uncertainty import Propagated

_BY_HAND = 0.2  # crank rev/s of a hand at the bolt: inertia counts for nothing


@dataclass(frozen=True, eq=False, kw_only=True)
class Shown:
    """A set as it is shown. `checks` of its side and of the whole engine; `open_force` N of the weakest valve, `mass` kg at a valve, `friction` W of
    the camshaft at the goal, `hand` N m at the crank bolt with the plugs out; None where the follower's geometry is not known."""

    chosen: PartSet
    record: BuildRecord
    review: BuildReview
    checks: tuple[Check, ...]
    verdict: Verdict
    open_force: Propagated
    mass: float
    friction: float | None
    hand: float | None
    measure: tuple[MeasureNext, ...]


def shown(bench: Bench, chosen: PartSet) -> Shown:
    """One set, judged exactly as the overview of its build would judge it. Raises ValveTrainError where it cannot be."""
    record = with_set(bench, chosen)
    return _shown(bench, chosen, record, "proposed")


def shown_stock(bench: Bench, chosen: PartSet) -> Shown:
    """What came with the engine, judged against the goal."""
    return _shown(bench, chosen, bench.record, "stock")


def _shown(bench: Bench, chosen: PartSet, record: BuildRecord, role: str) -> Shown:
    found = review(record)
    own = found.proposed if role == "proposed" else found.stock
    setup = found.completed.proposed if role == "proposed" else found.completed.stock
    train = setup.sides[bench.side]
    checks = tuple(check for check in own.checks if check.side in (bench.side, None))
    order = list(Verdict)
    decided = [check.verdict for check in checks if check.side is bench.side]
    kind, goal = record.kind, found.completed.goal
    return Shown(
        chosen=chosen, record=record, review=found, checks=checks, verdict=max(decided, key=order.index), open_force=open_load(train, weakest(train)),
        mass=moving_mass(train).value, friction=_power(train, goal.goal_rpm, kind.valves_per_side, kind.cylinders),
        hand=_hand(train, kind.valves_per_side, kind.cylinders),
        measure=tuple(item for item in own.measure_next if bench.side.value in item.about or item.about == ""),
    )  # fmt: skip


def _power(train: TrainSide, speed: float, valves: int, cylinders: int) -> float | None:
    cost = try_cost(train, speed, valves, cylinders)
    return cost.power if cost else None


def _hand(train: TrainSide, valves: int, cylinders: int) -> float | None:
    """Greatest torque (N m) at the crank that turns this side's camshaft over its springs: the cam turns once for two turns of the crank."""
    cost = try_cost(train, _BY_HAND, valves, cylinders)
    return cost.torque_most / 2.0 if cost else None


def undecided(bench: Bench) -> tuple[Check, ...]:
    """Checks that no set of parts decides: gaps that are guesses until somebody measures, and what is of the whole engine."""
    found = review(bench.record)
    room = [
        check
        for check in found.room.checks
        if check.side in (bench.side, None) and found.room.how[check.code, check.about] == "estimate" and check.verdict is not Verdict.SHORT
    ]
    return (*room, *(check for check in found.proposed.checks if check.side is None))


def both_sides(side: Side) -> Side:
    """The other side of the head."""
    return Side.INTAKE if side is Side.EXHAUST else Side.EXHAUST


def try_shown(bench: Bench, chosen: PartSet) -> Shown | str:
    """A set as it is shown, or the sentence why it cannot be."""
    try:
        return shown(bench, chosen)
    except ValveTrainError as error:
        return error.sentence
