"""Motions of a build's valves, kept by content: a side that did not change is not computed again."""

import hashlib
import threading
from collections import OrderedDict
from dataclasses import dataclass, replace

from rocklash.answers.results import BuildResult, train_key, trains_of
from valvetrain.parts.engine import Side, ValvePosition
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.motion.forces import ForceLines, MovingForces, moving_forces, rigid_forces
from valvetrain.studies.motion.review import MotionReview, review_motion
from valvetrain.studies.review.with_motion import with_motion
from valvetrain.studies.train.side_figures import weakest

_KEPT = 40  # a motion with its traces is about 2 MB

_motions: OrderedDict[str, MotionReview] = OrderedDict()
_lock, _computing = threading.Lock(), threading.Lock()


def _kept(key: str) -> MotionReview | None:
    with _lock:
        if key in _motions:
            _motions.move_to_end(key)
        return _motions.get(key)


def forget() -> None:
    """Drop every motion kept in this process."""
    with _lock:
        _motions.clear()


def motion_of(train: TrainSide, goal: Goal, place: ValvePosition | None = None, stock: TrainSide | None = None) -> MotionReview:
    """The motion of a side's weakest valve, or of the one named; computed once, by one thread at a time (it takes all cores).

    `stock` is the stock side of a proposed one: what that engine holds is learnt from.
    """
    before = motion_of(stock, goal) if stock is not None and stock != train else None
    key = train_key(train, goal, place, stock)
    with _computing:
        found = _kept(key)
        if found is None:
            found = review_motion(train, goal, place, before=before)
            with _lock:
                _motions[key] = found
                while len(_motions) > _KEPT:
                    _motions.popitem(last=False)
    return found


def known_motion(train: TrainSide, goal: Goal, stock: TrainSide | None = None) -> MotionReview | None:
    """The motion of a side's weakest valve if it was computed already."""
    return _kept(train_key(train, goal, stock=stock))


def with_motions(answer: BuildResult) -> BuildResult:
    """The answer with the motions computed so far; among its checks once all of them are."""
    if answer.review is None:
        return answer
    found = {place: motion for place, key in answer.train_keys.items() if (motion := _kept(key))}
    known = len(found) == len(answer.train_keys)
    review = with_motion(answer.review, found, answer.record.facts.get("rods", "")) if known else answer.review
    return replace(answer, motions=found, review=review)


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
