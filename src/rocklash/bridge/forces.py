"""What the goal asks of one side's springs, gas against them, and what their force costs, stock and proposed."""

from dataclasses import dataclass

from rocklash.bridge.results import Answer
from rocklash.records.models import Build
from valvetrain.errors import ValveTrainError
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.studies.demands import Demand, demand
from valvetrain.studies.float_spread import FloatSpread, float_spread
from valvetrain.studies.force_cost import Cost, try_cost
from valvetrain.studies.gas_hold import GasHold, gas_hold
from valvetrain.studies.lobe_fit import lobe_fit
from valvetrain.studies.side_figures import weakest


@dataclass(frozen=True, eq=False)
class ForceAnswer:
    """Everything of one side's forces. `costs` (speed named, stock, proposed); `nose` stresses Pa at the goal, stock and proposed."""

    side: Side
    demand: Demand
    spread: FloatSpread | None
    gas: GasHold
    costs: tuple[tuple[str, Cost | None, Cost | None], ...]
    nose: tuple[float | None, float | None]
    boosted: bool


def force_answer(answer: Answer, build: Build, side: Side) -> ForceAnswer | None:
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
    try:
        spread = float_spread(train, weakest(train))
    except ValveTrainError:
        spread = None
    return ForceAnswer(
        side, demand(train, done.goal), spread, gas_hold(train, done.goal), tuple(costs), (nose[0], nose[1]), done.goal.boost.value > 0.0
    )
