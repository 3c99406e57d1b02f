"""What the goal asks of one side's springs, gas against them, and what their force costs, stock and proposed."""

from dataclasses import dataclass

from rocklash.answers.results import BuildResult
from rocklash.records.models import Build
from valvetrain.errors import ValveTrainError
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.cams.lobe_fit import lobe_fit
from valvetrain.studies.motion.float_spread import FloatSpread, float_spread
from valvetrain.studies.springs.demands import Requirement, demand
from valvetrain.studies.springs.force_cost import Cost, try_cost
from valvetrain.studies.springs.gas_hold import GasHold, gas_hold
from valvetrain.studies.springs.spring_strength import SpringStrength, strength_of
from valvetrain.studies.train.assembly import CompletedBuild
from valvetrain.studies.train.side_figures import spring_height, weakest


@dataclass(frozen=True, eq=False)
class ForceAnswer:
    """Everything of one side's forces. `costs` (speed named, stock, proposed); `nose` stresses Pa turning slowly,
    and `strengths` of the outer springs, stock and proposed."""

    side: Side
    demand: Requirement
    spread: FloatSpread | None
    gas: GasHold
    costs: tuple[tuple[str, Cost | None, Cost | None], ...]
    nose: tuple[float | None, float | None]
    strengths: tuple[SpringStrength | None, SpringStrength | None]


def _strength(record: BuildRecord, done: CompletedBuild, role: str, side: Side) -> SpringStrength | None:
    """Strength of the outer spring of one set-up on its weakest valve, None where its wire is not known."""
    stock = role == "stock"
    train = (done.stock if stock else done.proposed).sides[side]
    complete = (done.stock_sides if stock else done.proposed_sides)[side]
    facts = (record.stock if stock else record.proposed)[side].springs[0].facts
    height, lift = spring_height(train, weakest(train)), train.lift.value - train.clearance.value
    interval = done.goal_figures["interval"].value
    return strength_of(train.springs[0], complete.springs[0], dict(facts), height, lift, done.goal.goal_rpm, interval)


def force_answer(answer: BuildResult, build: Build, side: Side) -> ForceAnswer | None:
    """Work one side out; None when the figures contradict one another."""
    if answer.review is None:
        return None
    done, engine = answer.review.completed, build.engine
    stock, train = done.stock.sides[side], done.proposed.sides[side]
    goal, idle = done.goal.goal_rpm, done.engine["idle"].value
    costs = []
    for name, speed in (("idle", idle), ("the goal", goal)):
        both = [try_cost(each, speed, engine.valves_per_side, engine.cylinders) for each in (stock, train)]
        costs.append((name, both[0], both[1]))
    nose = []
    for each, sides in ((stock, done.stock_sides), (train, done.proposed_sides)):
        parts = sides[side].parts
        try:
            nose.append(lobe_fit(each, parts[Owner.CAM], parts[Owner.FOLLOWER], "", idle).stress_cranking)
        except ValveTrainError:
            nose.append(None)
    outer = done.proposed_sides[side].springs[0]
    known = {"mean_diameter", "wire_diameter"} <= outer.keys()
    width = outer["mean_diameter"].value + outer["wire_diameter"].value if known else None
    strengths = [_strength(answer.record, done, role, side) for role in ("stock", "proposed")]
    try:
        spread = float_spread(train, weakest(train))
    except ValveTrainError:
        spread = None
    return ForceAnswer(
        side,
        demand(train, done.goal, width),
        spread,
        gas_hold(train, done.goal),
        tuple(costs),
        (nose[0], nose[1]),
        (strengths[0], strengths[1]),
    )
