"""Cams of a build laid side by side: stock, proposed, and up to two candidates, on one side of the head."""

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache, partial

from rocklash.answers.results import BuildResult
from rocklash.answers.rows import part_record, side_rows
from rocklash.records.models import Build, CamCandidate, CamLog, Part, SetupRole
from valvetrain.errors import ContradictionError, ValveTrainError
from valvetrain.formats import lobe_log
from valvetrain.memory import Kept, name_of
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, FigureMap
from valvetrain.parts.setup import LowProfile, TrainSide
from valvetrain.studies.cams import cam_events
from valvetrain.studies.cams.caliper import CaliperAnswer, compare
from valvetrain.studies.cams.cam_events import CamPair, Difference, pair_of
from valvetrain.studies.cams.degree_wheel import DegreeWheelFit, fit
from valvetrain.studies.cams.lobe_fit import LobeFit, lobe_fit
from valvetrain.studies.checks.assessment import check_low_float
from valvetrain.studies.checks.check import Check
from valvetrain.studies.train.assembly import CompletedBuild, CompletedSide, with_cam
from valvetrain.studies.train.float_rows import float_speed
from valvetrain.studies.train.head_change import changed_engine, head_change
from valvetrain.studies.train.side_figures import weakest
from valvetrain.units import UnitSystem


@dataclass(frozen=True)
class Contender:
    """One cam of the comparison. `rows` are its differences to stock; `trouble` says why there is nothing else."""

    letter: str
    part: Part
    train: TrainSide | None = None
    done: CompletedSide | None = None
    pair: CamPair | None = None
    rows: tuple[Difference, ...] = ()
    lobe: LobeFit | None = None
    float_speed: float = 0.0
    trouble: str = ""

    @property
    def timing_known(self) -> bool:
        """Whether durations rest on anything but an estimate."""
        return self.done is not None and self.done.cam.figures["duration_1"].basis is not Basis.ESTIMATE

    @property
    def centre_known(self) -> bool:
        """Whether the lobe centre is known or estimated."""
        return self.done is not None and self.done.cam.figures["lobe_centre"].basis is not Basis.ESTIMATE


_CONTENDERS: Kept[Contender] = Kept(64)


@dataclass(frozen=True)
class LowAnswer:
    """The low lobe of a two-profile side: what it does and whether its springs hold it to the change-over."""

    profile: LowProfile
    check: Check


@dataclass(frozen=True)
class CamAnswer:
    """Everything of one side's cams. `overlaps` are those at the ends of the phasers' range, crank rad."""

    side: Side
    contenders: tuple[Contender, ...]
    sentence: str
    caliper: tuple[tuple[str, CaliperAnswer], ...]
    low: LowAnswer | None
    overlaps: tuple[float, float] | None
    phaser: tuple[float, float]


def _contender(letter: str, part: Part, side: Side, done: CompletedBuild, stock: CamPair | None) -> Contender:
    """One cam with everything that follows from it; `done` is the completed build it is proposed in. Of four cams mostly one was changed."""
    alike = {key: name for key, name in done.names.items() if letter != "S" or key[0] == "stock"}
    name = name_of(letter == "S", side, alike, done.goal.goal_rpm, part.facts.get("ground_for", ""))
    kept = _CONTENDERS.get(name, partial(_worked_out, letter, part, side, done, stock))
    return replace(kept, letter=letter, part=part)


def _worked_out(letter: str, part: Part, side: Side, done: CompletedBuild, stock: CamPair | None) -> Contender:
    setup, sides = (done.stock, done.stock_sides) if letter == "S" else (done.proposed, done.proposed_sides)
    goal = done.goal.goal_rpm
    train, complete = setup.sides[side], sides[side]
    engine = done.engine if letter == "S" else changed_engine(done.engine, head_change(setup.kind, done.engine))
    pair = pair_of(setup.sides[Side.INTAKE], setup.sides[Side.EXHAUST], engine, goal)
    rows = tuple(row for row in cam_events.differences(stock or pair, pair) if row.side in (side, None))
    try:
        ground = part.facts.get("ground_for", "")
        lobe = lobe_fit(train, complete.parts[Owner.CAM], complete.parts[Owner.FOLLOWER], ground, goal)
        trouble = ""
    except ValveTrainError as error:
        lobe, trouble = None, error.sentence
    speed = float_speed(train, weakest(train)).value
    return Contender(
        letter=letter, part=part, train=train, done=complete, pair=pair, rows=rows, lobe=lobe, float_speed=speed, trouble=trouble
    )


