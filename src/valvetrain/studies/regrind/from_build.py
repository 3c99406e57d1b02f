"""From a build to the lobe that can be ground for it: what the present lobe, springs, masses, room, follower and wheel allow."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.parts.cam_drive import Contact, Path, lobe_from_valve, valve_from_lobe
from valvetrain.parts.cam_source import CamSource
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, Side
from valvetrain.parts.figure import Basis, Figure, FigureMap
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.lobe import Lobe, Origin, StatedAt, from_lobe
from valvetrain.parts.record import BuildRecord, PartRecord
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.cams.cam_events import centre_of
from valvetrain.studies.checks.assessment import float_limit
from valvetrain.studies.checks.check import Check, Verdict
from valvetrain.studies.gaps.gaps import limit_of
from valvetrain.studies.gaps.piston import crank_grid, gap_over, lift_over, phaser_ends
from valvetrain.studies.regrind.programme import GrindCase, GrindLimits, Ground, Height, largest_lobe
from valvetrain.studies.review.build import BuildReview, review
from valvetrain.studies.train.side_figures import (
    coil_bind,
    lowest_retainer,
    moving_mass,
    nominal_force,
    open_load,
    retainer_gap,
    seat_load,
    slowing,
    tightest,
    weakest,
)
from valvetrain.units import LENGTH, amount

_MM = 1e-3
USUAL_CLEAN = 0.05 * _MM  # ground off all round, so that the whole lobe is new metal. Source: judgement
USUAL_OFF = 1.0 * _MM  # most that is taken off the base circle's radius: below, the case is ground through. Source: judgement
USUAL_NOSE = 2.0 * _MM  # least convex radius. Source: judgement
USUAL_WHEEL = 200.0 * _MM  # radius of a cam grinder's wheel. Source: trade
USUAL_PUSH = math.radians(35.0)  # pressure angle of roller, dome or pad; a wider one of the old lobe counts. Source: norton_cam
_IN_HAND = 1.008  # of speed: the table that is read back is a little sharper than the spline it was made of
_SHARPER, _HOLLOW = 0.006, 1.05  # the same of the nose's radius, as a share of the acceleration, and of the wheel
_GROUND = 0.05  # share of the acceleration that a grinder may miss it by (k = 2). Source: judgement
_STEP = math.radians(0.5)  # of the table, cam rad
_CELLS = 40


@dataclass(frozen=True)
class GrindWish:
    """What a person asks of the new lobe; None is what the build says. `speed` crank rev/s to follow, full `lift` m, `wider` crank rad of duration
    added, peak `acceleration` m/rad^2 and `jerk` m/rad^3 (both at the valve), least convex `radius`, `clean` and `off` the base radius m, `wheel`
    radius m. `cautious` takes every figure at its unfavourable end."""

    speed: float | None = None
    lift: float | None = None
    wider: float = 0.0
    acceleration: float | None = None
    jerk: float | None = None
    radius: float = USUAL_NOSE
    clean: float = USUAL_CLEAN
    off: float = USUAL_OFF
    wheel: float = USUAL_WHEEL
    cautious: bool = True
    stock: bool = True


@dataclass(frozen=True)
class Makeup:
    """What fills the gap that the smaller base circle leaves: `at_valve` m more between cam and valve, by which adjuster, and in words."""

    at_valve: float
    words: str


@dataclass(frozen=True)
class Regrind:
    """The ground lobe as its table reads, judged as any cam. `old` and `curve` at the valve; base radii m; `record` the build with it in, `after` its
    review; `limits` what it was held to, each with where it comes from; `doubts` what the answer rests on and nobody has measured."""

    side: Side
    case: GrindCase
    ground: Ground
    old: LiftCurve
    curve: LiftCurve
    lobe: Lobe
    old_area: float
    area: float
    asked: float
    wheel: float
    follows: float
    old_follows: float
    makeup: Makeup
    record: BuildRecord
    after: BuildReview
    worse: tuple[Check, ...]
    origins: Mapping[str, str]
    doubts: tuple[str, ...]

    @property
    def base(self) -> float:
        """Base radius after grinding, m."""
        return self.ground.base

    @property
    def gain(self) -> float:
        """Area gained over the old lobe, share."""
        return self.area / self.old_area - 1.0


def old_lobe(train: TrainSide, there: TrainSide) -> tuple[LiftCurve, float]:
    """Lift curve (at the valve) of the lobe that is there, under the follower that will ride on it, and its base radius, m."""
    cam = there.cam
    if cam.drive == train.cam.drive:
        return there.curve, cam.base
    outline = lobe_from_valve(cam.drive, cam.base, there.curve).outline
    return valve_from_lobe(train.cam.drive, cam.base, outline).centred(), cam.base


def _ends(old: LiftCurve, height: float) -> tuple[tuple[float, float], tuple[tuple[float, float, float], tuple[float, float, float]]]:
    """Angles at which the main event of the old lobe begins and ends, and lift, velocity, acceleration there."""
    left, right = old.flanks(height)
    at = lambda angle: (
        height,
        float(np.interp(angle, old.angle, old.velocity)),
        float(np.interp(angle, old.angle, old.acceleration)),
    )
    return (left, right), (at(left), at(right))


def _springs(train: TrainSide, *, cautious: bool) -> tuple[float, float, float]:
    """Force shut, rate and bend of the weakest valve's springs; at their unfavourable end where asked."""
    place, full = weakest(train), train.lift.value
    lifts = np.array([0.0, 0.5 * full, full])
    forces = nominal_force(train, place, lifts)
    bend, rate, shut = np.polyfit(lifts, forces, 2)
    less = max(seat_load(train, place).spread, open_load(train, place).spread) if cautious else 0.0
    return float(shut) - less, float(rate), float(bend) if abs(bend) * full > 1e-3 * rate else 0.0


