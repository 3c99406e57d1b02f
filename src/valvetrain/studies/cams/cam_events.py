"""What a pair of cams does: events, overlap, area, trapped ratio, acceleration, seating velocity; and how two pairs differ."""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from valvetrain.formulas.cam_curves import seating_velocity
from valvetrain.formulas.slider_crank import trapped_ratio
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import FigureMap
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train import lobe_bands
from valvetrain.studies.train.lobe_bands import peak_acceleration
from valvetrain.studies.train.side_figures import moving_mass
from valvetrain.units import QuantityKind

HEIGHT = 1.0e-3  # m of valve lift, clearance taken off, at which events are told. Source: trade


@dataclass(frozen=True)
class SideEvents:
    """Events of one side at `HEIGHT`, crank radians: `opens` before and `shuts` after the dead centres named in the trade.

    Intake opens before TDC and shuts after BDC; exhaust opens before BDC and shuts after TDC. `spread` (k = 2) is that of
    each event. `lift` is net of clearance, m; `area` is lift over crank angle, m rad, `mean_lift` that over the time off the seat, m;
    `lift_at_tdc` at overlap TDC, m; `acceleration` the largest opening one, m per rad^2 of cam, with the ends of its band and half of it;
    `inertia` N at the goal where the lobe slows the valve most: what the springs must give there; `seating` m/s at the goal, with its band where
    the card leaves it open.
    """

    side: Side
    duration: float
    opens: float
    shuts: float
    spread: float
    centre: float
    lift: float
    lift_spread: float
    area: float
    mean_lift: float
    lift_at_tdc: float
    acceleration: float
    acceleration_spread: float
    inertia: float
    seating: float
    acceleration_ends: tuple[float, float]
    seating_ends: tuple[float, float] | None
    by_card: bool


@dataclass(frozen=True)
class CamPair:
    """Both sides together: overlap in crank radians and as the area both valves share (m rad); trapped ratio at `HEIGHT`."""

    intake: SideEvents
    exhaust: SideEvents
    overlap: float
    overlap_spread: float
    overlap_area: float
    trapped: float
    separation: float


def net_lift(curve: LiftCurve, clearance: float, centre: float, crank: NDArray[np.float64]) -> NDArray[np.float64]:
    """Valve lift (m) over crank angles (rad from overlap TDC) of a lobe whose centre stands at `centre`."""
    return np.maximum(curve.lift_at((crank - centre) / 2.0) - clearance, 0.0)


def centre_of(train: TrainSide) -> float:
    """Where the lobe centre stands, crank rad from overlap TDC: intake after, exhaust before (negative)."""
    return train.lobe_centre.value if train.side is Side.INTAKE else -train.lobe_centre.value


def events_at(train: TrainSide, height: float, *, clearance: float) -> tuple[float, float]:
    """Crank angles (rad from overlap TDC) at which the valve passes a lift (m) with a clearance (m) taken off, opening and shutting.

    Raises ContradictionError where the lobe has no such lift on both flanks.
    """
    opens, shuts = train.curve.flanks(height + clearance)
    centre = centre_of(train)
    return centre + 2.0 * opens, centre + 2.0 * shuts


def side_events(train: TrainSide, goal_speed: float) -> SideEvents:
    """Events of one side; `goal_speed` is the crankshaft's in rev/s."""
    curve, clearance = train.curve, train.clearance.value
    start, end = events_at(train, HEIGHT, clearance=clearance)
    # told from the dead centres: intake before TDC, after BDC; exhaust before BDC, after TDC
    opens, shuts = (-start, end - math.pi) if train.side is Side.INTAKE else (-math.pi - start, end)
    net = np.maximum(curve.lift - clearance, 0.0)
    area = 2.0 * float(np.trapezoid(net, curve.angle))
    off_seat = curve.angle[curve.lift > max(clearance, 2e-6)]
    seat_to = float(off_seat[-1])
    peak, seats = peak_acceleration(train), lobe_bands.seating_velocity(train, goal_speed / 2.0)
    slope = -float(np.interp(seat_to, curve.angle, curve.velocity))
    return SideEvents(
        side=train.side,
        duration=end - start,
        opens=opens,
        shuts=shuts,
        spread=math.hypot(train.duration.spread / 2.0, train.lobe_centre.spread),
        centre=train.lobe_centre.value,
        lift=train.lift.value - clearance,
        lift_spread=math.hypot(train.lift.spread, train.clearance.spread),
        area=area,
        mean_lift=area / (2.0 * (seat_to - float(off_seat[0]))),
        lift_at_tdc=float(net_lift(curve, clearance, centre_of(train), np.array([0.0]))[0]),
        acceleration=peak.value,
        acceleration_spread=(peak.high - peak.low) / 2.0,
        inertia=moving_mass(train).value * (math.pi * goal_speed) ** 2 * -float(curve.acceleration.min()),
        seating=seating_velocity(max(slope, 0.0), goal_speed / 2.0),
        acceleration_ends=(peak.low, peak.high),
        seating_ends=(seats.low, seats.high) if seats else None,
        by_card=not peak.known,
    )


