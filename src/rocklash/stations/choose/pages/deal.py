"""Parts in hand dealt to the seats of one side, shown on the head and as a list."""

from dataclasses import dataclass

from rocklash.answers.rows import side_rows
from rocklash.records.models import Build, Individual, Part, Position
from rocklash.ui.drawings import head_map
from rocklash.ui.drawings.head_map import HeadMap, ValveData
from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import Side
from valvetrain.parts.setup import TrainSide
from valvetrain.parts.spring import PackedSpring
from valvetrain.studies.choose.dealing import TESTER, Deal, Dealt, PartInHand, Seat, SpringInHand, deal, stacks_of
from valvetrain.studies.train.side_figures import seat_load
from valvetrain.units import QuantityKind, UnitSystem, show, told, unit_symbol

_USUAL_SHIMS = (0.25e-3, 0.5e-3, 1.0e-3)  # m, while the shelf holds no spring shims. Source: trade


@dataclass(frozen=True)
class SeatLine:
    """What one seat gets."""

    seat: str
    spring: str
    shims: str
    parts: str
    force: str
    off: str
    mass: str


@dataclass(frozen=True)
class DealPage:
    """The deal, or why there is none yet."""

    trouble: str
    sentence: str
    lines: list[SeatLine]
    drawn: HeadMap | None
    over: str
    counts: str
    unit: str


def _individuals(part: Part | None) -> list[Individual]:
    return [] if part is None else [one for one in part.individuals.all() if one.condition != "scrap"]


def _spring(name: str, one: Individual, load: float, height: float, rate: float, inner: PackedSpring | None) -> SpringInHand:
    """A tested outer spring, with the inner of its pack as that is told."""
    more = inner.spring.force(height - inner.step.value) if inner else 0.0
    return SpringInHand(name=name, load=load + more, rate=(one.rate or rate) + (inner.spring.rate.value if inner else 0.0), at=height)


def _many(one: Individual) -> list[str]:
    return [one.name] if one.count == 1 else [f"{one.name} ({n + 1})" for n in range(min(one.count, 64))]


def deal_page(build: Build, side: Side, train: TrainSide, target: float | None, sizes: list[float], system: UnitSystem) -> DealPage:
    """Deal what is in hand of the proposed side's parts. `target` N on every seat, the middle of what can be had where None; `sizes` m of the
    spring shims there are."""
    row = side_rows(build)["proposed", side.value]
    seats = [
        Seat(name=place.name, height=train.installed_height.value + place.retainer_deviation) for place in train.positions
    ]  # fmt: skip
    inner = train.springs[1] if len(train.springs) > 1 else None
    springs = [
        _spring(name, one, one.load, one.load_height, train.springs[0].spring.rate.value, inner)
        for one in _individuals(row.outer_spring)
        if one.load is not None and one.load_height is not None
        for name in _many(one)
    ]
    kinds = {
        words: [
            PartInHand(name=name, mass=one.mass, offset=one.offset or 0.0) for one in _individuals(part) if one.mass is not None for name in _many(one)
        ]
        for words, part in (("retainer", row.retainer), ("keepers", row.keepers), ("valve", row.valve))
    }  # fmt: skip
    counts = f"{len(springs)} springs tested, " + ", ".join(f"{len(parts)} {words} weighed" for words, parts in kinds.items())
    few = {words: parts if len(parts) >= len(seats) else [] for words, parts in kinds.items()}
    unit = unit_symbol(QuantityKind.FORCE, system)
    try:
        found = deal(seats, springs, few, stacks_of(sizes or _USUAL_SHIMS), target)
    except ContradictionError as error:
        return DealPage(told(error.sentence, system), "", [], None, "", counts, unit)
    places = {place.name: place for place in build.engine.positions.all()}
    return _page(found, [places[seat.name] for seat in seats], counts, unit, system)


def _page(found: Deal, places: list[Position], counts: str, unit: str, system: UnitSystem) -> DealPage:
    force = lambda value: show(value, QuantityKind.FORCE, system)
    length = lambda value: f"{show(value, QuantityKind.LENGTH, system)} {unit_symbol(QuantityKind.LENGTH, system)}"
    lines = [
        SeatLine(
            each.seat.name, each.spring, length(each.stack.thickness) if each.stack.count else "none",
            ", ".join(f"{words} {name}" for words, name in each.parts.items()), force(each.force), f"{each.force - found.target:+.1f}",
            f"{show(each.mass, QuantityKind.MASS, system)} {unit_symbol(QuantityKind.MASS, system)}" if each.mass else "",
        )
        for each in found.seats
    ]  # fmt: skip
    sentence = f"Every seat within {show(found.worst, QuantityKind.FORCE, system, difference=True)} {unit} of {force(found.target)} {unit}, with {found.shims} shims."
    window = max(found.worst, TESTER)
    marks = [_valve(place, each, found.target, window, line, system) for place, each, line in zip(places, found.seats, lines, strict=True)]
    return DealPage("", sentence, lines, head_map.draw(marks), ", ".join(found.over), counts, unit)


def _valve(place: Position, each: Dealt, target: float, window: float, line: SeatLine, system: UnitSystem) -> ValveData:
    """A valve of the head map: the force it gets in its circle, the window about the force wanted as its bar."""
    return ValveData(
        pk=place.pk, name=place.name, side=place.side, cylinder=place.cylinder, state="in range" if abs(each.force - target) <= window + 1e-6 else "undecided",
        figure=line.force, interval=unit_symbol(QuantityKind.FORCE, system), low=each.force, high=each.force, low_after=None, high_after=None,
        least=target - window, most=target + window, aim=target, shim_line=f"shim {line.shims}", word=each.spring, url=f"?side={place.side}",
        current=False,
    )  # fmt: skip


def force_now(train: TrainSide) -> float:
    """Seat force of the middle valve as it is proposed, N."""
    return sorted(seat_load(train, place).value for place in train.positions)[len(train.positions) // 2]