def _least_lift(train: TrainSide, review: BuildReview, *, cautious: bool) -> tuple[float, str]:
    """Most full lift that springs and seal leave room for, m, and what decides."""
    goal, now = review.completed.goal, train.lift.value
    found = []
    for number in range(len(train.springs)):
        gap = coil_bind(train, tightest(train), number)
        found.append((now + gap.value - goal.coil_bind_limit - (gap.spread if cautious else 0.0), "coil bind"))
    gap = retainer_gap(train, lowest_retainer(train))
    found.append((now + gap.value - goal.retainer_limit - (gap.spread if cautious else 0.0), "retainer to seal"))
    return min(found)


def _piston_heights(train: TrainSide, review: BuildReview, *, cautious: bool) -> list[Height]:
    """Most lift at cam angles around overlap, where the piston is near."""
    room, side = review.room, train.side
    least = room.pistons.get(side)
    if least is None:
        return []
    limit, _ = limit_of(review.completed.goal, f"piston_gap_limit_{side}")
    rest = least.rest.figure.value - (least.spread if cautious and least.rest.how != "estimate" else 0.0)
    angles = np.radians(np.arange(-70.0, 70.1, 2.5))
    found = []
    for advance in set(phaser_ends(review.completed.engine, side)):
        gap = gap_over(room.geometry, train, rest, angles, advance)
        # where the valve is shut the gap at rest is what there is: the lift that would use it up
        most = gap + lift_over(train, angles, advance) - limit + train.clearance.value
        cam = (angles + advance - centre_of(train)) / 2.0
        found += [Height(float(at), float(high), "the piston") for at, high in zip(cam, most, strict=True) if high < 1.2 * train.lift.value]
    return found


def _neighbour_heights(train: TrainSide, review: BuildReview, old: LiftCurve) -> list[Height]:
    """Most lift at overlap, where the valve across is open: a head comes no nearer to it than its own lift grows."""
    heads, sides = review.room.heads, review.completed.proposed.sides
    if heads is None or review.room.how.get((GapKind.VALVE_VALVE, "")) == "estimate":
        return []  # nothing is known of it: said as a doubt, and judged once the cam is proposed
    limit = review.completed.goal.limits["valve_valve_limit"]
    spare = max(heads.value - limit - heads.spread, 0.0)
    other = sides[Side.EXHAUST if train.side is Side.INTAKE else Side.INTAKE]
    angles = crank_grid()[::5]
    both = (lift_over(other, angles) > 0.0) & (lift_over(train, angles) > 0.0)
    cam = (angles[both] - centre_of(train)) / 2.0
    most = np.interp(cam, old.angle, old.lift) + spare
    return [Height(float(at), float(high), "the valve across") for at, high in zip(cam, most, strict=True)]


