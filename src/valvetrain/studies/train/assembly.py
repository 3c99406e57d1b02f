"""From a record with gaps to complete set-ups and a complete goal."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ContradictionError, ValveTrainError
from valvetrain.memory import Kept, name_of
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Side, Use, ValvePosition
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.parts.joint import Joint
from valvetrain.parts.lobe import StatedAt
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord, ValveStand
from valvetrain.parts.setup import Goal, LowProfile, Setup, TrainSide
from valvetrain.parts.spring import STRAIGHT, PackedSpring, Spring, active_share, from_wire
from valvetrain.studies.train import estimates
from valvetrain.studies.train.cam_sources import CompletedCam, complete_cam
from valvetrain.studies.train.head_change import head_change, later
from valvetrain.studies.train.own_limiter import hold_limiter, joint_of
from valvetrain.studies.train.side_estimates import cam_guess, complete_from, prior_of
from valvetrain.studies.train.side_figures import seat_load, weakest
from valvetrain.studies.train.spring_told import settle_line
from valvetrain.units import LENGTH, amount

Array = NDArray[np.float64]

_USUAL_HEIGHT = 35e-3  # m, of a spring shut, until it is told or estimated. Source: judgement

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
    columns: Mapping[str, Array] = field(default_factory=dict, repr=False, compare=False)


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
    names: Mapping[tuple[str, Side], str] = field(default_factory=dict, repr=False, compare=False)

    @property
    def blade_ratio(self) -> float:
        """Valve motion over motion where the blade is that reads a clearance."""
        return estimates.blade_ratio(self.stock.kind, self.engine).value


def spring_with_wire(known: FigureMap, facts: Mapping[str, str]) -> FigureMap:
    """Add what follows from the wire where card or tester are silent; what was read off a card or tester stays."""
    if not known.keys() >= _WIRE_KEYS:
        return known
    computed = from_wire(known, facts)
    if known.keys() & {"load", "load_height", "seat_load"}:
        computed = {key: figure for key, figure in computed.items() if key not in {"load", "load_height"}}
    return computed | dict(known)


def keyhole(parts: Mapping[Owner, PartRecord]) -> bool:
    """Whether the retainer slides on by a keyhole: then there are no keepers."""
    return Owner.RETAINER in parts and parts[Owner.RETAINER].facts.get("held_by") == "keyhole"


def _told_engine(record: BuildRecord) -> FigureMap:
    return {key: record.engine[key] for key in ("bore", "stroke", "limiter") if key in record.engine}


def _complete_side(
    record: BuildRecord, side: Side, side_record: SideRecord, engine: FigureMap, stock: tuple[SideRecord, CompletedSide] | None,
    weights: Array | None = None,
) -> CompletedSide:  # fmt: skip
    """Complete one side; a part that is the stock part keeps what was estimated for it there, so that a change elsewhere
    does not move it. `weights` say how well each row of the estimates agrees with what the stock engine does."""
    card = side_record.parts.get(Owner.CAM, PartRecord()).figures
    least, most = estimates.clearance_range(side, engine, card, record.facts)
    aim = Figure((least.value + most.value) / 2, abs(most.value - least.value) / 2, max(least.basis, most.basis, key=list(Basis).index))
    known_fit = (dict(stock[1].fit) if stock else {}) | dict(side_record.fit)
    ratio = estimates.blade_ratio(record.kind, engine)
    clearance = estimates.at_valve(known_fit.get("clearance", aim), ratio)
    known_springs = _told_springs(side_record, known_fit)
    own = _with_stock(side_record, stock)
    told = lambda cam: prior_of(record.kind, side, own, known_springs, _told_engine(record), known_fit, cam)
    cam = _cam(record, side_record, side, side_record.parts.get(Owner.CAM, PartRecord()), engine, lambda: cam_guess(told({})), clearance)
    kept = {owner for owner in Owner if stock and stock[0].parts.get(owner) == side_record.parts.get(owner)}
    if Owner.FOLLOWER not in kept and cam.source.at is not StatedAt.VALVE:
        kept -= {Owner.CAM}  # the same lobe under another follower moves the valve otherwise
    if stock and Owner.CAM in kept and known_fit.get("clearance", aim) == stock[1].fit["clearance"]:
        cam = stock[1].cam
    lift = cam.figures["lift"]
    guessed = lift.basis is Basis.ESTIMATE
    prior = told({} if guessed else {"lift": lift})
    done = complete_from(prior, record.kind, side, own, known_springs, known_fit, lift, aim, ratio.value, weights)
    parts = {**done.parts, Owner.CAM: dict(cam.figures)}
    if stock:
        parts |= {owner: dict(stock[1].parts[owner]) for owner in kept if owner in stock[1].parts}
    springs: tuple[FigureMap, ...] = done.springs
    if stock and stock[0].springs == side_record.springs:
        springs = stock[1].springs
    columns = dict(done.columns)
    if keyhole(side_record.parts):
        parts[Owner.KEEPERS] = {"mass": Figure(0.0, 0.0, Basis.CARD)}
        columns.pop(f"mass:{Owner.KEEPERS.value}", None)
    if stock:
        own_cam = dict(parts[Owner.CAM])
        own_cam["lobe_centre"] = later(own_cam["lobe_centre"], head_change(record.kind, engine), intake=side is Side.INTAKE)
        parts[Owner.CAM] = own_cam
    if guessed:
        columns |= {"lift": prior.columns["lift"]}
    facts = tuple(part.facts for part in side_record.springs)
    return CompletedSide(parts, cam, springs, done.fit, facts, side_record.stands, columns)


def _told_springs(side_record: SideRecord, fit: FigureMap) -> tuple[FigureMap, ...]:
    """What is told of each spring as one line of force over height; heights that nobody told are those that engines usually have."""
    height = fit.get("installed_height", estimate(_USUAL_HEIGHT, 0.12))
    found = []
    for number, part in enumerate(side_record.springs):
        step = fit["inner_step"].value if number and "inner_step" in fit else 0.0
        known = spring_with_wire(part.figures, part.facts)
        found.append(settle_line(known, height.value - step, height.spread))
    return tuple(found)


def _with_stock(side_record: SideRecord, stock: tuple[SideRecord, CompletedSide] | None) -> SideRecord:
    """The side's record with the figures of the stock parts it keeps, estimates and all: they condition what is new."""
    if stock is None:
        return side_record
    parts = dict(side_record.parts)
    for owner, figures in stock[1].parts.items():
        if owner is not Owner.CAM and stock[0].parts.get(owner) == side_record.parts.get(owner):
            parts[owner] = replace(parts.get(owner, PartRecord()), figures=figures)
    return replace(side_record, parts=parts)


