"""Does a set-up hold its goal? A list of checks, each with figure, limit, margin, spread, basis, verdict, why and remedies."""

import math
from dataclasses import replace

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.slider_crank import mean_piston_speed, speed_at_piston_speed
from valvetrain.parts.engine import Side, ValvePosition
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.setup import Goal, LowProfile, Setup, TrainSide
from valvetrain.studies.checks.check import GUESSED, Check, CheckCode, CheckSubject, Verdict
from valvetrain.studies.train import side_figures as figures_of
from valvetrain.studies.train.float_rows import float_speed
from valvetrain.studies.train.lobe_bands import WHEEL_FLOAT
from valvetrain.studies.train.uncertainty import Propagated
from valvetrain.units import QuantityKind


def is_guess(check: Check) -> bool:
    """Whether the figure is a guess that stands for a gap nobody measured."""
    return check.code in GUESSED and check.basis == "estimates"


SAME_SPRING = "same spring as stock"


def judge(margin: float, spread: float, *, on_estimates: bool) -> Verdict:
    """Verdict from margin, spread (k = 2) and whether more than half of the variance is estimated.

    Beyond its spread a margin speaks for itself. Within it: unproven when estimates decide, otherwise slim, or short
    below zero.
    """
    if margin > spread or (spread == 0.0 and margin > -1e-9):  # exactly known and not short, but for binary rounding
        return Verdict.HOLDS
    if margin < -spread:
        return Verdict.SHORT
    if on_estimates:
        return Verdict.UNPROVEN
    return Verdict.SLIM if margin >= 0.0 else Verdict.SHORT


def _basis(found: Propagated) -> str:
    if not found.shares and not found.spread:
        return "typed figures"
    if found.estimated > 0.9:
        return "estimates"
    if found.estimated > 0.5:
        return "mostly estimates"
    return "maker's data and measurements" if found.estimated < 0.1 else "maker's data, measurements, some estimates"


def parts_of(found: Propagated) -> tuple[float, ...]:
    """Half widths (m) of what a gap's spread is made of, widest first; empty where it is exact."""
    return tuple(found.spread * math.sqrt(share) for _, share in found.shares[:10]) if found.spread else ()


def _check(
    code: CheckSubject, about: str, side: TrainSide | None, place: ValvePosition | None, kind: QuantityKind, found: Propagated, limit: float,
    why: str, origin: str, figure: float | None = None, *, at_least: bool = True,
) -> Check:  # fmt: skip
    """`found` is the figure, or with `figure` given already the margin."""
    value = found.value if figure is None else figure
    margin = found.value if figure is not None else (value - limit if at_least else limit - value)
    spread = found.spread
    if found.low is not None and found.high is not None:
        spread = value - found.low if (margin >= 0.0) is at_least else found.high - value
    return Check(
        code=code,
        about=about,
        side=side.side if side else None,
        worst=place.name if place else "",
        kind=kind,
        figure=value,
        limit=limit,
        at_least=at_least,
        margin=margin,
        spread=spread,
        basis=_basis(found),
        dominant=found.shares[:4],
        verdict=judge(margin, spread, on_estimates=found.rests_on_estimates),
        why=why,
        limit_origin=origin,
        low=found.low,
        high=found.high,
        parts=parts_of(found) if kind is QuantityKind.LENGTH else (),
    )


def float_limit(goal: Goal) -> float:
    """Crank speed (rev/s) at which a rigid train must still hold: the over-rev, or the goal with its reserve."""
    return max(goal.over_rev, goal.goal_rpm * (1.0 + goal.reserve))


def check_float(side: TrainSide, goal: Goal) -> Check:
    """Rigid separation speed of the weakest valve against over-rev and goal with reserve."""
    place = figures_of.weakest(side)
    found = float_speed(side, place)
    angle = figures_of.float_angle(side, place) * 57.29577951308232
    where = "over the nose" if angle < 4.0 else f"{angle:.0f}° of cam beside the nose, where the spring is less compressed"
    reserve = goal.goal_rpm * (1.0 + goal.reserve)
    origin = f"goal and {goal.reserve:.0%} for vibration" if reserve >= goal.over_rev else "the over-rev it must survive"
    why = f"Above this speed the springs cannot keep the valve on the lobe of a rigid train; it lets go first {where}."
    if side.cam.lobes is not None and found.low is not None:
        smooth, cornered = (share * found.value * 60.0 for share in WHEEL_FLOAT)
        why += (
            f" Its lobe is known by the card alone: lobes of many laws meet it. A degree wheel settles it to ±{smooth:,.0f} to "
            f"±{cornered:,.0f} rpm."
        )
    return _check(
        CheckCode.FLOAT, side.side.value, side, place, QuantityKind.SPEED, found, float_limit(goal), why + _limiter_words(side), origin
    )