def _reach(train: TrainSide, follower: FigureMap, cam: FigureMap, old: LiftCurve) -> tuple[float, str]:
    """How far the contact may run along a flat face, m: by the face and the lobe's width, or no farther than it does now."""
    now = float(np.abs(old.velocity).max()) / train.cam.drive.ratio
    if "face_diameter" not in follower or "lobe_width" not in cam:
        return now, "no farther than now: enter the face's diameter and the lobe's width"
    half = follower["face_diameter"].value / 2.0 - 0.5 * _MM
    across = cam["lobe_width"].value / 2.0
    if across >= half:
        return now, "no farther than now: the lobe is as wide as the face"
    return math.sqrt(half**2 - across**2), "the face, short of its edge"


def grind_case(review: BuildReview, side: Side, wish: GrindWish) -> tuple[GrindCase, dict[str, str], LiftCurve]:
    """The case of one side of a build, where each limit comes from, and the old lobe. Raises ValveTrainError naming what cannot be ground."""
    done = review.completed
    train = done.proposed.sides[side]
    old, base = old_lobe(train, (done.stock if wish.stock else done.proposed).sides[side])
    parts = (done.stock_sides if wish.stock else done.proposed_sides)[side].parts
    cam, follower = parts[Owner.CAM], done.proposed_sides[side].parts.get(Owner.FOLLOWER, {})
    if not 0.0 <= wish.wider <= math.radians(40.0):
        raise OutOfRangeError(f"{math.degrees(wish.wider):.0f}° of more duration is not a regrind: give 0 to 40 degrees of the crank.")
    told = cam["ramp_height"].value if "ramp_height" in cam else train.clearance.value + 0.05 * _MM
    height = min(max(told, train.clearance.value), 0.2 * old.full)
    (left, right), ends = _ends(old, height)
    left, right = left - wish.wider / 4.0, right + wish.wider / 4.0
    drive = train.cam.drive
    # ramps that begin earlier want metal that a smaller base circle makes room for
    edges = np.concatenate([np.linspace(left - 0.35, left, 60), np.linspace(right, right + 0.35, 60)])
    shift = np.where(edges < 0.0, wish.wider / 4.0, -wish.wider / 4.0)
    over = (
        np.interp(edges + shift, old.angle, old.lift, left=0.0, right=0.0) - np.interp(edges, old.angle, old.lift, left=0.0, right=0.0)
    ).max()
    base_most = base - wish.clean - max(float(over), 0.0) / drive.ratio
    lift, decides = _least_lift(train, review, cautious=wish.cautious)
    origins = {"lift": decides, "speed": "the goal with its margin", "spring": "the weakest valve's springs"}
    if wish.lift is not None:
        lift, origins["lift"] = wish.lift, "as you asked"
    if lift <= 2.0 * height:
        raise ContradictionError(f"A full lift of {amount(lift, LENGTH)} is hardly more than the ramp: there is nothing to grind.")
    heights = _piston_heights(train, review, cautious=wish.cautious) + _neighbour_heights(train, review, old)
    reach, origins["face"] = _reach(train, follower, cam, old) if drive.contact is Contact.FLAT else (math.inf, "")
    pressure = math.inf
    if drive.contact is not Contact.FLAT:
        pressure = max(USUAL_PUSH, float(lobe_from_valve(drive, base, old).pressure.max()))
    mirrored = drive.path is Path.STRAIGHT and bool(np.allclose(old.lift, old.lift[::-1], rtol=0.0, atol=1e-7))
    if mirrored:
        heights = [replace(each, angle=abs(each.angle)) for each in heights]
    origins["acceleration"] = origins["jerk"] = (
        "no more than the old lobe's" if wish.acceleration is None and wish.jerk is None else "as you asked"
    )
    force, rate, bend = _springs(train, cautious=wish.cautious)
    mass = moving_mass(train)
    limits = GrindLimits(
        acceleration=wish.acceleration or float(old.acceleration.max()),
        jerk=wish.jerk or float(np.abs(old.jerk).max()),
        lift=lift,
        radius=wish.radius,
        base_least=base - wish.off,
        base_most=base_most,
        clean=wish.clean,
        reach=reach,
        pressure=pressure,
        wheel=wish.wheel * _HOLLOW if drive.contact is not Contact.FLAT else math.inf,
        in_hand=_SHARPER * float(np.abs(old.acceleration).max()),
        heights=tuple(heights),
    )
    case = GrindCase(
        drive=drive,
        old=old,
        old_base=base,
        low=0.0 if mirrored else left,
        high=right,
        ends=ends,
        mass=mass.value + (mass.spread if wish.cautious else 0.0),
        speed=(wish.speed or float_limit(done.goal)) * _IN_HAND * (math.sqrt(1.0 + _GROUND) if wish.cautious else 1.0),
        force=force,
        rate=rate,
        clearance=train.clearance.value,
        limits=limits,
        bend=bend,
    )
    return case, origins, old


