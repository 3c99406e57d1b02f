"""What is left between valve and piston at speed: less the valve's overshoot, the rod's stretch and the play of its bearings."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.slider_crank import piston_acceleration, rod_stretch
from valvetrain.kernels import valve_motion as kernel
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure, FigureMap, estimate
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.cams.cam_events import centre_of
from valvetrain.studies.checks.assessment import judge
from valvetrain.studies.checks.check import Check, CheckCode, Verdict
from valvetrain.studies.gaps.gaps import RoomReview, limit_of
from valvetrain.studies.gaps.geometry import RoomGeometry
from valvetrain.studies.gaps.piston import LeastGap, gap_over
from valvetrain.studies.gaps.remedies import floor_share
from valvetrain.studies.motion.sweep import SAMPLES, Sweep
from valvetrain.units import LENGTH, QuantityKind, amount

Array = NDArray[np.float64]

_NEAR = np.radians(np.linspace(-75.0, 75.0, 301))
_BAND = 0.02  # share of the speed within which swept speeds count: after float the motion is chaotic, its range is what matters
_MODULUS = {"": 206e9, "aluminium": 71e9, "titanium": 114e9}  # Pa. Source: memory, handbook values
_MASS_PER_BORE, _SECTION_PER_BORE = (
    450.0,
    0.017,
)  # kg/m3 of piston with pin and rings; section of a steel rod over bore squared. Source: judgement


def usual_piston_mass(bore: float) -> Figure:
    """Piston with pin and rings (kg) of a bore (m), where nobody weighed it."""
    return estimate(_MASS_PER_BORE * bore**3, 0.25)


def rod_figures(engine: FigureMap, rods: str) -> dict[str, Figure]:
    """Mass on the rod (kg), its section (m2) and the play of its bearings (m), known or estimated. Source of estimates: judgement."""
    bore = engine["bore"].value
    piston = engine.get("piston_mass", usual_piston_mass(bore))
    small = engine.get("rod_small_end", estimate(0.3 * piston.value, 0.4))
    stout = 1.8 if rods == "aluminium" else 1.0
    return {
        "mass": Figure(piston.value + small.value, math.hypot(piston.spread, small.spread), max(piston.basis, small.basis)),
        "section": engine.get("rod_section", estimate(_SECTION_PER_BORE * stout * bore**2, 0.35)),
        "play": engine.get("bearing_play", estimate(0.08e-3, 0.5)),
    }


def stretch_at(engine: FigureMap, rods: str, speed: float) -> Figure:
    """Stretch of the rod at overlap TDC and play of its bearings together, m, at a crank speed (rev/s)."""
    parts = rod_figures(engine, rods)
    pull = piston_acceleration(engine["stroke"].value, engine["rod_length"].value, speed)
    own = rod_stretch(parts["mass"].value, pull, engine["rod_length"].value, parts["section"].value, _MODULUS[rods])
    shares = [parts[key].spread / parts[key].value for key in ("mass", "section")]
    return Figure(own + parts["play"].value, math.hypot(own * math.hypot(*shares), parts["play"].spread), parts["section"].basis)


def moving_lift(found: Sweep, train: TrainSide, speed: float, angle: Array, advance: float) -> Array | None:
    """The greatest lift (m) at each crank angle among the swept speeds near a crank speed (rev/s); None where none was swept."""
    near = np.abs(found.speed / speed - 1.0) <= _BAND
    if not near.any():
        return None
    lifts = found.trace[kernel.LIFT][:, near].max(axis=1).astype(float)
    grid = np.linspace(-math.pi, math.pi, SAMPLES, endpoint=False)
    cam = (angle + advance - centre_of(train)) / 2.0
    return np.asarray(np.maximum(np.interp(cam, grid, lifts, period=2.0 * math.pi), 0.0))


def overshoot_of(found: Sweep, train: TrainSide, speed: float) -> float | None:
    """How far the valve runs beyond its full lift near a crank speed (rev/s), m; None where none was swept."""
    near = np.abs(found.speed / speed - 1.0) <= _BAND
    if not near.any():
        return None
    return float(found.trace[kernel.LIFT][:, near].max()) - (train.lift.value - train.clearance.value)


@dataclass(frozen=True)
class AtSpeed:
    """One side at a crank speed (rev/s), m: least gap `at_rest`, what `overshoot` and `stretch` (with play) take, what is `left` ± spread.

    `known` is False where the gap at rest is an estimate alone.
    """

    side: Side
    speed: float
    at_rest: float
    overshoot: float
    stretch: float
    left: float
    at: float
    spread: float
    known: bool

    def verdict(self, limit: float) -> Verdict:
        """Whether what is left keeps a limit (m), within its spread."""
        if self.left - limit > self.spread:
            return Verdict.HOLDS
        return Verdict.SHORT if self.left < limit - self.spread else Verdict.SLIM


def at_speed(
    geometry: RoomGeometry, train: TrainSide, least: LeastGap, found: Sweep, engine: FigureMap, rods: str, speed: float
) -> AtSpeed:  # fmt: skip
    """What is left at a speed. Raises OutOfRangeError where the motion was not swept there."""
    lift = moving_lift(found, train, speed, _NEAR, least.advance)
    if lift is None:
        raise OutOfRangeError(f"The motion was swept to {found.speed[-1] * 60:,.0f} rpm, and {speed * 60:,.0f} rpm lies beyond.")
    rest = gap_over(geometry, train, least.rest.figure.value, _NEAR, least.advance)
    # the motion was swept on one of the lobes that the card may be: what it adds counts against that lobe's own lift
    own = np.maximum(found.case.lobe_at((_NEAR + least.advance - centre_of(train)) / 2.0), 0.0)
    moved = rest + own - lift
    pick = int(moved.argmin())
    stretch = stretch_at(engine, rods, speed)
    taken = stretch.value * floor_share(geometry, train.side)
    overshoot = float(rest.min() - moved[pick])
    # beyond contact the motion is a range; half of what it takes is carried as doubt. Source: judgement
    spread = math.hypot(least.spread, stretch.spread, 0.5 * max(overshoot, 0.0))
    return AtSpeed(
        side=train.side, speed=speed, at_rest=float(rest.min()), overshoot=overshoot, stretch=taken, left=float(moved[pick]) - taken, at=float(_NEAR[pick]), spread=spread,
        known=least.rest.how != "estimate",
    )  # fmt: skip


def check_at_speed(found: AtSpeed, goal: Goal) -> Check:
    """The check of what is left at the over-rev."""
    limit, origin = limit_of(goal, "gap_at_speed_limit")
    margin = found.left - limit
    verdict = judge(margin, found.spread, on_estimates=not found.known)
    if not found.known and verdict is not Verdict.SHORT:
        verdict = Verdict.UNPROVEN
    mm = lambda value: amount(value, LENGTH)
    why = (
        f"At {found.speed * 60:,.0f} rpm the valve runs {mm(max(found.overshoot, 0.0))} beyond where the lobe holds it at rest, rod and bearings "
        f"take {mm(found.stretch)}: of {mm(found.at_rest)} at rest {mm(found.left)} are left."
    )
    return Check(
        code=CheckCode.AT_SPEED, about=found.side.value, side=found.side, worst="", kind=QuantityKind.LENGTH, figure=found.left, limit=limit, at_least=True, margin=margin, spread=found.spread,
        basis="computed" if found.known else "estimates", dominant=(), verdict=verdict, why=why, limit_origin=origin,
    )  # fmt: skip


def checks_at_speed(
    room: RoomReview, trains: Mapping[Side, TrainSide], motions: Mapping[Side, Sweep], engine: FigureMap, rods: str, goal: Goal
) -> list[Check]:  # fmt: skip
    """At the over-rev, for each side whose gap at rest is more than an estimate and whose motion is known there."""
    checks = []
    for side, least in room.pistons.items():
        if side in motions and least.rest.how != "estimate":
            try:
                checks.append(
                    check_at_speed(at_speed(room.geometry, trains[side], least, motions[side], engine, rods, goal.over_rev), goal)
                )
            except OutOfRangeError:
                continue
    return checks
