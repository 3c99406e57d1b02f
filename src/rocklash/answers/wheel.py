"""The simulated degree wheel as a page sees it: what has been read until now."""

from dataclasses import dataclass

from django.utils import timezone

from rocklash.records.models import WheelRun
from valvetrain.simulators.degree_wheel import WheelStandIn, as_text


@dataclass(frozen=True)
class WheelState:
    """A pass of the wheel: readings so far as the log's text, how many of how many, and whether more will come."""

    text: str
    taken: int
    count: int
    running: bool
    tilt: float
    points: tuple[tuple[float, float], ...]


def wheel_state(run: WheelRun) -> WheelState:
    """Readings taken since the pass began; the same seed gives the same readings however often it is asked."""
    device = WheelStandIn(run.seed)
    seconds = ((run.ended_at or timezone.now()) - run.begun_at).total_seconds()
    taken = min(int(seconds * run.pace), device.count)
    readings = device.readings(taken)
    return WheelState(
        as_text(readings) if readings else "",
        taken,
        device.count,
        run.ended_at is None and taken < device.count,
        device.tilt,
        tuple(readings),
    )
