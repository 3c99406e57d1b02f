"""Common claims of the trade, answered with a figure of the build at hand."""

import math
from dataclasses import dataclass

import numpy as np

from valvetrain.formulas.compression import end_temperature
from valvetrain.formulas.losses import friction_pressure, wall_heat
from valvetrain.formulas.slider_crank import mean_piston_speed, piston_velocity
from valvetrain.parts.engine import Side
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.advice.situation import Findings
from valvetrain.studies.checks.check import CheckCode, Verdict
from valvetrain.studies.gaps.at_speed import usual_piston_mass
from valvetrain.studies.review.build import BuildReview
from valvetrain.studies.springs.force_cost import try_cost
from valvetrain.studies.springs.mass_ledger import saving
from valvetrain.studies.train.side_figures import moving_mass
from valvetrain.units import FORCE, QuantityKind, amount

_PEAK = 65e5  # Pa, greatest pressure at full power without boost. Source: judgement
_COOLER = 80.0  # K that sodium takes off the head of an exhaust valve. Source: trade
_GAS_SPEED = 6.18  # of mean piston speeds while a valve is open (heywood1988)
_HEAT, _AIR = 1005.0, 287.05
_FRICTION_DOUBT = 1.0 / 3.0  # share that either friction may be off


@dataclass(frozen=True)
class Claim:
    """A claim as it is told, the short answer, the figure it rests on, and where that figure comes from."""

    id: str
    said: str
    answer: str
    figure: str
    basis: str


def train_inertia(review: BuildReview) -> float:
    """Moment of inertia at the crank, kg m^2, of all that moves with the valves, in the mean over a cycle (closed form: kinetic energy)."""
    total = 0.0
    for train in review.completed.proposed.sides.values():
        curve = train.curve
        mean_square = float(np.trapezoid(curve.velocity**2, curve.angle)) / (2.0 * math.pi)
        total += moving_mass(train).value * mean_square / 4.0 * len(train.positions)
    return total


def piston_inertia(record: BuildRecord, review: BuildReview) -> tuple[float, bool]:
    """The same of the pistons alone, and whether their mass is told."""
    engine = review.completed.engine
    told = "piston_mass" in record.engine
    mass = engine.get("piston_mass", usual_piston_mass(engine["bore"].value)).value
    angle = np.linspace(0.0, 2.0 * math.pi, 361)
    speed = piston_velocity(engine["stroke"].value, engine["rod_length"].value, 0.0, angle, 1.0) / (2.0 * math.pi)  # m a radian
    return mass * float(np.mean(speed[:-1] ** 2)) * record.kind.cylinders, told


def _snappier(record: BuildRecord, review: BuildReview) -> Claim:
    trains, (pistons, told) = train_inertia(review), piston_inertia(record, review)
    side = review.completed.proposed.sides[Side.INTAKE]
    gram = saving(review.completed.stock.sides[Side.INTAKE], side).per_gram
    share = trains / pistons
    return Claim(
        "lighter-snappier",
        "Lighter valve parts make the throttle snappier.",
        "No: nobody can feel it. They buy engine speed.",
        f"All that moves with the valves takes {share:.1%} of what the pistons alone take to spin up; a tenth off it is {share / 10.0:.2%}. The same grams buy "
        f"{amount(gram, QuantityKind.SPEED)} of float for each gram off an intake valve.",
        "kinetic energy over a cycle" + ("" if told else "; the pistons' mass is a guess from the bore"),
    )  # fmt: skip


def _misfire(review: BuildReview) -> Claim:
    checks = [check for check in review.proposed.checks if check.code in (CheckCode.FLOAT, CheckCode.SEAT)]
    floats = [check for check in checks if check.code is CheckCode.FLOAT]
    seats = [check for check in checks if check.code is CheckCode.SEAT]
    weak = [check for check in checks if check.verdict is not Verdict.HOLDS]
    least, seat = min(floats, key=lambda check: check.figure), min(seats, key=lambda check: check.margin)
    figures = f"Float, simple sum, {amount(least.figure, QuantityKind.SPEED)} ({least.about}); seat force in hand {amount(seat.margin, FORCE)} ({seat.about})."
    answer = (
        "Here they may: what the springs hold is not proven or short."
        if weak
        else "Only where a valve floats or is pushed off its seat, and here neither happens: plug, mixture, coil and limiter first."
    )
    return Claim("springs-for-misfire", "New springs cure a misfire at high rpm.", answer, figures, "the checks of this build")


