"""The Goal station as view-models."""

from dataclasses import dataclass

from rocklash.answers.advice import HeadAnswer, head_of
from rocklash.answers.gearing import driveline_of
from rocklash.answers.results import BuildResult
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.desk.words import FactView, goal_facts
from rocklash.records.models import Build
from valvetrain import wording
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Use
from valvetrain.units import UnitSystem
from valvetrain.wording.fuel import blown_words, fuel_headline, fuel_words
from valvetrain.wording.uses import use_sets


@dataclass(frozen=True, kw_only=True)
class GoalPage:
    """Everything the Goal station prints."""

    speed: list[FieldView]
    gas: list[FieldView]
    limits: list[FieldView]
    verdict: str
    headline: str
    sentences: list[str]
    good_to: str
    gearing: str
    wish: list[FieldView]
    use_sets: str
    fuel: list[FieldView]
    charge: list[FieldView]
    fuel_facts: list[FactView]
    bears: str
    bears_headline: str
    bears_words: list[str]


def goal_page(answer: BuildResult, build: Build, system: UnitSystem, trouble: FieldError | None) -> GoalPage:
    """View-model of the station."""
    completed = answer.review.completed.goal_figures if answer.review else None

    def fields(keys: list[str]) -> list[FieldView]:
        return field_views("goal", Owner.GOAL, keys, build.figures, completed, system, trouble)

    found = answer.review.proposed if answer.review else None
    head = head_of(answer) if answer.review else ""
    boosted = bool(answer.review and answer.review.completed.goal.boost.value > 0.0)
    hard = [*fuel_words(head.fuel), blown_words(head.blown, 1.0 if boosted else 0.0)] if isinstance(head, HeadAnswer) else [head]
    return GoalPage(
        fuel=fields(["octane", "altitude", "air_temperature"]),
        charge=fields(["compressor_efficiency", "cooler_effectiveness", "charge_temperature"]),
        fuel_facts=goal_facts(build, ("fuel", "air", "squish")),
        bears=head.fuel.verdict.value if isinstance(head, HeadAnswer) else "unproven",
        bears_headline=fuel_headline(head.fuel) if isinstance(head, HeadAnswer) else "",
        bears_words=[wording.told(each, system) for each in hard if each],
        speed=fields(["goal_rpm", "over_rev", "reserve", "interval", *(["passes"] if build.use == "drag" else []), "season_hours"]),
        gas=fields(["boost", "back_pressure", "pulse_factor", "seat_force_intake", "seat_force_exhaust"]),
        limits=fields(["coil_bind_limit", "retainer_limit", "piston_speed_limit"]),
        verdict=found.verdict.value if found else "unproven",
        headline=wording.headline(found) if found else "Figures disagree.",
        sentences=wording.summary(found, system, answer.review.completed.goal.goal_rpm)
        if found and answer.review
        else [wording.told(answer.contradiction, system)],
        good_to=wording.good_to(found, system) if found else "",
        gearing=driveline_of(answer).sentence if answer.review else "",
        wish=fields(["road_speed"]),
        use_sets=wording.told(use_sets(Use(build.use), build.engine.facts.get("rods", "")), system),
    )