def pair_of(intake: TrainSide, exhaust: TrainSide, engine: FigureMap, goal_speed: float) -> CamPair:
    """Everything of two cams together. `engine` needs compression, stroke and rod_length."""
    first, second = side_events(intake, goal_speed), side_events(exhaust, goal_speed)
    crank = np.linspace(-math.pi, math.pi, 2881)
    lifts = [net_lift(train.curve, train.clearance.value, centre_of(train), crank) for train in (intake, exhaust)]
    closing = min(max(first.shuts, -math.pi / 2.0), math.pi)
    return CamPair(
        intake=first,
        exhaust=second,
        overlap=first.opens + second.shuts,
        overlap_spread=math.hypot(first.spread, second.spread),
        overlap_area=float(np.trapezoid(np.minimum(*lifts), crank)),
        trapped=trapped_ratio(engine["compression"].value, engine["stroke"].value, engine["rod_length"].value, closing),
        separation=(first.centre + second.centre) / 2.0,
    )


@dataclass(frozen=True)
class ClearanceEffect:
    """What one clearance (m) does: crank rad off the seat, and overlap from seat to seat, both valves set alike in the range."""

    clearance: float
    duration: float
    overlap: float


def clearance_effects(intake: TrainSide, exhaust: TrainSide, settings: list[tuple[float, float]], side: Side) -> list[ClearanceEffect]:
    """Duration of `side` and overlap, both from seat to seat, for pairs of clearances (intake, exhaust)."""
    found = []
    for inlet, outlet in settings:
        opens = events_at(intake, max(inlet, 1e-6), clearance=0.0)
        shuts = events_at(exhaust, max(outlet, 1e-6), clearance=0.0)
        own, clearance = (opens, inlet) if side is Side.INTAKE else (shuts, outlet)
        found.append(ClearanceEffect(clearance, own[1] - own[0], shuts[1] - opens[0]))
    return found


class Quantity(StrEnum):
    """What a line of the difference list is about."""

    LIFT = "lift"
    DURATION = "duration"
    OPENS = "opening (IVO, EVO)"
    SHUTS = "closing (IVC, EVC)"
    AREA = "area"
    MEAN_LIFT = "mean lift"
    LIFT_AT_TDC = "lift at overlap TDC"
    CENTRE = "lobe centre"
    INERTIA = "spring force needed"
    ACCELERATION = "largest acceleration"
    SEATING = "seating velocity"
    OVERLAP = "overlap"
    OVERLAP_AREA = "overlap area"
    TRAPPED = "trapped (dynamic) compression ratio"
    SEPARATION = "lobe separation"


@dataclass(frozen=True)
class Difference:
    """One line: stock and proposed, SI of `kind` (areas m rad, accelerations m/rad^2), with the spread of the proposed."""

    what: Quantity
    side: Side | None
    kind: QuantityKind
    stock: float
    proposed: float
    spread: float

    @property
    def change(self) -> float:
        """Proposed minus stock."""
        return self.proposed - self.stock