def _table(ground: Ground, old: LiftCurve, wider: float) -> Lobe:
    """The lobe as a table of half degrees: the spline between the old lobe's ramps, which move outwards with it."""
    left, right, shift = float(ground.curve.angle[0]), float(ground.curve.angle[-1]), wider / 4.0
    grid = np.arange(math.ceil((old.angle[0] - shift) / _STEP), math.floor((old.angle[-1] + shift) / _STEP) + 1) * _STEP
    lift = old.smooth_lift_at(np.clip(grid + np.where(grid < 0.0, shift, -shift), old.angle[0], old.angle[-1]))
    inside = (grid > left) & (grid < right)
    lift[inside] = ground.curve.smooth_lift_at(grid[inside])
    lifts = tuple(np.round(np.maximum(lift, 0.0), 10).tolist())
    return Lobe(tuple(np.round(grid, 12).tolist()), lifts, StatedAt.VALVE, Origin.TABLE, 0.01 * _MM, math.radians(0.3), _GROUND)


_FILLS = {
    Adjuster.SHIM_UNDER: "Every shim becomes thicker by it",
    Adjuster.SHIM_OVER: "Every shim becomes thicker by it",
    Adjuster.SHIM_ON_STEM: "Every shim becomes thicker by it",
    Adjuster.GRADED_BUCKET: "Every bucket becomes taller by it",
    Adjuster.LASH_CAP: "Every lash cap becomes thicker by it",
    Adjuster.SCREW: "The screws come in by it: look whether they still hold enough thread",
    Adjuster.STEM_GRIND: "A ground stem cannot grow: it wants lash caps, a longer valve, or a built-up tappet",
    Adjuster.HYDRAULIC: "The elements take it up and lose as much of their preload",
}


def _makeup(record: BuildRecord, train: TrainSide, dropped: float, engine: FigureMap) -> Makeup:
    gap = dropped * train.cam.drive.ratio
    words = f"{_FILLS[record.kind.adjuster]}: {amount(gap, LENGTH)} at the valve"
    thickest = engine.get("shim_thickest")
    if record.kind.adjuster in (Adjuster.SHIM_UNDER, Adjuster.SHIM_OVER, Adjuster.SHIM_ON_STEM, Adjuster.LASH_CAP) and thickest:
        room = thickest.value - gap
        words += f". Shims are sold up to {amount(thickest.value, LENGTH)}: a valve whose shim is thicker than {amount(room, LENGTH)} now finds none"
    return Makeup(gap, words + ".")


def _part(regrind: Lobe, base: float, there: PartRecord, centre: Figure, name: str) -> PartRecord:
    kept = {key: figure for key, figure in there.figures.items() if key in ("lobe_width", "ramp_velocity")}
    figures = {"base_diameter": Figure(2.0 * base, 0.02 * _MM, Basis.CARD), "lobe_centre": replace(centre, basis=Basis.CARD)} | kept
    facts = {key: word for key, word in there.facts.items() if key in ("crown", "drive", "made_of", "ground_for")}
    return PartRecord(name, figures, facts | {"stated_at": StatedAt.VALVE.value}, regrind)


