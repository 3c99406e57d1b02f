"""What an engine was seen to do, brought to bear on the next springs; kept by content, computed apart from the page."""

import hashlib
import threading
from collections import OrderedDict
from dataclasses import dataclass

from rocklash.answers.results import BuildResult, trains_of
from rocklash.records.models import Observation as ObservationRow
from valvetrain.errors import ValveTrainError
from valvetrain.parts.engine import Side
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion.calibration import Calibration, Observation, StoppedError, calibrate
from valvetrain.studies.motion.review import why_not

_KEPT = 32


@dataclass
class CalibrationJob:
    """A calibration: under way with its `share` done, finished with a `result`, or refused with `trouble`."""

    share: float = 0.0
    result: Calibration | None = None
    trouble: str = ""
    stopped: bool = False

    @property
    def running(self) -> bool:
        """Whether it is still computing."""
        return self.result is None and not self.trouble and not self.stopped


_learnings: OrderedDict[str, CalibrationJob] = OrderedDict()
_lock = threading.Lock()


def forget() -> None:
    """Drop every calibration kept in this process."""
    with _lock:
        _learnings.clear()


def _key(seen: TrainSide, planned: TrainSide, observation: Observation) -> str:
    return hashlib.blake2b(repr((seen, planned, observation)).encode(), digest_size=16).hexdigest()


def _parts(answer: BuildResult, row: ObservationRow) -> tuple[TrainSide, TrainSide, Observation]:
    assert answer.review
    trains, side = trains_of(answer.review), Side(row.side)
    return trains[row.role, side], trains["proposed", side], Observation(row.speed, row.spread)


def learning_of(answer: BuildResult, row: ObservationRow | None) -> CalibrationJob | None:
    """The calibration of one observation if it was begun; None otherwise."""
    if row is None or answer.review is None:
        return None
    with _lock:
        return _learnings.get(_key(*_parts(answer, row)))


def begin_learning(answer: BuildResult, row: ObservationRow) -> CalibrationJob:
    """Begin a calibration in a thread of its own unless it is there already; a stopped one begins anew."""
    seen, planned, observation = _parts(answer, row)
    key = _key(seen, planned, observation)
    with _lock:
        known = _learnings.get(key)
        if known and not known.stopped:
            return known
        learning = _learnings[key] = CalibrationJob()
        while len(_learnings) > _KEPT:
            _learnings.popitem(last=False)
    cannot = why_not(seen) or why_not(planned)
    if cannot:
        learning.trouble = f"Cannot judge, because {cannot}."
        return learning

    def go_on(share: float) -> bool:
        learning.share = share
        return not learning.stopped

    def work() -> None:
        try:
            learning.result = calibrate(seen, planned, observation, go_on=go_on)
        except StoppedError:
            learning.stopped = True
        except ValveTrainError as error:
            learning.trouble = error.sentence

    threading.Thread(target=work, name="learning", daemon=True).start()
    return learning


def stop_learning(learning: CalibrationJob) -> None:
    """Ask a calibration to stop; it does within a few draws."""
    learning.stopped = True