def _friction(record: BuildRecord, review: BuildReview, found: Findings) -> Claim:
    done = review.completed
    goal, engine = done.goal.goal_rpm, done.engine
    swept = math.pi / 4.0 * engine["bore"].value ** 2 * engine["stroke"].value * record.kind.cylinders
    shares = []
    for speed, pressure in ((goal, _PEAK * max(found.fuel.pressure_ratio, 1.0)), (max(engine["idle"].value, 10.0), 0.2 * _PEAK)):
        costs = [try_cost(train, speed, record.kind.valves_per_side, record.kind.cylinders) for train in done.proposed.sides.values()]
        if any(cost is None for cost in costs):
            return Claim(
                "most-friction", "Most of an engine's friction is the valve train.", "Not to be said here: the lobe does not fit its follower.", "",
                "the checks of this build",
            )  # fmt: skip
        train = sum(cost.power for cost in costs if cost)
        whole = friction_pressure(pressure, mean_piston_speed(engine["stroke"].value, speed)) * swept * speed / 2.0
        shares.append((train, train / whole))
    (power, high), (_, low) = shares
    band = lambda share: f"{share * (1 - _FRICTION_DOUBT):.0%} to {min(share * (1 + _FRICTION_DOUBT) / (1 - _FRICTION_DOUBT), 1.0):.0%}"
    return Claim(
        "most-friction",
        "Most of an engine's friction is the valve train; 60 % was said.",
        ("Not at speed; at idle it can come near." if low > 0.3 else "No, neither at speed nor at idle.")
        if high < 0.4
        else "Here it comes near.",
        f"Cams and followers take {amount(power, QuantityKind.POWER)} at the goal: {band(high)} of the engine's whole friction there, and {band(low)} at idle.",
        "friction at each contact (Springs & masses, Force) against a published sum for the whole engine, each a third off either way",
    )


def cooler_valve(review: BuildReview, found: Findings) -> tuple[float, float]:
    """How much cooler (K) the charge gets, and how much cooler it ends its compression, from an exhaust valve's head that is 80 K cooler: heat between
    head and charge over intake and compression (heywood1988)."""
    done = review.completed
    engine, goal, fuel = done.engine, done.goal, found.fuel
    bore, stroke = engine["bore"].value, engine["stroke"].value
    port = found.breath.proposed[Side.EXHAUST].port
    pressure = 101325.0 * fuel.pressure_ratio
    wall = wall_heat(bore, pressure, fuel.charge.value, _GAS_SPEED * mean_piston_speed(stroke, goal.goal_rpm))
    area = port.valves * math.pi / 4.0 * port.head.value**2
    charge = pressure * math.pi / 4.0 * bore**2 * stroke / (_AIR * fuel.charge.value)
    cooled = wall * area * _COOLER / goal.goal_rpm / (charge * _HEAT)
    ends = [end_temperature(fuel.charge.value - less, fuel.built.value, 1.33) for less in (0.0, cooled)]
    return cooled, ends[0] - ends[1]


def _knock(review: BuildReview, found: Findings) -> Claim:
    cooled, end = cooler_valve(review, found)
    return Claim(
        "cooler-valve-knock",
        "A cooler exhaust valve gives room against knock.",
        "A little by heat; more where the head itself lights the charge, which no mean figure shows.",
        f"A head 80 K cooler, as sodium makes it, leaves the charge about {cooled:.1f} K cooler and its end {end:.1f} K. A charge cooler that takes off ten times "
        "that is worth ten times as much.",
        "heat between head and charge, published correlation, a quarter off; hot spots are not in it",
    )


def claims_of(record: BuildRecord, review: BuildReview, found: Findings) -> tuple[Claim, ...]:
    """The claims, answered for this build."""
    return (_snappier(record, review), _misfire(review), _friction(record, review, found), _knock(review, found))
