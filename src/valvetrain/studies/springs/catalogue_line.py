"""A spring pack as a catalogue tells it: force shut and open, rate, and the height at which it binds; and at any height."""

from dataclasses import dataclass

from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train.side_figures import spring_height, weakest


@dataclass(frozen=True)
class CatalogueLine:
    """A pack as fitted at the weakest valve: heights (m) of the outer spring shut and open with their forces (N), rate (N/m) and the height of the
    outer spring at which the first of the pack is solid (m)."""

    shut: float
    seat: float
    open: float
    opened: float
    rate: float
    bind: float


def force_at(side: TrainSide, height: float) -> float:
    """Force (N) of the whole pack with its outer spring at a height (m)."""
    return sum(packed.spring.force(height - packed.step.value) for packed in side.springs)


def catalogue_line(side: TrainSide) -> CatalogueLine:
    """The line of one side of a set-up."""
    shut = spring_height(side, weakest(side))
    opened = shut - (side.lift.value - side.clearance.value)
    return CatalogueLine(
        shut=shut,
        seat=force_at(side, shut),
        open=opened,
        opened=force_at(side, opened),
        rate=sum(packed.spring.rate_at(shut - packed.step.value) for packed in side.springs),
        bind=max(packed.spring.solid_height.value + packed.step.value for packed in side.springs),
    )