def cam_answer(answer: BuildResult, build: Build, side: Side, candidates: Iterable[CamCandidate]) -> CamAnswer:
    """Compare the cams of one side; needs a review."""
    assert answer.review
    done, rows = answer.review.completed, side_rows(build)
    stock_cam, cam = rows[SetupRole.STOCK, side.value].cam, rows[SetupRole.PROPOSED, side.value].cam
    assert stock_cam
    assert cam
    stock = _contender("S", stock_cam, side, done, None)
    found = [stock, _contender("A", cam, side, done, stock.pair)]
    for candidate in candidates:
        if candidate.setup_side.side != side.value:
            continue
        try:
            tried = with_cam(answer.record, done, side, part_record(candidate.cam))
            found.append(_contender(candidate.letter, candidate.cam, side, tried, stock.pair))
        except ValveTrainError as error:
            found.append(Contender(candidate.letter, candidate.cam, trouble=error.sentence))
    first, second = found[0].pair, found[1].pair
    assert first
    assert second
    sentence = cam_events.trade(first, second, side)
    ratio = done.engine["lift_ratio"].value
    caliper = []
    for each in found[1:]:
        told = compare(figures_of_part(stock_cam), figures_of_part(each.part), ratio)
        if told:
            caliper.append((each.letter, told))
    low = done.proposed.low.get(side)
    return CamAnswer(
        side,
        tuple(found),
        sentence,
        tuple(caliper),
        LowAnswer(low, check_low_float(low, answer.review.completed.goal)) if low else None,
        *_phasers(answer, second, side),
    )


def figures_of_part(part: Part) -> FigureMap:
    """Core figures of one part."""
    return part_record(part).figures


def cam_alone(answer: BuildResult, build: Build, part: Part, side: Side) -> TrainSide:
    """One side of the head with this cam in it. Raises ValveTrainError when its figures contradict one another."""
    return _done_with(answer, build, part, side)[0]


def _done_with(answer: BuildResult, build: Build, part: Part, side: Side) -> tuple[TrainSide, CompletedSide]:
    rows = side_rows(build)
    done = answer.review.completed if answer.review else None
    if done and rows[SetupRole.PROPOSED, side.value].cam_id == part.pk:
        return done.proposed.sides[side], done.proposed_sides[side]
    if done and rows[SetupRole.STOCK, side.value].cam_id == part.pk:
        return done.stock.sides[side], done.stock_sides[side]
    if done is None:
        raise ContradictionError(answer.contradiction)
    tried = with_cam(answer.record, done, side, part_record(part))
    return tried.proposed.sides[side], tried.proposed_sides[side]


def cam_in_place(answer: BuildResult, build: Build, part: Part, side: Side) -> Contender:
    """One cam on a side of the build, or the sentence why it cannot be there."""
    letter = "A"
    try:
        train, done = _done_with(answer, build, part, side)
        follower = done.parts[Owner.FOLLOWER]
        goal = answer.review.completed.goal.goal_rpm if answer.review else 0.0
        lobe = lobe_fit(train, done.parts[Owner.CAM], follower, part.facts.get("ground_for", ""), goal)
    except ValveTrainError as error:
        return Contender(letter, part, trouble=error.sentence)
    return Contender(letter, part, train, done, None, (), lobe)


def phaser_range(engine: FigureMap, side: Side) -> tuple[float, float]:
    """How far a side's phaser advances and retards from rest, crank rad; zero without one."""
    ends = (engine.get(f"phaser_{side}_{way}") for way in ("advance", "retard"))
    advance, retard = (end.value if end else 0.0 for end in ends)
    return advance, retard


def _phasers(answer: BuildResult, pair: CamPair, side: Side) -> tuple[tuple[float, float] | None, tuple[float, float]]:
    """Least and most overlap over both phasers' ranges, and the range of this side."""
    assert answer.review
    engine = answer.review.completed.engine
    inlet, outlet = phaser_range(engine, Side.INTAKE), phaser_range(engine, Side.EXHAUST)
    own = inlet if side is Side.INTAKE else outlet
    if not any((*inlet, *outlet)):
        return None, own
    return (pair.overlap - inlet[1] - outlet[0], pair.overlap + inlet[0] + outlet[1]), own


@lru_cache(maxsize=64)
def fit_of_text(text: str, *, crank: bool, tilt: float, system: UnitSystem) -> tuple[lobe_log.LobeLog, DegreeWheelFit]:
    """A degree-wheel log read and fitted, once per process however often it is asked for. Raises ValveTrainError naming row or figure."""
    log = lobe_log.read(text, crank=crank, system=system)
    return log, fit(log.angle, log.lift * math.cos(tilt))


def fitted_log(log: CamLog) -> tuple[lobe_log.LobeLog, DegreeWheelFit]:
    """The readings of a kept log and their fit, fitted once per process."""
    return fit_of_text(log.text, crank=log.crank, tilt=log.tilt, system=UnitSystem(log.system))
