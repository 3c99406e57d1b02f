"""What an engine was seen to do, brought to bear on the next springs: worked out apart from the page, once for all who ask."""

from dataclasses import dataclass

from rocklash.answers import tasks
from rocklash.answers.results import BuildResult, trains_of
from rocklash.answers.store import content_key
from rocklash.records.models import Observation as ObservationRow
from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import Side
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion.calibration import Calibration, Observation, calibrate
from valvetrain.studies.motion.review import why_not

_KIND = "calibration"
_Inputs = tuple[TrainSide, TrainSide, Observation]


@dataclass(frozen=True)
class CalibrationJob:
    """A calibration: under way with its `share` done and seconds `left`, finished with a `result`, or refused with `trouble`."""

    key: str
    share: float = 0.0
    left: float | None = None
    result: Calibration | None = None
    trouble: str = ""
    stopped: bool = False

    @property
    def running(self) -> bool:
        """Whether it is still computing."""
        return self.result is None and not self.trouble and not self.stopped


@tasks.kind(_KIND)
def _work(inputs: _Inputs, go_on: tasks.GoOn) -> Calibration:
    seen, planned, observation = inputs
    cannot = why_not(seen) or why_not(planned)
    if cannot:
        raise ContradictionError(f"Cannot judge, because {cannot}.")
    return calibrate(seen, planned, observation, go_on=go_on)


def _inputs(answer: BuildResult, row: ObservationRow) -> _Inputs:
    assert answer.review
    trains, side = trains_of(answer.review), Side(row.side)
    return trains[row.role, side], trains["proposed", side], Observation(row.speed, row.spread)


def _job(key: str, asked: tasks.Asked | None) -> CalibrationJob | None:
    match asked:
        case tasks.Ready(value):
            return CalibrationJob(key, 1.0, result=value)
        case tasks.Running(share, left):
            return CalibrationJob(key, share, left)
        case tasks.Refused(sentence):
            return CalibrationJob(key, trouble=sentence)
        case tasks.Stopped():
            return CalibrationJob(key, stopped=True)
    return None


def learning_of(answer: BuildResult, row: ObservationRow | None) -> CalibrationJob | None:
    """The calibration of one observation if it was begun; None otherwise."""
    if row is None or answer.review is None:
        return None
    key = content_key(*_inputs(answer, row))
    return _job(key, tasks.peek(_KIND, key))


def begin_learning(answer: BuildResult, row: ObservationRow) -> CalibrationJob:
    """Begin a calibration unless it is there already; a stopped one begins anew."""
    inputs = _inputs(answer, row)
    key = content_key(*inputs)
    job = _job(key, tasks.ask(_KIND, key, inputs))
    assert job
    return job


def stop_learning(job: CalibrationJob) -> None:
    """Ask a calibration to stop; it does within a few draws."""
    tasks.stop(_KIND, job.key)