def _cam(
    record: BuildRecord, side_record: SideRecord, side: Side, part: PartRecord, engine: FigureMap, guess: Callable[[], Mapping[str, Figure]],
    clearance: Figure,
) -> CompletedCam:  # fmt: skip
    follower = side_record.parts.get(Owner.FOLLOWER, PartRecord())
    return complete_cam(
        record.kind, side, part.figures, part.facts, part.lobe, engine, guess, clearance, follower.figures, follower.facts
    )  # fmt: skip


def _stand(place: ValvePosition, done: CompletedSide) -> ValvePosition:
    """A valve's place with what was measured of it in this set-up: its own height, and its own shim against the side's."""
    stand, deviation = done.stands.get(place.name, ValveStand()), place.deviation
    if stand.height is not None:
        deviation = stand.height - done.fit["installed_height"].value
    own = 0.0 if stand.shim is None else stand.shim - done.fit["spring_shim"].value
    return replace(place, deviation=deviation - own, own_shim=own)


def _train_side(
    kind: EngineKind, side: Side, done: CompletedSide, positions: tuple[ValvePosition, ...], engine: FigureMap, joint: Joint | None = None
) -> TrainSide:  # fmt: skip
    cam, valve, fit, ratio = done.parts[Owner.CAM], done.parts[Owner.VALVE], done.fit, estimates.blade_ratio(kind, engine)
    packed = []
    for number, (figures, facts) in enumerate(zip(done.springs, done.spring_facts, strict=True)):
        packed.append(PackedSpring(_spring(figures, facts), fit["inner_step"] if number else Figure(0.0)))
    movers = (Owner.VALVE, Owner.RETAINER, Owner.KEEPERS, Owner.FOLLOWER, Owner.SHIM)
    masses = {owner.value: done.parts[owner]["mass"] for owner in movers}
    masses[Owner.FOLLOWER.value] = _share(masses[Owner.FOLLOWER.value], kind.on_a_lobe(side))
    return TrainSide(
        side=side,
        cam=done.cam.source,
        lobe_centre=cam["lobe_centre"],
        lift=cam["lift"],
        duration=cam["duration_1"],
        shape=done.cam.shape,
        masses=masses,
        springs=tuple(packed),
        installed_height=fit["installed_height"],
        spring_shim=fit["spring_shim"],
        retainer_to_seal=fit["retainer_to_seal"],
        clearance=estimates.at_valve(fit["clearance"], ratio),
        head_diameter=valve["head_diameter"],
        seat_width=valve["seat_width"],
        stem_diameter=valve["stem_diameter"],
        positions=tuple(_stand(place, done) for place in positions if place.side is side) or (ValvePosition(side.value, side, 1),),
        vibration=estimates.vibration(engine, done.spring_facts),
        joint=joint,
        on_a_lobe=kind.on_a_lobe(side),
    )


