"""Clearances of a build: limits, readings as intervals, and what each valve needs."""

from dataclasses import dataclass

from rocklash.bridge.results import Answer
from rocklash.bridge.rows import kind_of
from rocklash.records.models import Build, ClearanceSession, Position, Reading
from valvetrain.errors import OutOfRangeError
from valvetrain.parts.engine import SHIMMED
from valvetrain.parts.figure import Basis, FigureMap
from valvetrain.studies.estimates import complete_engine
from valvetrain.studies.shim_plan import Aim, Found, Range, State, ValvePlan, plan_valve, same_as_before, state_of

# A blade that just drags is within a hundredth of the gap for a practised hand. Source: judgement.
BLADE_FEEL = 0.010e-3


@dataclass(frozen=True)
class ValveStatus:
    """One valve in a session: first reading, plan, re-check, and what it will be or is."""

    position: Position
    limits: Range
    aim: float
    ratio: float
    first: Reading | None
    again: Reading | None
    found: Found | None
    found_again: Found | None
    plan: ValvePlan | None
    as_predicted: bool | None

    @property
    def state(self) -> str:
        """State of the reading that counts in this round."""
        found = self.found_again or self.found
        return "unread" if found is None else state_of(found, self.limits).value


def limits_known(build: Build) -> bool:
    """Whether the clearance limits came from a manual or a person, not from an estimate."""
    keys = [f"clearance_{side}_{end}" for side in ("intake", "exhaust") for end in ("least", "most")]
    return all(key in build.engine.figures and build.engine.figures[key]["basis"] != Basis.ESTIMATE for key in keys)


def engine_figures(build: Build, answer: Answer) -> FigureMap:
    """Engine figures with gaps filled, also when the build's other figures contradict one another."""
    return answer.review.completed.engine if answer.review else complete_engine(kind_of(build.engine), answer.record.engine)


def limits_of(figures: FigureMap, side: str) -> Range:
    """Clearance limits and sizes on sale for one side."""
    return Range(
        least=figures[f"clearance_{side}_least"].value,
        most=figures[f"clearance_{side}_most"].value,
        step=figures["shim_step"].value,
        thinnest=figures["shim_thinnest"].value,
        thickest=figures["shim_thickest"].value,
    )


def found_of(reading: Reading, method: str) -> Found:
    """The interval of a reading: between the blades, or the blade that drags give or take the feel."""
    if method == "blade":
        return Found(max(reading.goes - BLADE_FEEL, 0.0), reading.goes + BLADE_FEEL, reading.shim)
    return Found(reading.goes, reading.stops, reading.shim)


def statuses(build: Build, session: ClearanceSession | None, answer: Answer) -> list[ValveStatus]:
    """Every valve of the build, exhaust first, in the order of its places."""
    kind, figures = kind_of(build.engine), engine_figures(build, answer)
    readings = {(reading.position_id, reading.recheck): reading for reading in session.readings.all()} if session else {}
    method, aim = (session.method, Aim(session.aim)) if session else ("go_no_go", Aim.MIDDLE)
    ratio = figures["rocker_ratio"].value if kind.follower in {"finger", "rocker"} and kind.adjuster in SHIMMED else 1.0
    result = []
    for position in sorted(build.engine.positions.all(), key=lambda row: (row.side != "exhaust", row.place)):
        limits = limits_of(figures, position.side)
        first, again = readings.get((position.pk, False)), readings.get((position.pk, True))
        found = found_of(first, method) if first else None
        found_again = found_of(again, method) if again else None
        plan = _plan(found_again or found, limits, kind.adjuster, aim, ratio, figures["screw_pitch"].value)
        first_plan = _plan(found, limits, kind.adjuster, aim, ratio, figures["screw_pitch"].value) if found_again else plan
        predicted = None
        if found_again and first_plan and first_plan.low_after is not None and first_plan.high_after is not None:
            predicted = same_as_before((first_plan.low_after, first_plan.high_after), found_again)
        result.append(ValveStatus(position, limits, limits.aim(aim), ratio, first, again, found, found_again, plan, predicted))
    return result


def _plan(found: Found | None, limits: Range, adjuster: str, aim: Aim, ratio: float, pitch: float) -> ValvePlan | None:
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