def _doubts(record: BuildRecord, review: BuildReview, side: Side, source: CamSource, cam: FigureMap, *, stock: bool) -> tuple[str, ...]:
    found = []
    setup = record.stock if stock else record.proposed
    known = setup[side].parts.get(Owner.CAM, PartRecord())
    if known.lobe is None:
        found.append("The old lobe is drawn from its card: log it with the degree wheel before anything is ground.")
    if cam["base_diameter"].basis is Basis.ESTIMATE:
        found.append("Its base circle is an estimate: measure heel to heel.")
    if not source.exact and source.drive.contact is not Contact.FLAT:
        found.append("The follower's radius and arms are assumed: curvature, wheel and pressure angle rest on them.")
    if review.room.how.get((GapKind.VALVE_VALVE, "")) == "estimate":
        found.append("The gap to the valve across is an estimate and holds nothing here: measure the heads, then look at Room.")
    rest = review.room.pistons[side].rest if side in review.room.pistons else None
    if rest is not None and rest.how == "estimate":
        found.append("The gap to the piston is an estimate: measure it before the cam goes out.")
    return tuple(found)


def _wheel_words(case: GrindCase, curve: LiftCurve, base: float, wheel: float) -> tuple[str, ...]:
    """What the ramps, which stay as they are, ask of the grinding wheel."""
    if case.drive.contact is Contact.FLAT:
        return ()
    shape = lobe_from_valve(case.drive, base, curve)
    hollow = -shape.radius[(shape.radius < 0.0) & (curve.lift > 0.02 * curve.full)]
    if not len(hollow) or float(hollow.min()) > 0.99 * wheel:
        return ()
    return (
        f"The ramps stay as they are, and their hollow has a radius of {amount(float(hollow.min()), LENGTH, 0)}: the wheel must be smaller than twice that across.",
    )


_ORDER = (Verdict.HOLDS, Verdict.SLIM, Verdict.UNPROVEN, Verdict.SHORT)


def _worse(before: BuildReview, after: BuildReview) -> tuple[Check, ...]:
    """Checks that stood better with the cam that is proposed now."""
    rank = {(check.code, check.about): _ORDER.index(check.verdict) for check in before.proposed.checks}
    return tuple(check for check in after.proposed.checks if _ORDER.index(check.verdict) > rank.get((check.code, check.about), 3))


def _follows(train: TrainSide, lobe: LiftCurve) -> float:
    """Crank speed (rev/s) up to which a rigid train follows a lift curve, every figure at its middle."""
    _, lift, bend = slowing(lobe, train.clearance.value)
    force = nominal_force(train, weakest(train), lift - train.clearance.value)
    return math.sqrt(max(float((force / -bend).min()), 0.0) / moving_mass(train).value) / math.pi


def regrind(record: BuildRecord, found: BuildReview, side: Side, wish: GrindWish, name: str = "Regrind") -> Regrind:
    """The largest lobe that can be ground on one side of a build. Raises ValveTrainError naming the limits that stand in the way."""
    case, origins, old = grind_case(found, side, wish)
    ground = largest_lobe(case, _CELLS)
    done = found.completed
    there = (record.stock if wish.stock else record.proposed)[side].parts.get(Owner.CAM, PartRecord())
    lobe = _table(ground, old, wish.wider)
    train = (done.stock if wish.stock else done.proposed).sides[side]
    part = _part(lobe, ground.base, there, done.proposed.sides[side].lobe_centre, name)
    changed = replace(record.proposed[side], parts={**record.proposed[side].parts, Owner.CAM: part})
    with_it = replace(record, proposed={**record.proposed, side: changed})
    after = review(with_it)
    now, new = done.proposed.sides[side], after.completed.proposed.sides[side]
    read = from_lobe(lobe)
    cam = (done.stock_sides if wish.stock else done.proposed_sides)[side].parts[Owner.CAM]
    return Regrind(
        side=side,
        case=case,
        ground=ground,
        old=old,
        curve=read,
        lobe=lobe,
        old_area=old.area(),
        area=read.area(),
        asked=wish.speed or float_limit(done.goal),
        wheel=wish.wheel,
        follows=_follows(new, read),
        old_follows=_follows(now, old),
        makeup=_makeup(record, now, case.old_base - ground.base, done.engine),
        record=with_it,
        after=after,
        worse=_worse(found, after),
        origins=origins,
        doubts=_doubts(record, found, side, train.cam, cam, stock=wish.stock) + _wheel_words(case, read, ground.base, wish.wheel),
    )
