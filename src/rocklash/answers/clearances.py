"""Clearances of a build: limits, readings as intervals, and what each valve needs."""

import math
from dataclasses import dataclass

from django.utils.timezone import localtime

from rocklash.answers.hands import pairs_of
from rocklash.answers.own_priors import own_blade
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import changes_of, kind_of
from rocklash.answers.stale import Stale
from rocklash.records.models import Build, ClearanceSession, Pins, Position, Reading, Workshop
from valvetrain.errors import OutOfRangeError
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import SHIMMED, Adjuster, Side
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.parts.record import PartRecord
from valvetrain.parts.stale import Subject
from valvetrain.quantities import plain
from valvetrain.studies.clearance.shim_plan import (
    BLADE_FEEL,
    Aim,
    ClearanceInterval,
    ClearanceLimits,
    State,
    ValvePlan,
    plan_valve,
    same_as_before,
    state_of,
)
from valvetrain.studies.clearance.swap_plan import MICROMETER
from valvetrain.studies.proof.own_hand import learn
from valvetrain.studies.train.estimates import card_differs, clearance_range, complete_engine
from valvetrain.units import LENGTH, QuantityKind, UnitSystem, quantity, told
from valvetrain.wording.clearances import card_against_manual


@dataclass(frozen=True)
class ValveStatus:
    """One valve in a session: first reading, plan, re-check, and what it will be or is."""

    position: Position
    limits: ClearanceLimits
    aim: float
    ratio: float
    first: Reading | None
    again: Reading | None
    found: ClearanceInterval | None
    found_again: ClearanceInterval | None
    plan: ValvePlan | None
    as_predicted: bool | None
    expected: tuple[float, float] | None = None

    @property
    def state(self) -> str:
        """State of the reading that counts in this round."""
        found = self.found_again or self.found
        return "unread" if found is None else state_of(found, self.limits).value


def limits_known(build: Build) -> bool:
    """Whether the clearance limits came from a manual or a person, not from an estimate."""
    keys = [f"clearance_{side}_{end}" for side in ("intake", "exhaust") for end in ("least", "most")]
    return all(key in build.engine.figures and build.engine.figures[key]["basis"] != Basis.ESTIMATE for key in keys)


def clearance_keys(adjuster: str, follower: str) -> list[str]:
    """Clearance figures that matter for what sets the clearance."""
    if adjuster == Adjuster.HYDRAULIC:
        return ["hydraulic_limit", "hydraulic_preload"]
    keys = [f"clearance_{side}_{end}" for side in ("intake", "exhaust") for end in ("least", "most")]
    if adjuster in SHIMMED:
        keys += ["shim_step", "shim_thinnest", "shim_thickest", "shim_price"]
    if adjuster == Adjuster.SCREW:
        keys += ["screw_pitch", "screw_ratio"]
    if follower in {"finger", "rocker"}:
        keys.append("rocker_ratio")
    return keys


def engine_figures(build: Build, answer: BuildResult) -> FigureMap:
    """Engine figures with gaps filled, also when the build's other figures contradict one another."""
    return (
        answer.review.completed.engine if answer.review else complete_engine(kind_of(build.engine), answer.record.engine, answer.record.own)
    )


def counting_figures(build: Build, answer: BuildResult) -> FigureMap:
    """The same with the clearances that count: the manual's, or those of the proposed cams' cards where that is said."""
    figures: FigureMap = engine_figures(build, answer)
    found: dict[str, Figure] = {}
    for side in Side:
        ends = clearance_range(side, figures, _card(answer, side), answer.record.facts)
        found |= {f"clearance_{side}_{name}": figure for name, figure in zip(("least", "most"), ends, strict=True)}
    return {**figures, **found}


def _card(answer: BuildResult, side: Side) -> FigureMap:
    return answer.record.proposed[side].parts.get(Owner.CAM, PartRecord()).figures


@dataclass(frozen=True)
class CardClearance:
    """A cam card that names another clearance than the manual allows, m; `counts` is what was said of it: manual, card or nothing yet."""

    side: str
    card: float
    least: float
    most: float
    counts: str


def card_clearances(build: Build, answer: BuildResult) -> list[CardClearance]:
    """The proposed cams whose cards differ from the manual."""
    figures, facts = engine_figures(build, answer), answer.record.facts
    return [
        CardClearance(
            side=side.value,
            card=_card(answer, side)["card_clearance"].value,
            least=figures[f"clearance_{side}_least"].value,
            most=figures[f"clearance_{side}_most"].value,
            counts=facts.get(f"clearance_from_{side}", ""),
        )
        for side in Side
        if card_differs(side, figures, _card(answer, side))
    ]