def _spring(figures: FigureMap, facts: Mapping[str, str]) -> Spring:
    rate, load, height, solid, mass = (figures[key] for key in ("rate", "load", "load_height", "solid_height", "mass"))
    return Spring(rate, load, height, solid, mass, figures.get("bend", STRAIGHT), active_share(figures, facts))


def packed_spring(figures: FigureMap, facts: Mapping[str, str], installed: Figure, step: Figure) -> PackedSpring:
    """A spring of which nothing is left to estimate, as it is in a pack at an installed height: by itself, without the rest of a build.

    Raises ContradictionError when its figures cannot be one line.
    """
    height = installed.value - step.value
    line = settle_line(spring_with_wire(figures, facts), height, installed.spread)
    line.setdefault("load_height", Figure(height, 0.0, Basis.ESTIMATE))
    return PackedSpring(_spring(line, facts), step)


def _share(mass: Figure, valves: int) -> Figure:
    """What each of several valves carries of one rocker that works them all: it is brought to the valve as a whole."""
    return mass if valves == 1 else Figure(mass.value / valves, mass.spread / valves, mass.basis)


def _setup(
    record: BuildRecord, engine: FigureMap, sides: Mapping[Side, CompletedSide], name: str, joints: Mapping[Side, Joint]
) -> Setup:  # fmt: skip
    trains, low = {}, {}
    records = record.stock if name == "stock" else record.proposed
    for side, done in sides.items():
        try:
            trains[side] = _train_side(record.kind, side, done, record.positions, engine, joints[side])
            if records[side].low_cam is not None:
                low[side] = _low_profile(record, records[side], done, engine, trains[side])
        except ValveTrainError as error:
            raise type(error)(f"{name.capitalize()}, {side}: {error.sentence}") from error
    return Setup(
        record.kind, engine["stroke"], trains, low, engine.get("hydraulic_limit") if record.kind.adjuster is Adjuster.HYDRAULIC else None
    )