def _limiter_words(side: TrainSide) -> str:
    """What is made of the stock engine's own limiter."""
    joint = side.joint
    if joint is None or joint.told is None:
        return ""
    if joint.limiter is None:
        return " By these figures the stock engine would not hold its own limiter: look for the figure that is wrong; nothing was learnt from that."
    return (
        f" It is taken that the stock engine runs to its limiter of {joint.limiter * 60.0:,.0f} rpm without giving up: what contradicts that "
        "counts little. The Engine page can switch that off for this side."
    )


def check_low_float(low: LowProfile, goal: Goal) -> Check:
    """The low lobe of a two-profile side, judged at the change-over with the goal's reserve; over-rev is the high lobe's business."""
    speed = low.switch_speed.value
    check = check_float(low.train, replace(goal, goal_rpm=speed, over_rev=speed))
    why = "On its low lobe, with that follower's mass, the valve must follow up to the change-over; the high lobe takes over from there."
    return replace(check, code=CheckCode.LOW_FLOAT, why=why, limit_origin=f"change-over and {goal.reserve:.0%} for vibration")


def check_seat(side: TrainSide, goal: Goal) -> Check:
    """Seat load of the weakest valve against gas and the force that must be kept."""
    place = figures_of.weakest(side)
    demand = figures_of.seat_demand(side, goal)
    why = f"Shut, the springs must give what keeps the valve on its seat and what the gas takes away ({demand.decides})."
    found = figures_of.seat_margin(side, place, goal, demand)
    has = found.value + demand.needed.value
    kept = "stock seat load" if side.side in goal.seat_reference else "force typed on the Goal station"
    origin = f"{kept} and gas load"
    check = _check(CheckCode.SEAT, side.side.value, side, place, QuantityKind.FORCE, found, demand.needed.value, why, origin, has)
    if side.springs == goal.seat_reference.get(side.side) and demand.gas <= 0.0:
        # compared with themselves they hold as they held; how sure their force is stands beside it all the same
        own = figures_of.seat_load(side, place)
        check = replace(check, basis=SAME_SPRING, spread=own.spread, verdict=Verdict.HOLDS if found.value > -1e-6 else check.verdict)
    return replace(check, made_of=((kept, demand.needed.value - demand.gas), ("gas load of the goal", demand.gas)))


def check_coil_bind(side: TrainSide, goal: Goal) -> list[Check]:
    """Travel left before each spring is solid, on the valve that stands lowest."""
    place, checks = figures_of.tightest(side), []
    for number in range(len(side.springs)):
        which = "" if len(side.springs) == 1 else (" outer" if number == 0 else " inner")
        why = "At full lift this much travel is left before the coils touch; a spring that binds breaks or bends the train."
        found = figures_of.coil_bind(side, place, number)
        origin = goal.origin.get("coil_bind_limit", "common practice")
        checks.append(
            _check(
                GapKind.COIL_BIND, f"{side.side.value}{which}", side, place, QuantityKind.LENGTH, found, goal.coil_bind_limit, why, origin
            )
        )
    return checks


def check_retainer(side: TrainSide, goal: Goal) -> Check:
    """Retainer to seal at full lift, on the valve that stands lowest."""
    place = figures_of.lowest_retainer(side)
    found = figures_of.retainer_gap(side, place)
    why = "At full lift the retainer must stay clear of the stem seal, or it drives the seal off its guide."
    origin = goal.origin.get("retainer_limit", "common practice")
    return _check(GapKind.RETAINER, side.side.value, side, place, QuantityKind.LENGTH, found, goal.retainer_limit, why, origin)


def check_piston(setup: Setup, goal: Goal) -> Check:
    """Mean piston speed at the goal."""
    speed = mean_piston_speed(setup.stroke.value, goal.goal_rpm)
    spread = speed * setup.stroke.spread / setup.stroke.value
    estimated = 1.0 if setup.stroke.basis == "estimate" else 0.0
    found = Propagated(speed, spread, (("stroke", 1.0),) if spread else (), estimated)
    why = "Mean piston speed is the usual yardstick of what rod, piston and rings can take; the maker's rating wins."
    origin = goal.origin.get("piston_speed_limit", f"common practice for {goal.use.value.replace('_', ' ')}, no source")
    return _check(
        CheckCode.PISTON, "all cylinders", None, None, QuantityKind.VELOCITY, found, goal.piston_speed_limit, why, origin, at_least=False
    )


def check_lifters(setup: Setup, goal: Goal) -> Check:
    """Hydraulic elements at the goal: whether they are good to it."""
    assert setup.lifters
    speed = setup.lifters
    found = Propagated(speed.value, speed.spread, (("hydraulic elements", 1.0),) if speed.spread else (), float(speed.basis == "estimate"))
    why = (
        "Beyond their speed hydraulic elements pump up and hold the valves off their seats; stronger springs bleed them down. More revs want elements "
        "made for it, or solid followers."
    )
    return _check(CheckCode.LIFTERS, "all valves", None, None, QuantityKind.SPEED, found, goal.goal_rpm, why, "the goal")


