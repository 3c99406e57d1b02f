"""From what is known of a cam (card, events, caliper, log, table) and its follower to the source of one lift curve.

Estimates here are judgement (source: judgement): wide spreads, meant to be typed over.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from valvetrain.errors import ContradictionError
from valvetrain.formulas.cam_timing import centre_from_events, duration_from_events
from valvetrain.parts.cam_card import CamCard
from valvetrain.parts.cam_drive import Contact, Drive, Path
from valvetrain.parts.cam_source import CamSource
from valvetrain.parts.engine import EngineKind, Follower, Gear, Side
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.parts.lobe import Lobe, Origin, StatedAt
from valvetrain.units import LENGTH, amount

_MM = 1e-3
_USUAL_CONTACT = {
    Follower.BUCKET: Contact.FLAT,
    Follower.FINGER: Contact.PAD,
    Follower.ROCKER: Contact.PAD,
    Follower.TAPPET: Contact.FLAT,
}
_USUAL_RADIUS = {Contact.FLAT: 0.0, Contact.DOMED: 60e-3, Contact.ROLLER: 8e-3, Contact.PAD: 14e-3}
_BASE_TO_LIFT = 1.75  # base circle's radius over the lobe's own lift
_EVENT_SLACK = math.radians(2.0)  # cards round events and durations to the degree, and each duration has two events
# What the family of lobes that meet a card still lacks on deceleration (k = 2), from the study of its coverage; and the doubt where a card is
# met by the bent polynomial alone. Source: judgement, tried
_LACKS, _ALONE = {1: 0.20, 2: 0.15, 3: 0.14}, 0.15
_LACKS_MORE = 0.14
HEIGHT_KEYS = tuple((f"height_{number}", f"duration_{number}") for number in range(1, 5))


@dataclass(frozen=True)
class CompletedCam:
    """Figures of a cam without a gap, `lift` at the valve before clearance, the source of its curve, and how sure its form is."""

    figures: FigureMap
    source: CamSource
    shape: Figure


def contact_of(kind: EngineKind, facts: Mapping[str, str]) -> Contact:
    """What rides on the lobe: told of the follower, or the usual one of the make-up."""
    told = facts.get("contact", "")
    if told:
        return Contact(told)
    return Contact.FLAT if kind.gear is Gear.PUSH_ROD else _USUAL_CONTACT[kind.follower]


def drive_of(kind: EngineKind, engine: FigureMap, follower: FigureMap, facts: Mapping[str, str]) -> tuple[Drive, bool]:
    """The follower's geometry, and whether it is known rather than assumed.

    A finger or rocker whose three arms are known turns about its pivot; without them a constant ratio stands for it.
    """
    contact = contact_of(kind, facts)
    ratio = engine["lift_ratio"].value if kind.follower is not Follower.BUCKET else 1.0
    radius = follower["face_radius"].value if "face_radius" in follower else _USUAL_RADIUS[contact]
    if kind.gear is Gear.PUSH_ROD and {"arm", "valve_arm"} <= follower.keys():
        # both arms square at half lift, the rod upright: then the ratio is that of the arms through the whole lift
        ratio = follower["valve_arm"].value / follower["arm"].value
    arms = [follower[key].value for key in ("pivot", "arm", "valve_arm") if key in follower]
    if kind.follower in (Follower.FINGER, Follower.ROCKER) and kind.gear is not Gear.PUSH_ROD and contact is not Contact.FLAT:
        if len(arms) == 3:
            pivot, arm, valve_arm = arms
            beyond = kind.follower is Follower.ROCKER
            return Drive(contact, Path.PIVOTED, radius, ratio, pivot, arm, valve_arm, beyond=beyond), "face_radius" in follower
        return Drive(contact, Path.STRAIGHT, radius, ratio), False
    return Drive(contact, Path.STRAIGHT, radius, ratio), contact is Contact.FLAT or "face_radius" in follower


def _from_events(side: Side, cam: dict[str, Figure]) -> None:
    """Durations and lobe centre from events at the first height; refuses events that contradict a stated duration or centre."""
    if "opens_1" not in cam or "shuts_1" not in cam:
        return
    first, second = (cam["opens_1"], cam["shuts_1"]) if side is Side.INTAKE else (cam["shuts_1"], cam["opens_1"])
    duration, centre = duration_from_events(first.value, second.value), centre_from_events(first.value, second.value)
    for key, found, what in (("duration_1", duration, "a duration"), ("lobe_centre", centre, "a lobe centre")):
        if key in cam and abs(cam[key].value - found) > _EVENT_SLACK:
            raise ContradictionError(
                f"Opens {math.degrees(cam['opens_1'].value):.0f}° and closes {math.degrees(cam['shuts_1'].value):.0f}° give {what} of "
                f"{math.degrees(found):.0f}°, and the card says {math.degrees(cam[key].value):.0f}°: both cannot be."
            )
        cam.setdefault(key, Figure(found, math.radians(1.0), cam["opens_1"].basis))


def _from_caliper(cam: dict[str, Figure], ratio: float) -> None:
    """Lift from lobe height less base circle, when nothing better tells it (source: definition)."""
    if "lift" in cam or "lobe_height" not in cam or "base_diameter" not in cam:
        return
    height, base = cam["lobe_height"], cam["base_diameter"]
    if height.value <= base.value:
        raise ContradictionError(
            f"A lobe height of {amount(height.value, LENGTH)} on a base circle of {amount(base.value, LENGTH)} lifts nothing: "
            "the height is measured from heel to nose."
        )
    worst = max(height.basis, base.basis, key=list(Basis).index)
    cam["lift"] = Figure((height.value - base.value) * ratio, math.hypot(height.spread, base.spread) * ratio, worst)


def _at_valve(cam: FigureMap, at: StatedAt, *, taken_off: float, ratio: float) -> tuple[float, tuple[tuple[float, float], ...]]:
    """Lift and heights of the card before clearance, in the terms of `at`."""
    added = taken_off if at is StatedAt.VALVE else taken_off / ratio
    heights = tuple(
        (cam[height].value + added, cam[duration].value) for height, duration in HEIGHT_KEYS if height in cam and duration in cam
    )
    return cam["lift"].value + added, heights


def complete_cam(
    kind: EngineKind, side: Side, known: FigureMap, facts: Mapping[str, str], lobe: Lobe | None, engine: FigureMap, guess: Callable[[], Mapping[str, Figure]],
    clearance: Figure, follower: FigureMap, follower_facts: Mapping[str, str],
) -> CompletedCam:  # fmt: skip
    """Everything of one cam: figures, source of its curve, spread of its form. `guess` gives lift (m, at the valve) and duration (crank rad at
    1 mm) of the class, asked only for a cam nobody told of.

    Raises ContradictionError naming the numbers that cannot stand together.
    """
    cam = dict(known)
    drive, exact = drive_of(kind, engine, follower, follower_facts)
    at = lobe.at if lobe else StatedAt(facts.get("stated_at") or StatedAt.VALVE)
    told = 1.0 if at is StatedAt.VALVE else drive.ratio
    _from_events(side, cam)
    _from_caliper(cam, drive.ratio / told)
    if "lift" not in cam:
        usual = guess()["lift"]
        cam["lift"] = estimate(usual.value / told, spread=usual.spread / told)
    if "height_1" not in cam or "duration_1" not in cam:
        cam["height_1"] = Figure(1.0 * _MM / told, 0.0, Basis.ESTIMATE)
        cam["duration_1"] = guess()["duration"]
    cam.setdefault("lobe_centre", estimate(math.radians(106.0), 0.04))
    cam.setdefault("ramp_velocity", estimate(0.018 * _MM * 180.0 / math.pi, 0.4))
    base, known_base = _base(cam, at, drive.ratio)
    if lobe:
        source = CamSource(lobe, lobe.at, drive, base, exact and known_base)
        curve = source.curve
        basis = Basis.MEASURED if lobe.origin is Origin.LOG else Basis.CARD
        cam["lift"] = Figure(curve.full, lobe.lift_spread * curve.full / max(lobe.lifts), basis)
        cam["height_1"] = Figure(1.0 * _MM, 0.0, basis)
        cam["duration_1"] = Figure(curve.duration_at(1.0 * _MM), lobe.duration_spread, basis)
        return CompletedCam(cam, source, Figure(1.0, lobe.acceleration_share, basis))
    after = facts.get("stated_clearance") == "after"
    taken = (cam["card_clearance"].value if "card_clearance" in cam else clearance.value) if after else 0.0
    lift, heights = _at_valve(cam, at, taken_off=taken, ratio=drive.ratio)
    # The ramp is taken a little higher than the clearance, so that the valve is met while the lobe is slow.
    ramp = min((clearance.value + 0.05 * _MM) / told, 0.2 * lift)
    if "ramp_height" in cam:
        ramp = cam["ramp_height"].value / told
    card = CamCard(lift, heights, ramp, cam["ramp_velocity"].value / told, ramp_known="ramp_height" in cam)
    source = CamSource(card, at, drive, base, exact and known_base)
    curve = source.curve
    stated = cam["lift"]
    cam["lift"] = Figure(curve.full, stated.spread * curve.full / lift, stated.basis)
    doubt = _LACKS.get(len(heights), _LACKS_MORE) if source.lobes else _ALONE
    doubt = math.hypot(doubt, 0.0 if at is not StatedAt.RADIUS or source.exact else 0.10)
    return CompletedCam(cam, source, estimate(1.0, spread=doubt))


def _base(cam: dict[str, Figure], at: StatedAt, ratio: float) -> tuple[float, bool]:
    """Radius of the base circle (m), and whether it is known."""
    lobe_lift = cam["lift"].value / (ratio if at is StatedAt.VALVE else 1.0)
    if "base_diameter" in cam:
        return cam["base_diameter"].value / 2.0, True
    if "lobe_height" in cam:  # height is base diameter plus lift, for a lobe that is round below
        cam["base_diameter"] = estimate(max(cam["lobe_height"].value - lobe_lift, 4 * _MM), 0.03)
    else:
        cam["base_diameter"] = estimate(2.0 * _BASE_TO_LIFT * lobe_lift, 0.15)
    return cam["base_diameter"].value / 2.0, False
