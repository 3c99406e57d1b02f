"""Scenarios of a failure tried in the model: how far the engine was turned against every limit, the cam moved until a valve meets the piston,
the wire over the hours it ran, and what the clearances did before. Each becomes a factor on the odds of its scenario, with the sentence why.

Factors are judgement and stay between a fifth and five: the model is one witness among the marks, not the judge.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from valvetrain.errors import ValveTrainError
from valvetrain.parts.engine import Side
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.check import CheckCode, CheckSubject, Verdict
from valvetrain.studies.gaps.gaps import RoomReview
from valvetrain.studies.gaps.piston import crank_grid, gap_over
from valvetrain.studies.motion.review import MotionReview
from valvetrain.studies.proof.evidence import ModelWitness
from valvetrain.studies.running.over_rev import OverRev, judge_over_rev, reached_by_log
from valvetrain.studies.train.assembly import CompletedBuild
from valvetrain.units import LENGTH, QuantityKind, amount

_BY_VERDICT: Final = {Verdict.SHORT: 3.0, Verdict.SLIM: 1.5, Verdict.HOLDS: 0.5, Verdict.UNPROVEN: 1.0}
_SCENARIO: Final[Mapping[CheckSubject, str]] = {
    CheckCode.AT_SPEED: "piston", GapKind.COIL_BIND: "coil_bind", CheckCode.PISTON: "over_rev",
}  # fmt: skip
_BIND: Final = {
    Verdict.SHORT: 1.8,
    Verdict.SLIM: 1.8,
    Verdict.HOLDS: 0.6,
    Verdict.UNPROVEN: 1.0,
}  # of room at rest, which every build is told
_FARTHEST: Final = math.radians(60.0)  # crank: as far as a cam is tried out of time
_TOOTH: Final = math.radians(20.0)  # crank, of a tooth where the sprocket is not known: 36 teeth on the cam. Source: judgement


@dataclass(frozen=True, kw_only=True)
class Jump:
    """A clearance that jumped between two sheets: valve, from and to (hours), by how much (m, negative closing)."""

    valve: str
    start: float
    end: float
    amount: float


@dataclass(frozen=True, kw_only=True)
class Meeting:
    """A cam turned out of time, late or early, until a valve meets the piston: crank rad, None where it never does within 60 degrees, and a
    tooth of that cam (crank rad)."""

    side: Side
    early: float | None
    late: float | None
    tooth: float
    told: bool

    @property
    def teeth(self) -> float:
        """Teeth to the nearer meeting; infinite where there is none."""
        return min((each for each in (self.early, self.late) if each is not None), default=math.inf) / self.tooth


def meetings(room: RoomReview, done: CompletedBuild) -> tuple[Meeting, ...]:
    """How far out of time each proposed cam may stand until a valve meets the piston, the phaser at home and nothing bent."""
    angle, found = crank_grid(), []
    teeth = done.engine.get("sprocket_teeth")
    shifts = np.radians(np.arange(0.0, math.degrees(_FARTHEST) + 0.25, 0.5))
    for side, least in room.pistons.items():
        train = done.proposed.sides[side]
        ends: list[float | None] = []
        for sign in (1.0, -1.0):
            gaps = gap_over(room.geometry, train, least.rest.figure.value, angle[None, :], (sign * shifts)[:, None]).min(axis=1)
            hit = np.flatnonzero(gaps <= 0.0)
            ends.append(float(shifts[hit[0]]) if len(hit) else None)
        found.append(
            Meeting(side=side, early=ends[0], late=ends[1], tooth=4.0 * math.pi / teeth.value if teeth else _TOOTH, told=teeth is not None)
        )
    return tuple(found)


def _timing(found: Sequence[Meeting]) -> ModelWitness | None:
    if not found:
        return None
    near = min(found, key=lambda each: each.teeth)
    tooth = "" if near.told else ", a tooth taken as 20°"
    if math.isinf(near.teeth):
        words = "Out of time by up to 60° of the crank neither side's valves meet the piston: timing alone does not do it."
        return ModelWitness(scenario="piston", factor=0.25, why=words)
    at = " or ".join(f"{math.degrees(each):.0f}° {way}" for each, way in ((near.early, "early"), (near.late, "late")) if each is not None)
    words = f"{near.side.value.capitalize()} valves meet the piston from {at} on (crank), {near.teeth:.1f} of a tooth{tooth}"
    factor = 2.5 if near.teeth <= 1.0 else 1.5 if near.teeth <= 2.0 else 0.6
    return ModelWitness(scenario="piston", factor=factor, why=f"{words}.")


def _reached(found: OverRev, speed_told: float, over_rev: float) -> Iterable[ModelWitness]:
    """One witness a scenario: the row that went farthest, so that two sides do not count twice."""
    speed = amount(speed_told, QuantityKind.SPEED)
    order = [Verdict.SHORT, Verdict.SLIM, Verdict.UNPROVEN, Verdict.HOLDS]
    worst: dict[str, tuple[int, str]] = {}
    for row in found.against:
        key = _SCENARIO.get(row.code) if row.code is not None else None
        if key is None or row.missing or not math.isfinite(row.limit):
            continue
        rank = order.index(row.verdict)
        words = {
            Verdict.SHORT: "lies past", Verdict.SLIM: "lies at", Verdict.HOLDS: "stays inside", Verdict.UNPROVEN: "cannot be held against",
        }[row.verdict]  # fmt: skip
        if key == "coil_bind":
            told = {Verdict.HOLDS: "stay apart", Verdict.SLIM: "clash as the spring surges"}.get(row.verdict, "bind")
            why = f"{row.title.removesuffix(', pressed together').capitalize()}: turned to {speed} they {told}."
        elif key == "piston":
            why = f"{row.title.capitalize()}, in motion at {speed}: {amount(row.reached, row.kind)} left."
        else:
            why = f"{row.title.capitalize()}: turned to {speed} it {words} its limit, {amount(row.limit, row.kind)}."
        if key not in worst or rank < worst[key][0]:
            worst[key] = rank, why
    for key, (rank, why) in worst.items():
        yield ModelWitness(scenario=key, factor=_BY_VERDICT[order[rank]], why=why)
    beyond = found.reached.high > over_rev * 0.99
    words = f"The highest that is known, {speed}, lies {'at or above' if beyond else 'below'} the over-rev that was allowed for, {amount(over_rev, QuantityKind.SPEED)}."
    yield ModelWitness(scenario="over_rev", factor=4.0 if beyond else 0.25, why=words)


def _float(motions: Mapping[Side, MotionReview], speed: float, *, known: bool) -> ModelWitness | None:
    """The chance that the side which floats first had floated at a speed: its onset is taken as normal within its band."""
    onsets = [motion.sustained for motion in motions.values() if motion.sustained is not None]
    if not onsets:
        return None
    least = min(onsets, key=lambda onset: onset.value)
    width = max((least.high - least.low) / 4.0, 1e-6)
    chance = 0.5 * (1.0 + math.erf((speed - least.value) / (width * math.sqrt(2.0))))
    band = f"{amount(least.low, QuantityKind.SPEED)} to {amount(least.high, QuantityKind.SPEED)}"
    turned = "it was turned to" if known else "how far it was turned is not known, it was built for"
    factor = 0.25 + 3.0 * chance if known else 0.5 + 1.5 * chance
    return ModelWitness(scenario="float", factor=factor, why=f"Valves float from {band}; {turned} {amount(speed, QuantityKind.SPEED)}.")


def _bound(checks: Iterable[tuple[CheckSubject, Verdict, str]]) -> Iterable[ModelWitness]:
    """The tightest of the rooms that coils, retainers and seals have at rest."""
    mine = [(verdict, title) for code, verdict, title in checks if code in (GapKind.COIL_BIND, GapKind.RETAINER)]
    if mine:
        order = [Verdict.SHORT, Verdict.SLIM, Verdict.UNPROVEN, Verdict.HOLDS]
        verdict, title = min(mine, key=lambda each: order.index(each[0]))
        words = {Verdict.SHORT: "too little room", Verdict.SLIM: "slim room", Verdict.UNPROVEN: "room not known"}.get(
            verdict, "room in hand, as everywhere"
        )
        yield ModelWitness(scenario="coil_bind", factor=_BIND[verdict], why=f"{title}, at rest: {words}.")


def _wire(strengths: Iterable[tuple[str, Verdict, str]]) -> ModelWitness | None:
    """The spring that is worst off, at the goal's speed over the interval."""
    rows = sorted(strengths, key=lambda row: [Verdict.SHORT, Verdict.SLIM, Verdict.UNPROVEN, Verdict.HOLDS].index(row[1]))
    if not rows:
        return None
    name, verdict, words = rows[0]
    return ModelWitness(scenario="spring", factor=_BY_VERDICT[verdict], why=f"{name}: {words}.")


