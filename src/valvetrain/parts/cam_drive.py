"""From lobe to valve and back: the follower between them, its geometry, and the outline of the lobe it rides on.

Points of the plane are complex numbers, m. The cam turns about zero; its lobe centre points up (+i) when the cam angle is zero.
A translating follower moves up and down on the imaginary axis; a finger or rocker turns about a pivot on the positive real axis.
"""

import math
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.formulas.cam_followers import flat_face_radius
from valvetrain.parts.lift_curve import Array, LiftCurve, through
from valvetrain.units import LENGTH, amount

Points = NDArray[np.complexfloating[Any, Any]]

_FINE = 1441
_READ = 481


class Contact(StrEnum):
    """The face that rides on the lobe."""

    FLAT = "flat"
    DOMED = "domed"
    ROLLER = "roller"
    PAD = "pad"


class Path(StrEnum):
    """How the face moves."""

    STRAIGHT = "straight"
    PIVOTED = "pivoted"


@dataclass(frozen=True)
class Drive:
    """The follower between lobe and valve. Lengths in m.

    `radius` is that of dome, roller or pad (ignored for a flat face). Straight: the valve moves `ratio` times the follower.
    Pivoted: `pivot` from cam centre to pivot, `arm` from pivot to the centre of pad or roller, `valve_arm` from pivot to valve,
    square to the valve at half lift; `beyond` the pivot from the lobe for a rocker, on the lobe's side for a finger. `sense` +1 turns the cam against the clock in the drawing, the pivot being on the right.
    """

    contact: Contact
    path: Path = Path.STRAIGHT
    radius: float = 0.0
    ratio: float = 1.0
    pivot: float = 0.0
    arm: float = 0.0
    valve_arm: float = 0.0
    sense: int = 1
    beyond: bool = False

    def __post_init__(self) -> None:
        if self.contact is not Contact.FLAT and self.radius <= 0.0:
            raise OutOfRangeError(f"A {self.contact} face needs its radius.")
        if self.path is Path.PIVOTED and min(self.pivot, self.arm, self.valve_arm) <= 0.0:
            raise OutOfRangeError("A finger or rocker needs its pivot's distance, its arm to the lobe and its arm to the valve.")
        if self.path is Path.PIVOTED and self.contact is Contact.FLAT:
            raise OutOfRangeError("A finger or rocker rides with a pad or a roller; give the pad's radius, however large.")
        if self.ratio <= 0.0:
            raise OutOfRangeError("The ratio of valve lift to lobe lift must be above zero.")

    @property
    def bow(self) -> float:
        """Radius of the face, zero for a flat one."""
        return 0.0 if self.contact is Contact.FLAT else self.radius


@dataclass(frozen=True)
class LobeShape:
    """A lobe with its follower on it, over the cam angle. Arrays of equal shape; points complex, m.

    `outline` in the lobe's own axes; `touch` and `centre` (of dome, roller, pad; the foot of a flat face) as they stand in the engine;
    `radius` of curvature of the lobe, m, negative where it is hollow; `pressure` angle rad between the push and the follower's path;
    `travel` m of the contact along the face from its middle; `lever` valve motion over the motion of the contact along the push.
    """

    angle: Array
    outline: Points
    touch: Points
    centre: Points
    radius: Array
    pressure: Array
    travel: Array
    lever: Array


def _arm_start(drive: Drive, base: float) -> float:
    """Arm angle (rad) on the base circle. Raises ContradictionError when the arms do not reach."""
    reach = base + drive.radius
    cosine = (reach**2 - drive.pivot**2 - drive.arm**2) / (2.0 * drive.pivot * drive.arm)
    if not -1.0 < cosine < 1.0:
        raise ContradictionError(
            f"A pivot {amount(drive.pivot, LENGTH, 1)} from the cam's centre and an arm of {amount(drive.arm, LENGTH, 1)} do not meet a base circle of "
            f"radius {amount(base, LENGTH)} with a face of radius {amount(drive.radius, LENGTH, 1)}."
        )
    return math.acos(cosine)


def _tilt(drive: Drive, lift: float) -> float:
    """How far below square the valve arm stands when shut, rad."""
    share = lift / (2.0 * drive.valve_arm)
    if share >= 1.0:
        raise ContradictionError(
            f"A valve arm of {amount(drive.valve_arm, LENGTH, 1)} cannot lift the valve by {amount(lift, LENGTH)}: it must be longer than half the lift."
        )
    return -math.asin(share)


def _path(drive: Drive, base: float, curve: LiftCurve) -> tuple[Points, Points, Points, Points, Array]:
    """Centre of the face, its first two derivatives over the cam angle, the direction of its path, and valve motion per path length."""
    if drive.path is Path.STRAIGHT:
        up: Points = np.full(curve.angle.shape, 1j)
        lever: Array = np.full(curve.angle.shape, drive.ratio)
        reach = (base + drive.bow) + curve.lift / drive.ratio
        return 1j * reach, 1j * curve.velocity / drive.ratio, 1j * curve.acceleration / drive.ratio, up, lever
    start, tilt = _arm_start(drive, base), _tilt(drive, curve.full)
    b = drive.valve_arm
    sine = np.clip(curve.lift / b + math.sin(tilt), -0.9999, 0.9999)
    cosine = np.sqrt(1.0 - sine**2)
    swing = np.arcsin(sine) - tilt
    turn1 = curve.velocity / (b * cosine)
    turn2 = curve.acceleration / (b * cosine) + turn1**2 * sine / cosine
    spoke = drive.arm * np.exp(1j * (start - swing))
    centre = drive.pivot + spoke
    first = -1j * spoke * turn1
    second = -1j * spoke * turn2 - spoke * turn1**2
    return centre, first, second, -1j * spoke / drive.arm, b * cosine / drive.arm