def _low_profile(record: BuildRecord, side_record: SideRecord, done: CompletedSide, engine: FigureMap, train: TrainSide) -> LowProfile:
    """The same train on its low lobe. Until typed, the change-over is taken at 60 % of the limiter. Source: judgement."""
    guess = {
        "lift": Figure(0.8 * train.lift.value, 0.1 * train.lift.value, Basis.ESTIMATE),
        "duration": estimate(math.radians(216.0), 0.06),
    }
    cam = _cam(record, side_record, train.side, side_record.low_cam or PartRecord(), engine, lambda: guess, train.clearance)
    if cam.source.curve.full > train.curve.full:
        raise ContradictionError(
            f"The low lobe lifts {amount(cam.source.curve.full, LENGTH)} and the high one {amount(train.curve.full, LENGTH)}: are they swapped?"
        )
    masses = dict(train.masses)
    if "low_follower_mass" in done.fit:
        masses[Owner.FOLLOWER.value] = _share(done.fit["low_follower_mass"], train.on_a_lobe)
    figures = cam.figures
    low = replace(
        train, cam=cam.source, lobe_centre=figures["lobe_centre"], lift=figures["lift"], duration=figures["duration_1"], shape=cam.shape,
        masses=masses,
    )  # fmt: skip
    return LowProfile(low, done.fit.get("switch_speed", estimate(engine["limiter"].value * 0.6, 0.1)))


_WEIGHED = (Owner.VALVE, Owner.RETAINER, Owner.KEEPERS, Owner.FOLLOWER, Owner.SHIM)


def _unweighed(own: SideRecord) -> SideRecord:
    """A side as if none of its parts but the springs had been on the scale."""
    bare = {
        owner: replace(part, figures={key: figure for key, figure in part.figures.items() if key != "mass"}) if owner in _WEIGHED else part
        for owner, part in own.parts.items()
    }
    return replace(own, parts=bare)


def _at_own_height(springs: tuple[FigureMap, ...], own: SideRecord, fit: FigureMap) -> tuple[FigureMap, ...]:
    """Springs whose force is that on the seat, at the height at which they stand here: a force that was typed for the seat is the force on the seat."""
    found = []
    for number, (spring, told) in enumerate(zip(springs, _told_springs(own, fit), strict=True)):
        height = fit["installed_height"].value - (fit["inner_step"].value if number else 0.0)
        tied = "load" in told and "load_height" not in told
        found.append(spring if not tied else {**spring, "load_height": Figure(height, 0.0, Basis.ESTIMATE)})
    return tuple(found)


def _stock_side(record: BuildRecord, side: Side, own: SideRecord, engine: FigureMap) -> tuple[CompletedSide, Joint]:
    """The stock side, its estimates drawn from the rows in which the engine holds its own limiter. What is estimated of its springs does not
    hang on what its other parts weigh: the scale tells next to nothing of springs, and a builder who weighs a retainer must not see them move."""
    done, joint = _stock_from(record, side, own, engine)
    bare = _unweighed(own)
    if bare == own or all(figure.basis is not Basis.ESTIMATE for spring in done.springs for figure in spring.values()):
        return done, joint
    springs = _STOCK.get(name_of("unweighed", side, bare, _about(record)), partial(_stock_from, record, side, bare, engine))[0].springs
    done = replace(done, springs=_at_own_height(springs, own, done.fit))
    return done, joint_of(done.columns, _train_side(record.kind, side, done, record.positions, engine), joint)


def _stock_from(record: BuildRecord, side: Side, own: SideRecord, engine: FigureMap) -> tuple[CompletedSide, Joint]:
    first = _complete_side(record, side, own, engine, None)
    train = _train_side(
        record.kind,
        side,
        first,
        record.positions,
        engine,
        joint_of(first.columns, _train_side(record.kind, side, first, record.positions, engine)),
    )
    guessed = any(spring["load"].basis is Basis.ESTIMATE for spring in first.springs)
    joint = hold_limiter(
        train, engine["limiter"], record.kind, asked=record.facts.get(f"holds_limiter_{side}", "") != "no", guessed=guessed
    )
    if not first.columns:
        return first, joint
    done = _complete_side(record, side, own, engine, None, joint.weights)
    # the cam stays as it was first taken: its rows are those of the lobe that all others were judged on
    return done, joint_of(done.columns, _train_side(record.kind, side, done, record.positions, engine), joint)


_STOCK: Kept[tuple[CompletedSide, Joint]] = Kept(128)
_PROPOSED: Kept[CompletedSide] = Kept(128)


