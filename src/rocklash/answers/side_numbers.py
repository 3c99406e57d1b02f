"""Numbers of one side that pages show beside the checks: spring pack, masses, the stack to scale."""

from dataclasses import dataclass

from rocklash.answers.results import BuildResult
from rocklash.ui.drawings.stack import CoilData, StackData, coil_shape
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import LEVERS, SHIMMED, Adjuster, Side, ValvePosition
from valvetrain.parts.figure import Figure
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train.assembly import CompletedSide
from valvetrain.studies.train.side_figures import moving_mass, open_load, seat_load, weakest
from valvetrain.studies.train.uncertainty import Propagated


@dataclass(frozen=True)
class PackNumbers:
    """Spring pack and moving mass of one side of one set-up, SI. Forces are those of the weakest valve."""

    rate: float
    seat: Propagated
    opened: Propagated
    mass: Figure
    shares: tuple[tuple[str, Figure], ...]


def _train(answer: BuildResult, role: str, side: Side) -> tuple[TrainSide, CompletedSide]:
    assert answer.review
    done = answer.review.completed
    if role == "stock":
        return done.stock.sides[side], done.stock_sides[side]
    return done.proposed.sides[side], done.proposed_sides[side]


def pack_numbers(answer: BuildResult, role: str, side: Side) -> PackNumbers:
    """Numbers of one side of the stock or the proposed set-up."""
    train, _ = _train(answer, role, side)
    place = weakest(train)
    shares = [(name, figure) for name, figure in train.masses.items() if figure.value > 0.0]
    names = ["spring, ⅓"] if len(train.springs) == 1 else ["outer spring, ⅓", "inner spring, ⅓"]
    for name, packed in zip(names, train.springs, strict=True):
        third = packed.spring.mass
        shares.append((name, Figure(third.value / 3.0, third.spread / 3.0, third.basis)))
    rate = sum(packed.spring.rate.value for packed in train.springs)
    return PackNumbers(rate, seat_load(train, place), open_load(train, place), moving_mass(train), tuple(shares))


def completed_side(answer: BuildResult, role: str, side: Side) -> CompletedSide:
    """Every figure of one side, known and estimated."""
    return _train(answer, role, side)[1]


def valve_places(answer: BuildResult, side: Side) -> tuple[ValvePosition, ...]:
    """The valves of one side."""
    return _train(answer, "proposed", side)[0].positions


def stack_data(answer: BuildResult, side: Side, place: ValvePosition, tightest: tuple[str, str, str]) -> StackData:
    """The proposed stack of one valve in mm; coils of springs without wire figures are drawn from their solid height."""
    train, done = _train(answer, "proposed", side)
    lift = train.lift.value - train.clearance.value
    shut = train.installed_height.value + place.deviation - train.spring_shim.value
    coils: list[CoilData] = []
    for number, (packed, figures) in enumerate(zip(train.springs, done.springs, strict=True)):
        solid = packed.spring.solid_height.value * 1e3
        if {"wire_diameter", "mean_diameter", "total_coils"} <= figures.keys():
            shape = (figures["wire_diameter"].value * 1e3, figures["mean_diameter"].value * 1e3, figures["total_coils"].value)
        else:
            shape = coil_shape(solid)
            if number:  # an inner spring whose wire is not known is drawn inside the outer one
                shape = (shape[0] * 0.62, (coils[0].mean - coils[0].wire) * 0.74, shape[2] * 1.25)
        own = (shut - packed.step.value) * 1e3
        coils.append(CoilData("inner" if number else "outer", own, own - lift * 1e3, packed.step.value * 1e3, solid, *shape))
    head, kind = done.parts[Owner.VALVE]["head_diameter"].value * 1e3, answer.record.kind
    bucket = max((coils[0].mean + coils[0].wire) + 5.0, head * 0.9)
    gap = (train.retainer_to_seal.value + place.retainer_deviation) * 1e3
    stem = train.stem_diameter.value * 1e3
    installed = (train.installed_height.value + place.deviation) * 1e3
    return StackData(
        valve=place.name,
        lift=lift * 1e3,
        installed=installed,
        shim=train.spring_shim.value * 1e3,
        seal_gap=gap,
        stem=stem,
        springs=tuple(coils),
        bucket=bucket,
        tightest=tightest,
        keepers=train.masses[Owner.KEEPERS.value].value > 0.0,
        cap=kind.adjuster in SHIMMED or kind.caps,
        lever=kind.follower in LEVERS,
        screw=kind.adjuster is Adjuster.SCREW,
    )