def card_notes(build: Build, answer: BuildResult, system: UnitSystem) -> list[str]:
    """The same as sentences."""
    return [
        told(card_against_manual(each.side, each.card, each.least, each.most, each.counts), system)
        for each in card_clearances(build, answer)
    ]


def stale_sheet(build: Build, session: ClearanceSession | None) -> dict[str, Stale]:
    """Sides on which what the sheet holds no longer counts, or wants another look, with the reason."""
    if session is None:
        return {}
    changes, found = changes_of(build), {}
    sides = {place.pk: place.side for place in build.engine.positions.all()}
    for side in Side:
        moments = [reading.at for reading in session.readings.all() if sides.get(reading.position_id) == side]
        stale = changes.since(max(moments), side.value, Subject.CLEARANCE) if moments else None
        if stale:
            found[side.value] = stale
    return found


def stale_words(build: Build, session: ClearanceSession | None) -> list[str]:
    """The same as sentences."""
    signed = bool(session and session.signed_at)
    return [
        f"{side.capitalize()}: {each.reason}. What was read before {'is void: read that side again' if each.void else 'should be read again'}"
        f"{', and the signature no longer stands for it' if each.void and signed else ''}."
        for side, each in stale_sheet(build, session).items()
    ]


def limits_of(figures: FigureMap, side: str) -> ClearanceLimits:
    """Clearance limits and sizes on sale for one side."""
    return ClearanceLimits(
        least=figures[f"clearance_{side}_least"].value,
        most=figures[f"clearance_{side}_most"].value,
        step=figures["shim_step"].value,
        thinnest=figures["shim_thinnest"].value,
        thickest=figures["shim_thickest"].value,
    )


def feel_of(session: ClearanceSession | None) -> float:
    """What one blade by feel leaves open on a sheet, m: the hand's own where it was known when the sheet began, else the trade's."""
    return session.feel if session and session.feel else BLADE_FEEL


def feel_words(session: ClearanceSession | None, system: UnitSystem) -> str:
    """The same in words; what promises and re-checks told says so."""
    if session is None or not session.feel:
        return quantity(BLADE_FEEL, QuantityKind.LENGTH, system)
    finer = 3 if system is UnitSystem.METRIC else 5
    return f"{quantity(session.feel, QuantityKind.LENGTH, system, finer)}, as re-checks tell"


def own_feel(workshop: Workshop, by: int | None) -> float | None:
    """A hand's own, from its promises and re-checks on signed sheets; until there are enough, that of the workshop's other hands where it is known;
    None for the trade's."""
    hand = learn(pairs_of(workshop, by))
    return hand.half if hand.used else own_blade(workshop)


def found_of(reading: Reading, method: str, feel: float = BLADE_FEEL) -> ClearanceInterval:
    """The interval of a reading: between the blades, or the blade that drags give or take the feel."""
    if method == "blade":  # `stops` lies half the range above the mean where several blades were read
        half = max(feel, reading.stops - reading.goes)
        return ClearanceInterval(max(reading.goes - half, 0.0), reading.goes + half, reading.shim)
    return ClearanceInterval(reading.goes, reading.stops, reading.shim)


def statuses(build: Build, session: ClearanceSession | None, answer: BuildResult) -> list[ValveStatus]:
    """Every valve of the build, exhaust first, in the order of its places."""
    kind, figures = kind_of(build.engine), counting_figures(build, answer)
    readings = {(reading.position_id, reading.recheck): reading for reading in session.readings.all()} if session else {}
    method, feel = session.method if session else "go_no_go", feel_of(session)
    ratio = _ratio(figures, kind.follower, kind.adjuster)
    result = []
    for position in sorted(build.engine.positions.all(), key=lambda row: (row.side != "exhaust", row.place)):
        limits = limits_of(figures, position.side)
        aim = aim_of(session, position.side, limits)
        first, again = readings.get((position.pk, False)), readings.get((position.pk, True))
        found = found_of(first, method, feel) if first else None
        found_again = found_of(again, method, feel) if again else None
        plan = _plan(found_again or found, limits, kind.adjuster, aim, ratio, figures["screw_pitch"].value)
        first_plan = _plan(found, limits, kind.adjuster, aim, ratio, figures["screw_pitch"].value) if found_again else plan
        predicted = None
        expected = _expected(session, position.pk, first, again, found, ratio, first_plan)
        if found_again and expected:
            predicted = same_as_before(expected, found_again)
        result.append(
            ValveStatus(
                position=position,
                limits=limits,
                aim=aim,
                ratio=ratio,
                first=first,
                again=again,
                found=found,
                found_again=found_again,
                plan=plan,
                as_predicted=predicted,
                expected=expected,
            )
        )
    return result


