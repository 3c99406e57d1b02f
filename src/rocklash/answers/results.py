"""Results of the core for a build, kept by content: the same figures are never judged twice in one process."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

from rocklash.answers import store
from rocklash.answers.rows import record_of
from rocklash.answers.stamp import stamp_of
from rocklash.records.models import Build
from valvetrain.errors import ValveTrainError
from valvetrain.formats import build_file
from valvetrain.parts.engine import Side, ValvePosition
from valvetrain.parts.record import BuildRecord
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.review.build import BuildReview, review
from valvetrain.studies.review.with_motion import Motions


@dataclass(frozen=True)
class BuildResult:
    """The review of a build, or the sentence why there is none: its figures contradict one another.

    `motions` are those computed so far, by (stock or proposed, side); when all are, they stand among the checks too. `train_keys` name
    what the motion of each side depends on.
    """

    record: BuildRecord
    review: BuildReview | None
    contradiction: str = ""
    motions: Motions = field(default_factory=dict)
    train_keys: dict[tuple[str, Side], str] = field(default_factory=dict)


def train_key(train: TrainSide, goal: Goal, place: ValvePosition | None = None, stock: TrainSide | None = None) -> str:
    """A name for what the motion of a side's weakest valve, or of the one named, depends on; `stock` the stock side of a proposed one."""
    learnt = stock if stock != train else None
    return store.content_key(train, goal.goal_rpm, goal.over_rev, place, learnt)


def trains_of(found: BuildReview) -> dict[tuple[str, Side], TrainSide]:
    """The sides of stock and proposed."""
    done = found.completed
    return {
        (role, side): train for role, setup in (("stock", done.stock), ("proposed", done.proposed)) for side, train in setup.sides.items()
    }


def result_of(build: Build) -> BuildResult:
    """Judge a build, or remember the judgement of exactly these figures."""
    stamp = stamp_of(build)
    same: BuildResult | None = store.recall("build", stamp)
    if same is not None:
        return same
    answer = judged(record_of(build))
    store.remember("build", stamp, answer)
    return answer


def judged(record: BuildRecord) -> BuildResult:
    """Judge a record, or remember the judgement of exactly these figures."""
    key = store.content_key(record)
    known: BuildResult | None = store.recall("review", key)
    if known is not None:
        return known
    try:
        found = review(record)
        trains = trains_of(found)
        keys = {(role, side): train_key(train, found.completed.goal, stock=trains["stock", side]) for (role, side), train in trains.items()}
        answer = BuildResult(record, found, train_keys=keys)
    except ValveTrainError as error:
        answer = BuildResult(record, None, error.sentence)
    store.remember("review", key, answer)
    return answer


def results_by_rows(builds: Iterable[Build], rows: Mapping[int, str], load: Callable[[list[Build]], list[Build]]) -> dict[int, BuildResult]:
    """The judgement of builds whose rows have these names (selectors.board.what_bears): remembered, or else judged of them as `load` gives them whole."""
    found: dict[int, BuildResult] = {}
    missing = []
    for build in builds:
        same: BuildResult | None = store.recall("build", f"rows-{rows[build.pk]}")
        if same is None:
            missing.append(build)
        else:
            found[build.pk] = same
    for build in load(missing) if missing else []:
        found[build.pk] = result_of(build)
        store.remember("build", f"rows-{rows[build.pk]}", found[build.pk])
    return found


def build_file_of(build: Build) -> str:
    """The open build file of a build."""
    return build_file.write(record_of(build))
