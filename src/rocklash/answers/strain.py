"""What its use took out of each spring of the proposed set-up, as lines of what is due: by the motions that were computed, none of them anew."""

from collections.abc import Iterable, Sequence
from typing import Any

from rocklash.answers import tasks
from rocklash.answers.logbook import log_of
from rocklash.answers.motion import STRAIN, strain_key
from rocklash.answers.results import BuildResult, result_of
from rocklash.records.models import Build
from rocklash.records.selectors.logbook import logs_of
from valvetrain.errors import ValveTrainError
from valvetrain.parts.engine import Side, Use
from valvetrain.studies.logbook.damage import OVER, WATCH
from valvetrain.studies.logbook.due import Due, of_life
from valvetrain.studies.logbook.spring_use import spring_harm, used_by
from valvetrain.studies.logbook.use import Use as Spent
from valvetrain.studies.logbook.use import of_log, of_profile, stretched, together

# Words by which rules of what is due and profiles of a use are chosen. Source: judgement
_WORDS = {
    Use.TRAIL: "street", Use.STREET: "street", Use.ROAD_RACE: "race", Use.DRAG: "drag", Use.MOTOCROSS: "race", Use.ENDURANCE: "race", Use.WORK: "work",
    Use.RESCUE: "water",
}  # fmt: skip
_LOGS = 3  # newest runs that tell how an engine is used
_SLOTS = ("outer_spring", "inner_spring")


def use_words(build: Build) -> list[str]:
    """What an engine is used for, by the words for it; the last is the narrowest."""
    return [_WORDS.get(Use(build.use), "street"), *(["kart"] if "kart" in build.engine.description.lower() else [])]


def profile_of(build: Build) -> str:
    """How an engine of this use spends its time, by the word for it."""
    return use_words(build)[-1]


def usual_use(build: Build, goal: float) -> tuple[Spent, str]:
    """How this engine is used: by the newest runs that were logged, else by its kind and its working maximum (rev/s); and which of the two, in words."""
    uses = []
    for test in logs_of(build)[:_LOGS]:
        try:
            uses.append(of_log(*log_of(build, test.pk)))
        except ValveTrainError:
            continue
    known = [use for use in uses if use.hours > 0.0]
    if known:
        return together(known), "its logged runs" if len(known) > 1 else "its logged run"
    kind = profile_of(build)
    return of_profile(kind, 1.0, goal), f"a {kind} use up to {60.0 * goal:,.0f} rpm"


def strained(build: Build, hours: Iterable[tuple[str, str, Any, float]]) -> list[Due]:
    """Of `hours` (side, slot, part, hours it ran): each spring whose wire is told, and whose side's motion was computed, over what it ran.

    A wire that by its figures would not have lasted is left to the page of the use, which says so.
    """
    springs = [(side, _SLOTS.index(slot), part, ran) for side, slot, part, ran in hours if slot in _SLOTS and ran > 0.0 and _told(part)]
    answer = result_of(build) if springs else None
    if answer is None or answer.review is None:
        return []
    loads, use, whose = _loads(answer), None, ""
    found = []
    for side, number, part, ran in springs:
        turns = loads.get(Side(side), ())
        own = answer.review.completed.proposed_sides[Side(side)]
        if number >= min(len(turns), len(own.springs)):
            continue
        harms = spring_harm(turns[number], own.springs[number], own.spring_facts[number])
        if harms is None:
            continue
        if use is None:
            use, whose = usual_use(build, answer.review.completed.goal.goal_rpm)
        taken = used_by(stretched(use, ran), harms, number)
        if not taken.damage.absurd:
            what = f"{part.name}, {side}, by its use"
            found.append(
                of_life(
                    what[:60], (taken.damage.low, taken.damage.high), WATCH, OVER, _why(whose, ran, peening_told=taken.peening_told), _DOES
                )
            )
    return found


_DOES = "look at it: rust, scratches, load and height; renew it before it runs long past this"


def _why(whose: str, ran: float, *, peening_told: bool) -> str:
    peened = "" if peening_told else "; whether it is peened is not known, the band holds both"
    return f"turns of stress in {ran:.1f} h of {whose}, summed after Miner; wire scatters eightfold each way{peened}"


def _told(part: Any) -> bool:
    return bool({"wire_diameter", "mean_diameter"} <= part.figures.keys())


def _loads(answer: BuildResult) -> dict[Side, Sequence[Any]]:
    keys = {side: strain_key(key) for (role, side), key in answer.train_keys.items() if role == "proposed"}
    known = tasks.peek_many(STRAIN, list(keys.values()))
    return {side: each.value for side, key in keys.items() if isinstance(each := known.get(key), tasks.Ready)}
