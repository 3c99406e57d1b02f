"""Advice, fuel and breathing of a build, kept by content: pages ask for them again and again."""

from dataclasses import dataclass

from rocklash.answers import store
from rocklash.answers.results import BuildResult
from valvetrain.errors import ValveTrainError
from valvetrain.parts.engine import Side
from valvetrain.studies.advice.advice import Advice, advise
from valvetrain.studies.head.areas import Breathing, breathing, ports_of
from valvetrain.studies.head.effort import Rung, effort
from valvetrain.studies.head.fuel import Blown, FuelAnswer, blow_through, fuel_answer
from valvetrain.studies.head.shop import ShopSide, shop_side


@dataclass(frozen=True)
class HeadAnswer:
    """What the head does for the goal."""

    fuel: FuelAnswer
    blown: Blown
    breathing: Breathing
    rungs: tuple[Rung, ...]


def head_of(answer: BuildResult) -> HeadAnswer | str:
    """Fuel, areas and the ladder of effort; a sentence where the figures of the head cannot be."""
    assert answer.review
    review, record = answer.review, answer.record
    done = review.completed
    try:
        fuel, breath = fuel_answer(record, done), breathing(record, done)
        blown = blow_through(done, ports_of(record, done), done.goal.goal_rpm, fuel.charge.value)
        return HeadAnswer(fuel, blown, breath, effort(record, review, breath))
    except ValveTrainError as error:
        return error.sentence


def advice_of(answer: BuildResult) -> Advice | str:
    """Everything that is advised of a build, or a sentence why nothing can be."""
    assert answer.review
    key = store.content_key(answer.record)
    known: Advice | str | None = store.recall("advice", key)
    if known is None:
        try:
            known = advise(answer.record, answer.review)
        except ValveTrainError as error:
            known = error.sentence
        store.remember("advice", key, known)
    return known


def shop_sides(answer: BuildResult) -> dict[Side, ShopSide]:
    """What the machine shop is asked of both sides."""
    assert answer.review
    return {side: shop_side(answer.record, answer.review.completed, side) for side in (Side.EXHAUST, Side.INTAKE)}