def differences(stock: CamPair, proposed: CamPair) -> list[Difference]:
    """The difference list of two pairs, intake first, then exhaust, then what both make together."""
    rows = []
    for old, new in ((stock.intake, proposed.intake), (stock.exhaust, proposed.exhaust)):
        lift_share = new.lift_spread / new.lift
        rows += [
            Difference(Quantity.LIFT, new.side, QuantityKind.LENGTH, old.lift, new.lift, new.lift_spread),
            Difference(Quantity.DURATION, new.side, QuantityKind.ANGLE, old.duration, new.duration, 2.0 * new.spread),
            Difference(Quantity.OPENS, new.side, QuantityKind.ANGLE, old.opens, new.opens, new.spread),
            Difference(Quantity.SHUTS, new.side, QuantityKind.ANGLE, old.shuts, new.shuts, new.spread),
            Difference(
                Quantity.AREA,
                new.side,
                QuantityKind.NUMBER,
                old.area,
                new.area,
                new.area * math.hypot(lift_share, 2 * new.spread / new.duration),
            ),
            Difference(Quantity.MEAN_LIFT, new.side, QuantityKind.LENGTH, old.mean_lift, new.mean_lift, 0.0),
            Difference(Quantity.CENTRE, new.side, QuantityKind.ANGLE, old.centre, new.centre, 0.0),
            Difference(Quantity.LIFT_AT_TDC, new.side, QuantityKind.LENGTH, old.lift_at_tdc, new.lift_at_tdc, 0.0),
            Difference(Quantity.ACCELERATION, new.side, QuantityKind.NUMBER, old.acceleration, new.acceleration, new.acceleration_spread),
            Difference(Quantity.INERTIA, new.side, QuantityKind.FORCE, old.inertia, new.inertia, 0.0),
            Difference(Quantity.SEATING, new.side, QuantityKind.VELOCITY, old.seating, new.seating, 0.0),
        ]
    rows += [
        Difference(Quantity.OVERLAP, None, QuantityKind.ANGLE, stock.overlap, proposed.overlap, proposed.overlap_spread),
        Difference(Quantity.OVERLAP_AREA, None, QuantityKind.NUMBER, stock.overlap_area, proposed.overlap_area, 0.0),
        Difference(Quantity.TRAPPED, None, QuantityKind.NUMBER, stock.trapped, proposed.trapped, 0.0),
        Difference(Quantity.SEPARATION, None, QuantityKind.ANGLE, stock.separation, proposed.separation, 0.0),
    ]
    return rows


def _turned(angle: float, later: str, earlier: str) -> str:
    degrees = round(math.degrees(angle))
    return "" if degrees == 0 else f"{abs(degrees)}° {later if degrees > 0 else earlier}"


def trade(stock: CamPair, proposed: CamPair, side: Side = Side.INTAKE) -> str:
    """The trade in one sentence, derived from the events of a side: what opens and shuts when, area, overlap, trapped ratio, where it
    gains and where it gives."""
    new, old = (proposed.intake, stock.intake) if side is Side.INTAKE else (proposed.exhaust, stock.exhaust)
    area = new.area / old.area - 1.0
    opens = _turned(old.opens - new.opens, "later", "earlier")
    shuts = _turned(new.shuts - old.shuts, "later", "earlier")
    moves = [f"opens {opens}" if opens else "", f"closes {shuts}" if shuts else ""]
    if abs(area) >= 0.005:
        moves.append(f"gives {abs(area):.0%} {'more' if area > 0 else 'less'} area".replace("%", " %"))
    moves = [move for move in moves if move]
    if not moves and abs(proposed.overlap - stock.overlap) < math.radians(0.5):
        return "Both pairs of cams do the same."
    first = f"The {side} {', '.join(moves[:-1]) + ' and ' if len(moves) > 1 else ''}{moves[-1]}. " if moves else ""
    overlap = "Overlap " + _from_to(f"{math.degrees(stock.overlap):.0f}°", f"{math.degrees(proposed.overlap):.0f}°")
    ratio = "trapped compression ratio " + _from_to(f"{stock.trapped:.1f}", f"{proposed.trapped:.1f}")
    return f"{first}{overlap}, {ratio}: {_where(stock, proposed)}"


def _from_to(old: str, new: str) -> str:
    return f"stays at {new}" if old == new else f"{old} to {new}"


def _where(stock: CamPair, proposed: CamPair) -> str:
    """Later closing and more area fill at speed and push back low down; earlier closing the other way round."""
    later = math.degrees(proposed.intake.shuts - stock.intake.shuts)
    more = proposed.intake.area / stock.intake.area - 1.0
    if later >= 1.0 and more >= 0.0:
        return "gains at the top end, loses at the bottom."
    if later <= -1.0 and more <= 0.0:
        return "it gains below and gives above."
    if more >= 0.02:
        return "more area at the same closing gains over the whole range, and asks more of the springs."
    return "little is won or lost."
