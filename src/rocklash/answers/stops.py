"""Where to stop the crank to read every valve, from the firing order."""

from rocklash.answers.clearances import ValveStatus
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import positions_of
from rocklash.records.models import Build
from valvetrain.errors import ValveTrainError
from valvetrain.studies.clearance.measuring_plan import USUAL_ORDERS, Firing, MeasuringPlan, plan_stops, read_firing


def firing_text(build: Build) -> str:
    """The firing order as told, or the usual one."""
    return str(build.engine.firing_order or USUAL_ORDERS.get(build.engine.cylinders, ""))


def firing_of(text: str, build: Build) -> Firing:
    """A firing order read for an engine. Raises ContradictionError with a sentence."""
    return read_firing(text, build.engine.cylinders)


def stops_of(answer: BuildResult, build: Build) -> MeasuringPlan | None:
    """The stops of an engine; None when its figures contradict one another or no order is known."""
    if answer.review is None:
        return None
    try:
        firing = firing_of(firing_text(build), build)
        return plan_stops(answer.review.completed.proposed.sides, positions_of(build.engine), firing)
    except ValveTrainError:
        return None


def told_stops(plan: MeasuringPlan) -> list[tuple[str, str, str]]:
    """Each stop of the crank: where, how far it is turned to it (empty for the first), and the valves read there."""
    first = plan.firing.order[0]
    return [
        (
            f"cylinder {stop.cylinder}, TDC of compression"
            if stop.cylinder
            else f"{stop.angle:.0f}° after cylinder {first}'s TDC of compression",
            f"turn on {stop.turn:.0f}°" if stop.turn else "",
            ", ".join(stop.valves),
        )
        for stop in plan.stops
    ]


def unread_at(plan: MeasuringPlan | None, rows: list[ValveStatus], *, recheck: bool) -> int | None:
    """Number of the first stop with a valve that is not read in this round."""
    if plan is None:
        return None
    unread = {row.position.name for row in rows if (row.again if recheck else row.first) is None}
    return next((number for number, stop in enumerate(plan.stops) if unread & set(stop.valves)), None)