def _jumps(jumps: Sequence[Jump]) -> Iterable[ModelWitness]:
    for closing, key, factor in ((True, "tight", 2.5), (False, "keeper", 1.8)):
        mine = [each for each in jumps if (each.amount < 0.0) is closing]
        if mine:
            worst = max(mine, key=lambda each: abs(each.amount))
            way = "closed" if closing else "opened"
            words = f"The clearance of {worst.valve} {way} by {amount(abs(worst.amount), LENGTH)} between {worst.start:g} and {worst.end:g} h on the sheets."
            yield ModelWitness(scenario=key, factor=factor, why=words)


def sweep(
    done: CompletedBuild, room: RoomReview, motions: Mapping[Side, MotionReview], rods: str, *, reached: float | None = None,
    checks: Iterable[tuple[CheckSubject, Verdict, str]] = (), strengths: Iterable[tuple[str, Verdict, str]] = (), jumps: Sequence[Jump] = (),
) -> tuple[ModelWitness, ...]:  # fmt: skip
    """What the model and the sheets say of each scenario. `reached` is the highest speed that is known (rev/s); `checks` are code, verdict and title
    of the room at rest, `strengths` spring, verdict and words."""
    found: list[ModelWitness] = []
    if reached is not None:
        try:
            found += _reached(judge_over_rev(done, room, motions, rods, reached_by_log(reached)), reached, done.goal.over_rev)
        except ValveTrainError as error:
            found.append(ModelWitness(scenario="over_rev", factor=1.0, why=error.sentence))
    found += _bound(checks)
    floats = _float(motions, reached or done.goal.goal_rpm, known=reached is not None)
    found += [each for each in (floats, _timing(meetings(room, done)), _wire(strengths)) if each is not None]
    found += _jumps(jumps)
    return tuple(found)