def _about(record: BuildRecord) -> BuildRecord:
    """What every side of a build follows from."""
    return replace(record, name="", goal={}, goal_facts={}, use=Use.STREET, stock={}, proposed={}, gaps=(), flows=())


def _names(record: BuildRecord) -> dict[tuple[str, Side], str]:
    """What each side follows from, by name: two sides of one name are alike in every figure."""
    shared = name_of(_about(record))
    stock = {side: name_of(shared, side, record.stock[side]) for side in Side}
    proposed = {side: name_of(stock[side], record.proposed[side]) for side in Side}
    return {**{("stock", side): name for side, name in stock.items()}, **{("proposed", side): name for side, name in proposed.items()}}


_HEIGHTS = ("installed_height", "inner_step")


def _told_of_both(record: BuildRecord) -> BuildRecord:
    """A height that is told of springs which are still the stock ones is the stock height too, where nobody told another: to tell what is there
    is no change of it, and force at the installed height stays what it is."""
    stock = dict(record.stock)
    for side, own in record.proposed.items():
        was = stock[side]
        found = {key: own.fit[key] for key in _HEIGHTS if key in own.fit and key not in was.fit}
        if found and was.springs == own.springs and "installed_height" not in was.fit:
            stock[side] = replace(was, fit={**was.fit, **found})
    return replace(record, stock=stock)


def complete(record: BuildRecord) -> CompletedBuild:
    """Fill every gap of a record. Raises ValveTrainError naming set-up and side when figures contradict each other."""
    record = _told_of_both(record)
    engine = estimates.complete_engine(record.kind, record.engine, record.own)
    done: dict[str, dict[Side, CompletedSide]] = {"stock": {}, "proposed": {}}
    joints: dict[Side, Joint] = {}
    names = _names(record)
    for name, sides in (("stock", record.stock), ("proposed", record.proposed)):
        for side in Side:
            try:
                if name == "stock":
                    done[name][side], joints[side] = _STOCK.get(
                        names[name, side], partial(_stock_side, record, side, record.stock[side], engine)
                    )
                elif record.stock[side] == record.proposed[side] and head_change(record.kind, engine) is None:
                    done[name][side] = done["stock"][side]
                else:
                    beside = (record.stock[side], done["stock"][side])
                    done[name][side] = _PROPOSED.get(names[name, side], partial(_complete_side, record, side, sides[side], engine, beside))
            except ValveTrainError as error:
                raise type(error)(f"{name.capitalize()}, {side}: {error.sentence}") from error
    stock = _setup(record, engine, done["stock"], "stock", joints)
    proposed = _setup(record, engine, done["proposed"], "proposed", joints)
    loads = {}
    for side, train in stock.sides.items():
        load = seat_load(train, weakest(train))
        basis = Basis.ESTIMATE if load.rests_on_estimates else train.springs[0].spring.load.basis
        loads[side] = Figure(load.value, load.spread, basis)
    goal_figures = estimates.complete_goal(record.goal, record.use, engine, loads, record.facts.get("rods", ""))
    return CompletedBuild(engine, goal_figures, _goal(record, goal_figures, stock), stock, proposed, done["stock"], done["proposed"], names)


def with_cam(record: BuildRecord, done: CompletedBuild, side: Side, part: PartRecord) -> CompletedBuild:
    """The completed build as it would be with another cam proposed on one side; everything else is taken as completed.

    Raises ValveTrainError when the cam's figures contradict one another.
    """
    own = record.proposed[side]
    tried = replace(own, parts={**own.parts, Owner.CAM: part}, low_cam=None)
    name = name_of(done.names["stock", side], tried)
    beside = (record.stock[side], done.stock_sides[side])
    completed = _PROPOSED.get(name, partial(_complete_side, record, side, tried, done.engine, beside))
    train = _train_side(record.kind, side, completed, record.positions, done.engine, done.stock.sides[side].joint)
    proposed = replace(done.proposed, sides={**done.proposed.sides, side: train}, low={})
    names = {**done.names, ("proposed", side): name}
    return replace(done, proposed=proposed, proposed_sides={**done.proposed_sides, side: completed}, names=names)


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
