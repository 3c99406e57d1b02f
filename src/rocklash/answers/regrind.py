"""The largest lobe of a side, kept by content: the page, its files and the cam that is laid beside are one and the same."""

from rocklash.answers import store
from rocklash.answers.results import BuildResult
from valvetrain.errors import ValveTrainError
from valvetrain.parts.engine import Side
from valvetrain.studies.regrind.from_build import GrindWish, Regrind, regrind


def regrind_of(answer: BuildResult, side: Side, wish: GrindWish) -> Regrind | str:
    """The lobe, or a sentence why none can be ground."""
    if answer.review is None:
        return answer.contradiction
    key = store.content_key(answer.record, side, wish)
    known: Regrind | str | None = store.recall("regrind", key)
    if known is None:
        try:
            known = regrind(answer.record, answer.review, side, wish)
        except ValveTrainError as error:
            known = error.sentence
        store.remember("regrind", key, known)
    return known
