"""What the valves let pass: curtain, least area and throat over the lift, through the event, and on the flow bench."""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valvetrain.formulas.breathing import CHOKING, mach_index, sound_speed, speed_at_mach_index
from valvetrain.formulas.valve_flow import curtain_area, flow_through, least_area, lift_of_full_throat, throat_area
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure, estimate
from valvetrain.parts.flow import FlowTest
from valvetrain.parts.record import BuildRecord
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.gaps.piston import crank_grid, lift_over
from valvetrain.studies.train.assembly import CompletedBuild, CompletedSide

Array = NDArray[np.float64]

_THROAT = estimate(0.86, 0.05)  # throat over head diameter of stock ports. Source: trade
_ANGLE = math.radians(45.0)
_AIR_DRAWN = 298.15  # K, at the valve. Source: judgement
_AIR, _WARM, _SEA = 287.05, 293.15, 101325.0
# Flow coefficient on the least area over lift / head diameter. Source: judgement, beside published curves (heywood1988); a bench wins
_AT = np.array([0.0, 0.05, 0.1, 0.15, 0.2, 0.25, 0.3, 0.4])
_USUAL = {
    Side.INTAKE: np.array([0.85, 0.84, 0.80, 0.74, 0.69, 0.66, 0.64, 0.62]),
    Side.EXHAUST: np.array([0.85, 0.82, 0.78, 0.74, 0.71, 0.70, 0.70, 0.70]),
}
FLOW_SPREAD = 0.12  # share (k = 2) of an assumed flow coefficient. Source: judgement


@dataclass(frozen=True)
class PortSide:
    """What one valve of a side lets pass: dimensions SI, and its flow bench where there is one. `measured` are flow coefficients on the least area
    by lift over head, from a bench test of this port or of the same one before or after the work."""

    side: Side
    head: Figure
    seat: Figure
    angle: Figure
    throat: Figure
    stem: Figure
    valves: int
    test: FlowTest | None = None
    measured: tuple[tuple[float, ...], tuple[float, ...]] | None = None

    @property
    def known_by(self) -> str:
        """How its flow coefficients are known."""
        return "flow bench" if self.test else "coefficients of the bench" if self.measured else "usual coefficients"

    @property
    def full_at(self) -> float:
        """Lift (m) from which the throat is the narrowest place."""
        return lift_of_full_throat(self.head.value, self.seat.value, self.angle.value, self.throat.value, self.stem.value)

    @property
    def throat_area(self) -> float:
        """Of one valve, m^2."""
        return throat_area(self.throat.value, self.stem.value)

    def area(self, lift: Array) -> Array:
        """Least area of one valve at lifts (m), m^2."""
        return least_area(self.head.value, self.seat.value, self.angle.value, self.throat.value, self.stem.value, np.maximum(lift, 0.0))

    def curtain(self, lift: Array) -> Array:
        """Curtain of one valve, m^2."""
        return curtain_area(self.head.value, lift)


def bench_areas(test: FlowTest) -> Array:
    """Effective area (flow coefficient times area, one valve) at the lifts of a flow test, m^2."""
    mass = np.array(test.flows) * _SEA / (_AIR * _WARM)  # the bench counts air as it is in the room
    one = flow_through(1.0, _SEA, _WARM, _SEA - test.depression, _AIR, 1.4)
    return np.asarray(mass / one / test.valves)


def effective_area(port: PortSide, lift: Array) -> Array:
    """Flow coefficient times area of one side's valves of a cylinder at lifts (m), m^2: of the bench where there is one, else as is usual."""
    if port.test is not None:
        lifts, areas = np.array(port.test.lifts), bench_areas(port.test)
        if lifts[0] > 0.0:
            lifts, areas = np.concatenate([[0.0], lifts]), np.concatenate([[0.0], areas])
        return np.asarray(np.interp(lift, lifts, areas) * port.valves)
    at, shares = (np.array(row) for row in port.measured) if port.measured else (_AT, _USUAL[port.side])
    usual = np.interp(lift / port.head.value, at, shares)
    return np.asarray(usual * port.area(lift) * port.valves)


def port_of(record: BuildRecord, done: CompletedSide, side: Side, role: str = "proposed") -> PortSide:
    """The port of one side of a set-up, what is not known being usual."""
    valve, fit = done.parts[Owner.VALVE], done.fit
    head = valve["head_diameter"]
    throat = fit.get("throat", Figure(head.value * _THROAT.value, head.value * _THROAT.spread, Basis.ESTIMATE))
    state = "stock" if role == "stock" else "now"
    tests = {each: [test for test in record.flows if test.side is side and test.state == each] for each in ("stock", "now")}
    found = PortSide(
        side, head, valve["seat_width"], fit.get("seat_angle", Figure(_ANGLE, 0.01, Basis.ESTIMATE)), throat, valve["stem_diameter"],
        record.kind.valves_per_side, tests[state][-1] if tests[state] else None,
    )  # fmt: skip
    # without a test of its own it flows as the same port was found to flow in its other state: one bench is not held against usual figures
    other = (tests[state] or tests["now" if state == "stock" else "stock"])[-1:]
    return replace(found, measured=_coefficients(found, other[0])) if other else found