def checks_of_side(setup: Setup, goal: Goal, side: Side) -> list[Check]:
    """Every check of one side of a set-up, without remedies. Raises OutOfRangeError naming the side."""
    train, low = setup.sides[side], setup.low.get(side)
    try:
        checks = [check_float(train, goal), check_seat(train, goal), *check_coil_bind(train, goal), check_retainer(train, goal)]
    except OutOfRangeError as error:
        raise OutOfRangeError(f"{side.value.capitalize()}: {error.sentence}") from error
    return [*checks, check_low_float(low, goal)] if low else checks


def _scaled(check: Check, before: TrainSide, after: TrainSide, goal: Goal) -> Check:
    """A float check on a changed side: its band moved as the float of the drawn lobe moves, which spares separating every row anew."""
    own, place = figures_of.nominal_float_speed(before, figures_of.weakest(before)), figures_of.weakest(after)
    factor = figures_of.nominal_float_speed(after, place) / own
    estimated = check.basis in ("estimates", "mostly estimates")
    spread = check.spread if check.low is None or check.high is None else (check.high - check.low) / 2.0
    ends = [None if end is None else end * factor for end in (check.low, check.high)]
    found = Propagated(check.figure * factor, spread * factor, check.dominant, 1.0 if estimated else 0.0, *ends)
    limit = float_limit(goal)
    same = _check(check.code, check.about, after, place, check.kind, found, limit, check.why, check.limit_origin)
    return replace(same, basis=check.basis, dominant=check.dominant)


def check_again(check: Check, setup: Setup, goal: Goal, before: Setup | None = None) -> Check:
    """The same check on another set-up or goal, without making the others; `before` the set-up that it was made on."""
    if check.side is None:
        return check_piston(setup, goal) if check.code is CheckCode.PISTON else check_lifters(setup, goal)
    if check.code is CheckCode.LOW_FLOAT:
        return check_low_float(setup.low[check.side], goal)
    side = setup.sides[check.side]
    if check.code is CheckCode.FLOAT and before is not None:
        return _scaled(check, before.sides[check.side], side, goal)
    single = {CheckCode.FLOAT: check_float, CheckCode.SEAT: check_seat, GapKind.RETAINER: check_retainer}
    if check.code in single:
        return single[check.code](side, goal)
    return next(found for found in check_coil_bind(side, goal) if found.about == check.about)


def margin_on(check: Check, side: TrainSide, before: TrainSide) -> float:
    """Only the margin of a float, seat-force, coil-bind or retainer check on a changed side; the limit stays the check's. `before` is the side
    that the check was made on."""
    if check.code is CheckCode.FLOAT:
        own = figures_of.nominal_float_speed(before, figures_of.weakest(before))
        return check.figure * figures_of.nominal_float_speed(side, figures_of.weakest(side)) / own - check.limit
    if check.code is CheckCode.SEAT:
        return figures_of.nominal_seat_load(side, figures_of.weakest(side)) - check.limit
    if check.code is GapKind.RETAINER:
        return figures_of.nominal_retainer_gap(side, figures_of.lowest_retainer(side)) - check.limit
    place = figures_of.tightest(side)
    return figures_of.nominal_coil_bind(side, place, 1 if check.about.endswith("inner") else 0) - check.limit


def bare_checks(setup: Setup, goal: Goal) -> list[Check]:
    """Every check of a set-up, without remedies."""
    return [*(check for side in setup.sides for check in checks_of_side(setup, goal, side)), *checks_of_whole(setup, goal)]


def checks_of_whole(setup: Setup, goal: Goal) -> list[Check]:
    """Checks that are of no side."""
    return [check_piston(setup, goal)] if setup.lifters is None else [check_piston(setup, goal), check_lifters(setup, goal)]


def piston_speed_rpm(setup: Setup, goal: Goal) -> float:
    """Crank speed (rev/s) at which the piston-speed limit is reached."""
    return speed_at_piston_speed(setup.stroke.value, goal.piston_speed_limit)


def good_to(checks: list[Check], goal: Goal) -> float | None:
    """Highest goal speed (rev/s) that float, motion and piston speed as they stand surely hold; None when a gap or a
    seat force falls short, which no lower speed mends."""
    if any(
        check.verdict is Verdict.SHORT
        and check.code not in (CheckCode.FLOAT, CheckCode.LOW_FLOAT, CheckCode.MOTION, CheckCode.PISTON, CheckCode.LIFTERS)
        for check in checks
    ):
        return None
    return min(
        holds_to(check, goal) for check in checks if check.code in (CheckCode.FLOAT, CheckCode.PISTON, CheckCode.MOTION, CheckCode.LIFTERS)
    )


def holds_to(check: Check, goal: Goal) -> float:
    """Goal speed (rev/s) that a float, piston-speed or motion check surely holds as it stands: its doubt and the goal's reserve taken off.

    The one figure behind “good to” and “lower the goal to”.
    """
    if check.code is CheckCode.PISTON:
        return goal.goal_rpm * check.limit / check.figure
    sure = check.low if check.low is not None else check.figure - check.spread
    return sure / (1.0 + goal.reserve) if check.code is CheckCode.FLOAT else sure
