"""From a record with gaps to complete set-ups and a complete goal."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from valvetrain.errors import ContradictionError, ValveTrainError
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side, ValvePosition
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.parts.lobe import StatedAt
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord, ValveStand
from valvetrain.parts.setup import Goal, LowProfile, Setup, TrainSide
from valvetrain.parts.spring import STRAIGHT, PackedSpring, Spring, from_wire
from valvetrain.studies import estimates
from valvetrain.studies.cam_sources import CompletedCam, complete_cam
from valvetrain.studies.side_figures import seat_load, weakest

_WIRE_KEYS = frozenset({"wire_diameter", "mean_diameter", "total_coils", "free_length"})


@dataclass(frozen=True)
class CompletedSide:
    """All figures of one side by owner, known and estimated, as a page shows them; the cam with the source of its curve."""

    parts: Mapping[Owner, FigureMap]
    cam: CompletedCam
    springs: tuple[FigureMap, ...]
    fit: FigureMap
    spring_facts: tuple[Mapping[str, str], ...] = ()
    stands: Mapping[str, ValveStand] = field(default_factory=dict)


@dataclass(frozen=True)
class CompletedBuild:
    """Everything that follows from a record without judging: figures with no gap left, set-ups and goal."""

    engine: FigureMap
    goal_figures: FigureMap
    goal: Goal
    stock: Setup
    proposed: Setup
    stock_sides: Mapping[Side, CompletedSide]
    proposed_sides: Mapping[Side, CompletedSide]


def spring_with_wire(known: FigureMap, facts: Mapping[str, str]) -> FigureMap:
    """Add what follows from the wire where card or tester are silent; what was read off a card or tester stays."""
    if not known.keys() >= _WIRE_KEYS:
        return known
    computed = from_wire(known, facts)
    if "load" in known or "load_height" in known:
        computed = {key: figure for key, figure in computed.items() if key not in {"load", "load_height"}}
    return computed | dict(known)


def _complete_side(
    record: BuildRecord, side: Side, side_record: SideRecord, engine: FigureMap, stock: tuple[SideRecord, CompletedSide] | None
) -> CompletedSide:
    """Complete one side; a part that is the stock part keeps what was estimated for it there, so that a change elsewhere
    does not move it."""
    parts = estimates.complete_parts(record.kind, side, side_record, engine["bore"].value)
    least, most = engine[f"clearance_{side}_least"], engine[f"clearance_{side}_most"]
    aim = Figure((least.value + most.value) / 2, abs(most.value - least.value) / 2, max(least.basis, most.basis, key=list(Basis).index))
    known_fit = (dict(stock[1].fit) if stock else {}) | dict(side_record.fit)
    cam = _cam(record, side, side_record, side_record.parts.get(Owner.CAM, PartRecord()), engine, parts, known_fit.get("clearance", aim))
    parts[Owner.CAM] = dict(cam.figures)
    if stock:
        kept = {owner for owner in parts if stock[0].parts.get(owner) == side_record.parts.get(owner)}
        if Owner.FOLLOWER not in kept and cam.source.at is not StatedAt.VALVE:
            kept -= {Owner.CAM}  # the same lobe under another follower moves the valve otherwise
        parts |= {owner: dict(stock[1].parts[owner]) for owner in kept}
        cam = stock[1].cam if Owner.CAM in kept and known_fit.get("clearance") == stock[1].fit["clearance"] else cam
    fit = estimates.complete_fit(known_fit, parts[Owner.CAM]["lift"].value, aim)
    mass = sum(figures["mass"].value for owner, figures in parts.items() if owner is not Owner.CAM)
    known_springs = tuple(spring_with_wire(part.figures, part.facts) for part in side_record.springs)
    if stock and stock[0].springs == side_record.springs:
        springs: tuple[FigureMap, ...] = stock[1].springs
    else:
        springs = estimates.complete_springs(known_springs, fit, cam.source.curve, mass, engine["limiter"].value)
    return CompletedSide(parts, cam, springs, fit, tuple(part.facts for part in side_record.springs), side_record.stands)


def _cam(
    record: BuildRecord, side: Side, side_record: SideRecord, part: PartRecord, engine: FigureMap,
    parts: Mapping[Owner, FigureMap], clearance: Figure,
) -> CompletedCam:  # fmt: skip
    follower = side_record.parts.get(Owner.FOLLOWER, PartRecord())
    head = parts[Owner.VALVE]["head_diameter"].value
    return complete_cam(
        record.kind, side, part.figures, part.facts, part.lobe, engine, head, clearance, follower.figures, follower.facts
    )  # fmt: skip


def _stand(place: ValvePosition, done: CompletedSide) -> ValvePosition:
    """A valve's place with what was measured of it in this set-up: its own height, and its own shim against the side's."""
    stand, deviation = done.stands.get(place.name, ValveStand()), place.deviation
    if stand.height is not None:
        deviation = stand.height - done.fit["installed_height"].value
    if stand.shim is not None:
        deviation -= stand.shim - done.fit["spring_shim"].value
    return replace(place, deviation=deviation)


def _train_side(side: Side, done: CompletedSide, positions: tuple[ValvePosition, ...], engine: FigureMap) -> TrainSide:
    cam, valve, fit = done.parts[Owner.CAM], done.parts[Owner.VALVE], done.fit
    packed = []
    for number, figures in enumerate(done.springs):
        rate, load, height, solid, mass = (figures[key] for key in ("rate", "load", "load_height", "solid_height", "mass"))
        spring = Spring(rate, load, height, solid, mass, figures.get("bend", STRAIGHT))
        packed.append(PackedSpring(spring, fit["inner_step"] if number else Figure(0.0)))
    movers = (Owner.VALVE, Owner.RETAINER, Owner.KEEPERS, Owner.FOLLOWER, Owner.SHIM)
    return TrainSide(
        side=side,
        cam=done.cam.source,
        lobe_centre=cam["lobe_centre"],
        lift=cam["lift"],
        duration=cam["duration_1"],
        shape=done.cam.shape,
        masses={owner.value: done.parts[owner]["mass"] for owner in movers},
        springs=tuple(packed),
        installed_height=fit["installed_height"],
        spring_shim=fit["spring_shim"],
        retainer_to_seal=fit["retainer_to_seal"],
        clearance=fit["clearance"],
        head_diameter=valve["head_diameter"],
        seat_width=valve["seat_width"],
        stem_diameter=valve["stem_diameter"],
        positions=tuple(_stand(place, done) for place in positions if place.side is side) or (ValvePosition(side.value, side, 1),),
        vibration=estimates.vibration(engine, done.spring_facts),
    )


def _setup(record: BuildRecord, engine: FigureMap, sides: Mapping[Side, CompletedSide], name: str) -> Setup:
    trains, low = {}, {}
    records = record.stock if name == "stock" else record.proposed
    for side, done in sides.items():
        try:
            trains[side] = _train_side(side, done, record.positions, engine)
            if records[side].low_cam is not None:
                low[side] = _low_profile(record, records[side], done, engine, trains[side])
        except ValveTrainError as error:
            raise type(error)(f"{name.capitalize()}, {side}: {error}") from error
    return Setup(record.kind, engine["stroke"], trains, low)


def _low_profile(record: BuildRecord, side_record: SideRecord, done: CompletedSide, engine: FigureMap, train: TrainSide) -> LowProfile:
    """The same train on its low lobe. Until typed, the change-over is taken at 60 % of the limiter. Source: judgement."""
    cam = _cam(record, train.side, side_record, side_record.low_cam or PartRecord(), engine, done.parts, train.clearance)
    if cam.source.curve.full > train.curve.full:
        raise ContradictionError(
            f"The low lobe lifts {cam.source.curve.full * 1e3:.2f} mm and the high one {train.curve.full * 1e3:.2f} mm: are they swapped?"
        )
    masses = dict(train.masses)
    if "low_follower_mass" in done.fit:
        masses[Owner.FOLLOWER.value] = done.fit["low_follower_mass"]
    figures = cam.figures
    low = replace(
        train, cam=cam.source, lobe_centre=figures["lobe_centre"], lift=figures["lift"], duration=figures["duration_1"], shape=cam.shape,
        masses=masses,
    )  # fmt: skip
    return LowProfile(low, done.fit.get("switch_speed", estimate(engine["limiter"].value * 0.6, 0.1)))


def complete(record: BuildRecord) -> CompletedBuild:
    """Fill every gap of a record. Raises ValveTrainError naming set-up and side when figures contradict each other."""
    engine = estimates.complete_engine(record.kind, record.engine)
    done: dict[str, dict[Side, CompletedSide]] = {"stock": {}, "proposed": {}}
    for name, sides in (("stock", record.stock), ("proposed", record.proposed)):
        for side in Side:
            try:
                stock_side = (record.stock[side], done["stock"][side]) if name == "proposed" else None
                done[name][side] = _complete_side(record, side, sides[side], engine, stock_side)
            except ValveTrainError as error:
                raise type(error)(f"{name.capitalize()}, {side}: {error}") from error
    stock = _setup(record, engine, done["stock"], "stock")
    proposed = _setup(record, engine, done["proposed"], "proposed")
    loads = {}
    for side, train in stock.sides.items():
        load = seat_load(train, weakest(train))
        basis = Basis.ESTIMATE if load.rests_on_estimates else train.springs[0].spring.load.basis
        loads[side] = Figure(load.value, load.spread, basis)
    goal_figures = estimates.complete_goal(record.goal, record.use, engine, loads, record.facts.get("rods", ""))
    return CompletedBuild(engine, goal_figures, _goal(record, goal_figures, stock), stock, proposed, done["stock"], done["proposed"])


def with_cam(record: BuildRecord, done: CompletedBuild, side: Side, part: PartRecord) -> CompletedBuild:
    """The completed build as it would be with another cam proposed on one side; everything else is taken as completed.

    Raises ValveTrainError when the cam's figures contradict one another.
    """
    own = record.proposed[side]
    tried = replace(own, parts={**own.parts, Owner.CAM: part}, low_cam=None)
    completed = _complete_side(record, side, tried, done.engine, (record.stock[side], done.stock_sides[side]))
    train = _train_side(side, completed, record.positions, done.engine)
    proposed = replace(done.proposed, sides={**done.proposed.sides, side: train}, low={})
    return replace(done, proposed=proposed, proposed_sides={**done.proposed_sides, side: completed})


def _goal(record: BuildRecord, figures: FigureMap, stock: Setup) -> Goal:
    typed = {key: "typed over on the Goal station" for key in record.goal if "_limit" in key or key == "reserve"}
    return Goal(
        goal_rpm=figures["goal_rpm"].value,
        over_rev=figures["over_rev"].value,
        boost=figures["boost"],
        back_pressure=figures["back_pressure"],
        pulse_factor=figures["pulse_factor"],
        reserve=figures["reserve"].value,
        seat_force={side: figures[f"seat_force_{side}"] for side in Side},
        coil_bind_limit=figures["coil_bind_limit"].value,
        retainer_limit=figures["retainer_limit"].value,
        piston_speed_limit=figures["piston_speed_limit"].value,
        limits={key: figure.value for key, figure in figures.items() if "_limit" in key},
        use=record.use,
        seat_reference={side: train.springs for side, train in stock.sides.items() if f"seat_force_{side}" not in record.goal},
        origin=typed,
    )
