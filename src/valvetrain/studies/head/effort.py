"""From goal to effort: what each step of work is good for, so that no more is done than the goal asks."""

from dataclasses import dataclass, replace

from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.checks.check import CheckCode
from valvetrain.studies.head.areas import Breathing, PortSide, chokes_at, side_areas
from valvetrain.studies.review.build import BuildReview

_THROAT = 0.89  # throat over head diameter after blending: beyond it the seat has nothing to stand on. Source: trade
_LARGER = 1.0e-3  # m, what a seat ring usually bears. Source: judgement


@dataclass(frozen=True)
class Rung:
    """One step: `to` crank rev/s that it is good for (None where it has no such figure), `enough` for the goal, `spread` of it (k = 2), what it costs
    elsewhere."""

    key: str
    name: str
    about: str
    to: float
    spread: float
    enough: bool
    costs: str


def _wider(port: PortSide, *, throat: float, head: float = 0.0) -> PortSide:
    grown = Figure(port.head.value + head, port.head.spread, port.head.basis)
    wide = max(port.throat.value, throat * grown.value)
    return replace(port, head=grown, throat=Figure(wide, port.throat.spread, Basis.ESTIMATE), test=None)


def effort(record: BuildRecord, review: BuildReview, breath: Breathing) -> tuple[Rung, ...]:
    """The steps, breathing and following apart, each with what it is good for."""
    done = review.completed
    goal, doubt = done.goal.goal_rpm, breath.index.spread / breath.index.value
    intake, old = breath.proposed[Side.INTAKE], breath.stock[Side.INTAKE]

    def breathes(key: str, name: str, to: float, costs: str) -> Rung:
        return Rung(key, name, "breathes", to, to * doubt, to >= goal, costs)

    train, stock = done.proposed.sides[Side.INTAKE], done.stock.sides[Side.INTAKE]
    blended = side_areas(_wider(old.port, throat=_THROAT), stock)
    rungs = [
        breathes(
            "job", "Stock ports and cams, a fresh three-angle valve job", chokes_at(done, old), "nothing; it is where every job begins"
        ),
        breathes(
            "blend",
            "The same, throat blended and valves back-cut",
            chokes_at(done, blended),
            "a little pull low down; too large a throat cannot be filled in again",
        ),
    ]
    if train.curve is not stock.curve or intake.port != old.port:
        rungs.append(breathes("cam", "Cams and valves as proposed", chokes_at(done, intake), "what the cams give up low down: see Cams"))
    larger = side_areas(_wider(intake.port, throat=_THROAT, head=_LARGER), train)
    if "phaser_intake_advance" not in record.engine and "phaser_intake_retard" not in record.engine:
        rungs.append(
            breathes(
                "valves",
                "Intake valves a millimetre larger, throat to match",
                chokes_at(done, larger),
                "seat rings, pockets and room between the valves; bottom end",
            )
        )
    for found, key, words, costs in (
        (review.stock, "springs_stock", "Stock springs and masses, fresh", "nothing"),
        (
            review.proposed,
            "springs",
            "Springs and masses as proposed",
            "friction, heat and wear of cam and followers: Springs & masses, Force",
        ),
    ):
        checks = [check for check in found.checks if check.code is CheckCode.FLOAT]
        least = min(checks, key=lambda check: check.figure - check.limit)
        rungs.append(Rung(key, words, "follows", least.figure, least.spread, least.figure >= least.limit, costs))
    rungs.append(
        Rung(
            "bottom",
            "Stock crank, rods and pistons",
            "bears",
            review.piston_limit,
            0.0,
            review.piston_limit >= goal,
            "rods, pistons, bearings and flywheel, rated for it",
        )
    )
    return tuple(rungs)


def enough(rungs: tuple[Rung, ...], about: str) -> Rung | None:
    """The first step of a kind that is enough."""
    return next((rung for rung in rungs if rung.about == about and rung.enough), None)
