"""Motions of a build's valves, kept by content: a side that did not change is not computed again."""

import hashlib
import threading
from dataclasses import dataclass, replace

from rocklash.answers import tasks
from rocklash.answers.results import BuildResult, train_key, trains_of
from valvetrain.parts.engine import Side, ValvePosition
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.logbook.spring_use import load_turns
from valvetrain.studies.motion.forces import ForceLines, MovingForces, moving_forces, rigid_forces
from valvetrain.studies.motion.review import MotionReview, review_motion
from valvetrain.studies.review.with_motion import with_motion
from valvetrain.studies.train.side_figures import weakest

_KIND, STRAIN = "motion", "strain"
_computing = threading.Lock()
_Inputs = tuple[TrainSide, Goal, TrainSide | None]


def motion_of(train: TrainSide, goal: Goal, place: ValvePosition | None = None, stock: TrainSide | None = None) -> MotionReview:
    """The motion of a side's weakest valve, or of the one named; computed once, by one thread at a time (it takes all cores).

    `stock` is the stock side of a proposed one: what that engine holds is learnt from.
    """
    before = motion_of(stock, goal) if stock is not None and stock != train else None
    key = train_key(train, goal, place, stock)
    with _computing:
        known = tasks.peek(_KIND, key)
        if isinstance(known, tasks.Ready):
            return known.value  # type: ignore[no-any-return]
        found = _reviewed(train, goal, place, before, key)
        tasks.keep(_KIND, key, found)
    return found


def strain_key(motion: str) -> str:
    """The name of the turns of force that belong to a motion of this name: in the database all kinds share one list of names."""
    return f"strain-{motion}"


def _reviewed(train: TrainSide, goal: Goal, place: ValvePosition | None, before: MotionReview | None, key: str) -> MotionReview:
    """The motion; the turns of force in each spring outlive it, being small beside it."""
    found = review_motion(train, goal, place, before=before)
    if found.sweep is not None and place is None:
        tasks.keep(STRAIN, strain_key(key), tuple(load_turns(found.sweep, number) for number in range(len(train.springs))))
    return found


@tasks.kind(_KIND)
def _work(inputs: _Inputs, go_on: tasks.GoOn) -> MotionReview:
    """For a worker: the stock side's on the way to the proposed one's."""
    train, goal, stock = inputs
    before = motion_of(stock, goal) if stock is not None and stock != train else None
    go_on(0.5 if before else 0.05)
    return _reviewed(train, goal, None, before, train_key(train, goal, stock=stock))


def known_motion(train: TrainSide, goal: Goal, stock: TrainSide | None = None) -> MotionReview | None:
    """The motion of a side's weakest valve if it was computed already."""
    known = tasks.peek(_KIND, train_key(train, goal, stock=stock))
    return known.value if isinstance(known, tasks.Ready) else None


def with_motions(answer: BuildResult) -> BuildResult:
    """The answer with the motions computed so far; among its checks once all of them are."""
    if answer.review is None:
        return answer
    known = tasks.peek_many(_KIND, list(answer.train_keys.values()))
    found = {place: known[key].value for place, key in answer.train_keys.items() if isinstance(known.get(key), tasks.Ready)}  # type: ignore[union-attr]
    whole = len(found) == len(answer.train_keys)
    review = with_motion(answer.review, found, answer.record.facts.get("rods", "")) if whole else answer.review
    return replace(answer, motions=found, review=review)


def ask_motions(answer: BuildResult) -> float:
    """Have the motions of a build that are not known yet computed by the workers; returns the share done, 1.0 when all are there."""
    if answer.review is None:
        return 1.0
    trains, goal = trains_of(answer.review), answer.review.completed.goal
    shares = []
    for place, key in answer.train_keys.items():
        if place[0] == "stock" and answer.train_keys["proposed", place[1]] != key:
            continue  # computed on the way to the proposed one's
        asked = tasks.ask(_KIND, key, (trains[place], goal, trains["stock", place[1]]))
        shares.append(asked.share if isinstance(asked, tasks.Running) else 1.0)
    known = tasks.peek_many(_KIND, list(answer.train_keys.values()))
    if all(isinstance(each, tasks.Ready) for each in known.values()) and len(known) == len(set(answer.train_keys.values())):
        return 1.0
    return min(sum(shares) / len(shares), 0.99)


def compute_motions(answer: BuildResult) -> None:
    """Compute the motions of a build that are not known yet."""
    if answer.review is None:
        return
    trains = trains_of(answer.review)
    for (_, side), train in trains.items():
        motion_of(train, answer.review.completed.goal, stock=trains["stock", side])


def pending(answer: BuildResult) -> str:
    """A name for what is still to be computed, changing with the figures; empty when nothing is."""
    if len(answer.motions) == len(answer.train_keys):
        return ""
    return hashlib.blake2b("".join(answer.train_keys.values()).encode(), digest_size=8).hexdigest()


@dataclass(frozen=True, eq=False)
class SideForces:
    """Force lines of the weakest valve of a side at one speed: rigid of proposed and stock, and of their motions where known."""

    own: ForceLines
    stock: ForceLines
    moving: MovingForces | None
    before: MovingForces | None


def motion_forces(answer: BuildResult, side: Side, speed: float) -> SideForces:
    """Force lines of one side at a crank speed (rev/s); motions are taken at the swept speed nearest to it."""
    assert answer.review
    trains = trains_of(answer.review)
    own, stock = trains["proposed", side], trains["stock", side]

    def moving(role: str) -> MovingForces | None:
        found = answer.motions.get((role, side))
        return moving_forces(found.sweep, speed) if found and found.sweep else None

    return SideForces(
        rigid_forces(own, weakest(own), speed), rigid_forces(stock, weakest(stock), speed), moving("proposed"), moving("stock")
    )
