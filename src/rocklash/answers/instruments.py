"""Simulated instruments as a page sees them: what has been read until now."""

from collections.abc import Callable
from dataclasses import dataclass

from django.utils import timezone

from rocklash.records.models import InstrumentKind, InstrumentRun, Part
from valvetrain.formats import spring_log
from valvetrain.simulators.degree_wheel import WheelStandIn, as_text
from valvetrain.simulators.spring_tester import SpringTesterStandIn

KIND_OF = {"cam": InstrumentKind.WHEEL, "spring": InstrumentKind.TESTER}
PACE = {InstrumentKind.WHEEL: 25.0, InstrumentKind.TESTER: 8.0}  # readings a second


@dataclass(frozen=True)
class RunState:
    """A run: readings so far as the text of a log, how many of how many, and whether more will come; of a wheel also the readings
    themselves (crank rad, m) and how far its indicator leans (rad)."""

    text: str
    taken: int
    count: int
    running: bool
    points: tuple[tuple[float, float], ...] = ()
    tilt: float = 0.0

    @property
    def last(self) -> str:
        """The last line of the log, as a page prints it behind the count."""
        return ": " + self.text.strip().splitlines()[-1].replace(";", " · ") if self.text else ""

    @property
    def share(self) -> int:
        """How much is read, in percent."""
        return round(100 * self.taken / self.count)


def _wheel(seed: int) -> tuple[int, Callable[[int], tuple[str, tuple[tuple[float, float], ...], float]]]:
    device = WheelStandIn(seed)

    def read(taken: int) -> tuple[str, tuple[tuple[float, float], ...], float]:
        points = device.readings(taken)
        return as_text(points) if points else "", tuple(points), device.tilt

    return device.count, read


def _tester(seed: int) -> tuple[int, Callable[[int], tuple[str, tuple[tuple[float, float], ...], float]]]:
    device = SpringTesterStandIn(seed)

    def read(taken: int) -> tuple[str, tuple[tuple[float, float], ...], float]:
        readings = device.readings(taken)
        return spring_log.write(readings) if readings else "", (), 0.0

    return device.count, read


def run_state(run: InstrumentRun) -> RunState:
    """Readings taken since the run began; the same seed gives the same readings however often it is asked."""
    count, read = (_wheel if run.kind == InstrumentKind.WHEEL else _tester)(run.seed)
    seconds = ((run.ended_at or timezone.now()) - run.begun_at).total_seconds()
    taken = min(int(seconds * run.pace), count)
    text, points, tilt = read(taken)
    return RunState(text, taken, count, run.ended_at is None and taken < count, points, tilt)


def newest_state(part: Part) -> RunState | None:
    """How far the newest run over a part is."""
    run = InstrumentRun.objects.filter(part=part).first()
    return run_state(run) if run else None
