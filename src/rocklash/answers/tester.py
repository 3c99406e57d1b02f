"""Spring tester logs as a page sees them: fitted, and judged as a set."""

from dataclasses import dataclass
from functools import lru_cache

from rocklash.answers.results import BuildResult
from rocklash.records.models import Build, Part, SpringLog
from valvetrain.errors import ValveTrainError
from valvetrain.formats import spring_log
from valvetrain.parts.engine import Side
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.springs.spring_strength import SpringStrength, strength_of
from valvetrain.studies.springs.spring_test import SpringFit, SpringSetResult, claim_of, fit_spring, read_set, weigh_claim
from valvetrain.studies.train.assembly import CompletedSide
from valvetrain.studies.train.float_rows import float_speed
from valvetrain.studies.train.side_figures import spring_height, weakest
from valvetrain.units import UnitSystem


@lru_cache(maxsize=64)
def fits_of_text(text: str, system: UnitSystem) -> tuple[SpringFit, ...]:
    """The springs of a log, fitted. Raises ValveTrainError naming row or spring."""
    return tuple(fit_spring(one.name, one.height, one.load) for one in spring_log.read(text, system=system))


@dataclass(frozen=True)
class SpringPlace:
    """Where a spring stands in the proposed set-up: its number in the pack, its own height shut and the lift, m."""

    side: Side
    number: int
    height: float
    lift: float
    train: TrainSide
    done: CompletedSide


def place_of(answer: BuildResult, build: Build, part: Part, side: Side) -> SpringPlace | None:
    """Where the proposed set-up has this spring, the side asked for first; None where it is not in it."""
    if answer.review is None:
        return None
    rows = {row.side: row for setup in build.setups.all() if setup.role == "proposed" for row in setup.sides.all()}
    done = answer.review.completed
    for each in (side, *(other for other in Side if other is not side)):
        row = rows.get(each.value)
        if row is None or part.pk not in (row.outer_spring_id, row.inner_spring_id):
            continue
        number = 0 if row.outer_spring_id == part.pk else 1
        train = done.proposed.sides[each]
        height = spring_height(train, weakest(train)) - train.springs[number].step.value
        return SpringPlace(each, number, height, train.lift.value - train.clearance.value, train, done.proposed_sides[each])
    return None


@dataclass(frozen=True)
class SpringLogResult:
    """A kept log with what follows from it at a spring's place; `trouble` says why nothing does."""

    log: SpringLog
    fits: tuple[SpringFit, ...]
    told: SpringSetResult | None
    claim: str
    trouble: str = ""


def told_of(log: SpringLog, place: SpringPlace | None, new: SpringLog | None, claim: str, system: UnitSystem) -> SpringLogResult:
    """Read a kept log again, beside a new spring's log where the spring has run."""
    try:
        fits = fits_of_text(log.text, UnitSystem(log.system))
        height = place.height if place else fits[0].height
        lift = place.lift if place else height - fits[0].low
        fresh = fits_of_text(new.text, UnitSystem(new.system))[0] if new and log.used else None
        told = read_set(list(fits), height, lift, new=fresh, leans=dict(log.leans))
    except ValveTrainError as error:
        return SpringLogResult(log, (), None, "", error.sentence)
    said = claim_of(claim)
    words = ""
    if said and place:
        speed = float_speed(place.train, weakest(place.train))
        words = weigh_claim(said, told.figures["load"], told.figures["rate"], speed.value, speed.spread, system)
    return SpringLogResult(log, fits, told, words)


def strength_in(answer: BuildResult, part: Part, place: SpringPlace) -> SpringStrength | None:
    """Strength of a spring in its place over the interval the owner accepts; with the motion's forces where they are known."""
    assert answer.review
    done = answer.review.completed
    motion = answer.motions.get(("proposed", place.side))
    moving = None
    if motion and motion.sweep is not None:
        at = int(abs(motion.sweep.speed - done.goal.goal_rpm).argmin())
        moving = float(motion.sweep.coil_force[place.number, at])
    return strength_of(
        place.train.springs[place.number], place.done.springs[place.number], dict(part.facts), place.height, place.lift, done.goal.goal_rpm,
        done.goal_figures["interval"].value, moving,
    )  # fmt: skip