def _coefficients(port: PortSide, test: FlowTest) -> tuple[tuple[float, ...], tuple[float, ...]] | None:
    """Flow coefficients on the least area that a test comes to, by lift over head."""
    lifts, areas = np.array(test.lifts), bench_areas(test)
    least = port.area(lifts)
    counts = least > 0.0
    if not counts.any():
        return None
    return tuple((lifts[counts] / port.head.value).tolist()), tuple((areas[counts] / least[counts]).tolist())


def ports_of(record: BuildRecord, done: CompletedBuild, role: str = "proposed") -> dict[Side, PortSide]:
    """Both sides of a set-up."""
    sides = done.proposed_sides if role == "proposed" else done.stock_sides
    return {side: port_of(record, sides[side], side, role) for side in Side}


@dataclass(frozen=True)
class SideAreas:
    """One side of a set-up. `time_area` effective area over the event, m^2 rad of crank, one cylinder; `mean_flow` effective area in the mean over the
    event, over head area; `above` crank rad that the throat is the narrowest place; `lift` full lift at the valve, clearance off, m."""

    port: PortSide
    time_area: float
    mean_flow: float
    above: float
    open_for: float
    lift: float


def side_areas(port: PortSide, train: TrainSide) -> SideAreas:
    """Areas of one side through its event."""
    angle = crank_grid()
    centre = float(angle[int(np.argmax(lift_over(train, angle)))])
    angle = angle + centre  # a whole turn about the event: a wide one reaches past half a turn from TDC
    lift = lift_over(train, angle)
    step = float(angle[1] - angle[0])
    areas = effective_area(port, lift)
    up = lift > 0.0
    heads = port.valves * math.pi / 4.0 * port.head.value**2
    return SideAreas(
        port=port,
        time_area=float(areas.sum()) * step,
        mean_flow=float(areas[up].mean()) / heads if up.any() else 0.0,
        above=float((lift >= port.full_at).sum()) * step,
        open_for=float(up.sum()) * step,
        lift=float(lift.max()),
    )


@dataclass(frozen=True)
class Breathing:
    """Areas of both set-ups and what the intake's means: Mach index at the goal (spread k = 2), and the crank speed (rev/s) at which it is 0.6."""

    stock: dict[Side, SideAreas]
    proposed: dict[Side, SideAreas]
    index: Figure
    chokes_at: float
    stock_index: float


def _index(done: CompletedBuild, areas: SideAreas, speed: float) -> float:
    engine, port = done.engine, areas.port
    piston = 2.0 * engine["stroke"].value * speed
    return mach_index(engine["bore"].value, piston, port.head.value, port.valves, max(areas.mean_flow, 1e-3), sound_speed(_AIR_DRAWN))


def chokes_at(done: CompletedBuild, areas: SideAreas) -> float:
    """Crank speed (rev/s) at which the inlet Mach index of an intake side is 0.6: past it every rev fills worse."""
    engine, port = done.engine, areas.port
    flow = max(areas.mean_flow, 1e-3)
    return speed_at_mach_index(
        engine["bore"].value, engine["stroke"].value, port.head.value, port.valves, flow, sound_speed(_AIR_DRAWN), CHOKING
    )


def breathing(record: BuildRecord, done: CompletedBuild) -> Breathing:
    """What the valves of both set-ups let pass."""
    found = {
        role: {side: side_areas(port, setup.sides[side]) for side, port in ports_of(record, done, role).items()}
        for role, setup in (("stock", done.stock), ("proposed", done.proposed))
    }
    intake = found["proposed"][Side.INTAKE]
    index = _index(done, intake, done.goal.goal_rpm)
    doubt = 0.05 if intake.port.measured else FLOW_SPREAD
    port = intake.port
    doubt = math.hypot(doubt, 2.0 * port.throat.spread / port.throat.value * min(intake.above / max(intake.open_for, 1e-9), 1.0))
    return Breathing(
        found["stock"], found["proposed"], Figure(index, index * doubt, Basis.ESTIMATE), chokes_at(done, intake),
        _index(done, found["stock"][Side.INTAKE], done.goal.goal_rpm),
    )  # fmt: skip