def _ratio(figures: FigureMap, follower: str, adjuster: str) -> float:
    """Valve motion over motion where the blade is (shims), or where the screw is."""
    if adjuster == Adjuster.SCREW:
        return figures["screw_ratio"].value
    return figures["rocker_ratio"].value if follower in {"finger", "rocker"} and adjuster in SHIMMED else 1.0


def aim_of(session: ClearanceSession | None, side: str, limits: ClearanceLimits) -> float:
    """Clearance aimed at on one side, m: an own one, else the place in the range."""
    if session is None:
        return limits.aim(Aim.MIDDLE)
    own = session.aims.get(side)
    return float(own) if own is not None else limits.aim(Aim(session.aim))


def _expected(
    session: ClearanceSession | None, position: int, first: Reading | None, again: Reading | None, found: ClearanceInterval | None, ratio: float,
    plan: ValvePlan | None,
) -> tuple[float, float] | None:  # fmt: skip
    """What the re-check should find, m: from the shim that really went in; else what the sheet's plan or the valve's own says."""
    if found and first and again and first.shim and again.shim:
        change = (first.shim - again.shim) / ratio
        doubt = 0.0 if abs(change) < 1e-9 else 2.0 * math.sqrt(2.0) * MICROMETER / ratio  # both shims were read
        return found.low + change - doubt, found.high + change + doubt
    kept = session.planned.get(position) if session else None
    if kept:
        return kept.low, kept.high
    if plan and plan.low_after is not None and plan.high_after is not None:
        return plan.low_after, plan.high_after
    return None


def _plan(
    found: ClearanceInterval | None, limits: ClearanceLimits, adjuster: str, aim: float, ratio: float, pitch: float
) -> ValvePlan | None:
    if found is None:
        return None
    try:
        return plan_valve(found, limits, adjuster, aim, ratio, pitch)  # type: ignore[arg-type]
    except OutOfRangeError:
        return None


def next_unread(rows: list[ValveStatus], after: int | None, *, recheck: bool) -> int | None:
    """The next valve without a reading in this round, going round from the one just read."""
    open_rows = [(row.again if recheck else row.first) is None for row in rows]
    if not any(open_rows):
        return None
    start = next((n for n, row in enumerate(rows) if row.position.pk == after), -1) + 1
    order = [*range(start, len(rows)), *range(start)]
    return int(next(rows[n].position.pk for n in order if open_rows[n]))


def unsettled(rows: list[ValveStatus]) -> list[str]:
    """Names of valves that keep the sheet from being signed: not re-checked, or not surely in range."""
    return [row.position.name for row in rows if row.found_again is None or state_of(row.found_again, row.limits) is not State.IN_RANGE]


def takes_shims(build: Build) -> bool:
    """Whether a shim is asked for beside the reading."""
    return build.engine.adjuster in SHIMMED


def pins_told(pins: Pins) -> str:
    """Pins of a valve in one line, the same whatever their order."""
    told = (["stays"] if pins.stays else []) + ([f"only {pins.only}"] if pins.only else [])
    return "; ".join([*told, *sorted(f"never {key}" for key in pins.never)])


def told_of_sheet(session: ClearanceSession | None, system: UnitSystem) -> dict[str, str]:
    """How a sheet is read, as its form shows it: what was shown is what a change is held against."""
    if session is None:
        return {"method": "go_no_go", "aim": "middle", "hours": "", "temperature": "", "reason": ""}
    return {
        "method": session.method, "aim": session.aim, "hours": f"{session.hours:g}" if session.hours is not None else "",
        "temperature": plain(session.temperature, QuantityKind.TEMPERATURE, system) if session.temperature is not None else "", "reason": session.reason,
    } | {f"own_{side}": plain(value, LENGTH, system) for side, value in session.aims.items()}  # fmt: skip


def lash_state(session: ClearanceSession | None, valves: int) -> tuple[str, str]:
    """How far the clearances are, in a mark and words."""
    if session is None:
        return "none", "not begun"
    if session.signed_at:
        return "done", f"signed {localtime(session.signed_at):%d %b}"
    readings = session.readings.all()
    count = sum(reading.recheck == session.rechecking for reading in readings)
    return "work", f"{count} of {valves} {'re-checked' if session.rechecking else 'read'}"