def lobe_from_valve(drive: Drive, base: float, curve: LiftCurve) -> LobeShape:
    """The lobe that gives a valve lift curve through a follower; `base` is the base circle's radius, m (source: norton_cam)."""
    if base <= 0.0:
        raise OutOfRangeError("The base circle must have a radius above zero.")
    centre, first, second, way, lever = _path(drive, base, curve)
    turned = np.exp(-1j * drive.sense * curve.angle)
    if drive.contact is Contact.FLAT:
        slope, bend, height = (np.asarray(part.imag, dtype=np.float64) for part in (first, second, centre))
        touch = drive.sense * slope + 1j * height
        shape = (flat_face_radius(base, height - base, bend), np.zeros_like(height), drive.sense * slope)
        return LobeShape(curve.angle, turned * touch, touch, centre, *shape, lever)
    spin = -1j * drive.sense
    moved = first + spin * centre
    moved2 = second + 2.0 * spin * first + spin**2 * centre
    speed = np.abs(moved)
    # the cam is walked round against its turning: a convex lobe bends with the sign of -sense
    bend = -drive.sense * np.imag(np.conj(moved) * moved2) / speed**3
    # a flank without bend has a radius beyond any size: kept finite for drawing and comparing
    radius = (np.sign(bend) / np.maximum(np.abs(bend), 1e-4) - drive.radius).astype(float)
    normal = 1j * drive.sense * moved / speed
    touch = centre - drive.radius * normal
    pressure = np.arccos(np.clip(np.real(np.conj(normal) * way), -1.0, 1.0)).astype(float)
    rest = -1j if drive.path is Path.STRAIGHT else np.exp(1j * np.angle(-centre))
    travel = drive.radius * np.angle(-normal / rest).astype(float)
    return LobeShape(curve.angle, turned * touch, touch, centre, radius, pressure, travel, lever)


def valve_from_lobe(drive: Drive, base: float, outline: Points, full: float | None = None) -> LiftCurve:
    """The valve lift that a closed or open outline gives through a follower.

    `outline` are points of the lobe's flank and nose in its own axes, in the order in which the follower meets them; `base` the base
    circle's radius. `full` valve lift (m) sets where the valve arm is square; taken from the outline when not given.
    Raises ContradictionError where the face cannot follow: a hollow flank under a flat face or under a face wider than the hollow.
    """
    steps = np.concatenate([[0.0], np.cumsum(np.abs(np.diff(outline)))])
    east, north = (through(steps, part.astype(float), _FINE) for part in (outline.real, outline.imag))
    along, across = east.velocity + 1j * north.velocity, east.lift + 1j * north.lift
    normal = 1j * drive.sense * along / np.abs(along)
    centre = across + drive.bow * normal
    if drive.contact is Contact.FLAT:
        angle = drive.sense * (math.pi / 2.0 - np.unwrap(np.angle(normal)))
        motion = np.real(across * np.conj(normal)) - base
    elif drive.path is Path.STRAIGHT:
        angle = drive.sense * (math.pi / 2.0 - np.unwrap(np.angle(centre)))
        motion = np.abs(centre) - base - drive.radius
    else:
        start = _arm_start(drive, base)
        cosine = (np.abs(centre) ** 2 - drive.pivot**2 - drive.arm**2) / (2.0 * drive.pivot * drive.arm)
        if np.abs(cosine).max() >= 1.0:
            raise ContradictionError("The arm cannot follow this lobe to its nose: pivot and arm do not reach.")
        turn = np.arccos(cosine)
        seen = np.angle(drive.pivot + drive.arm * np.exp(1j * turn))
        angle = drive.sense * (seen - np.unwrap(np.angle(centre)))
        motion = start - turn
    steps_of = np.diff(angle)
    if not (steps_of > 0.0).all():
        raise ContradictionError(_cannot_follow(drive))
    angle = angle - 2.0 * math.pi * round(float(angle[int(np.argmax(motion))]) / (2.0 * math.pi))
    return through(angle, _at_valve(drive, motion, full), _READ)


def _cannot_follow(drive: Drive) -> str:
    if drive.contact is Contact.FLAT:
        return "A flat face cannot follow this lobe: its flank is hollow, and the face would bridge it. It is ground for a roller or a pad."
    return (
        f"A {drive.contact} face of radius {amount(drive.radius, LENGTH, 1)} cannot follow this lobe: it is wider than the hollow of the flank, "
        "or the lobe has a corner."
    )


def _at_valve(drive: Drive, motion: Array, full: float | None) -> Array:
    """Valve lift from the follower's motion: m along a straight path, rad of swing about a pivot."""
    if drive.path is Path.STRAIGHT:
        return motion * drive.ratio
    if full is None:
        # square at half lift: the swing is halved by the square position, so the lift follows from the whole swing
        full = 2.0 * drive.valve_arm * math.sin(float(motion.max()) / 2.0)
    tilt = _tilt(drive, full)
    return drive.valve_arm * (np.sin(tilt + motion) - math.sin(tilt))


def outline_from_radius(base: float, angle: Array, lift: Array, sense: int = 1) -> Points:
    """Outline of a bare lobe whose radius over the base circle was read with a point: `angle` cam rad, `lift` m."""
    return np.asarray((base + lift) * np.exp(1j * (math.pi / 2.0 - sense * angle)), dtype=np.complex128)
