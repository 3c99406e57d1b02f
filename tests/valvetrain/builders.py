"""Small builds for the tests of the studies: round invented figures, SI inside."""

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use, ValvePosition
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.lobe import Lobe, Origin, StatedAt
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord
from valvetrain.parts.setup import TrainSide

TRIPLE = EngineKind(3, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)


def measured(value: float, spread: float = 0.0) -> Figure:
    return Figure(value, spread, Basis.MEASURED)


def known_side(**fit: float) -> SideRecord:
    """A fully measured side without spreads: seat load 178 N at 37.2 mm, 38.4 N/mm, lift 9.25 mm."""
    mass = {Owner.VALVE: 42.6, Owner.RETAINER: 11.8, Owner.KEEPERS: 1.9, Owner.FOLLOWER: 36.4, Owner.SHIM: 1.4}
    parts = {owner: PartRecord(owner.value, {"mass": measured(grams * 1e-3)}) for owner, grams in mass.items()}
    valve = {"head_diameter": measured(31e-3), "seat_width": measured(1.5e-3), "stem_diameter": measured(6e-3)}
    parts[Owner.VALVE] = PartRecord("valve", {**parts[Owner.VALVE].figures, **valve})
    cam = {
        "lift": 9.25e-3,
        "height_1": 1e-3,
        "duration_1": math.radians(236),
        "lobe_centre": math.radians(110),
        "ramp_velocity": 0.018e-3 * 180 / math.pi,
    }
    parts[Owner.CAM] = PartRecord("cam", {key: measured(value) for key, value in cam.items()})
    spring = {"rate": 38400.0, "load": 178.0, "load_height": 37.2e-3, "solid_height": 26.1e-3, "mass": 45.9e-3}
    fitted = {"installed_height": 37.2e-3, "spring_shim": 0.0, "retainer_to_seal": 11e-3, "clearance": 0.25e-3} | fit
    return SideRecord(
        parts,
        (PartRecord("spring", {key: measured(value) for key, value in spring.items()}),),
        {key: measured(value) for key, value in fitted.items()},
    )


def known_build(**goal: float) -> BuildRecord:
    """A measured triple; goal figures in SI, 8,400 rpm and no boost where none is given."""
    positions = tuple(ValvePosition(f"{side[:2].upper()} {n}", side, n) for side in Side for n in (1, 2, 3))
    wanted = {"goal_rpm": 140.0, "over_rev": 150.0, "reserve": 0.07} | goal
    sides = dict.fromkeys(Side, known_side())
    engine = {"bore": measured(96e-3), "stroke": measured(69e-3), "limiter": measured(130.0)}
    return BuildRecord(
        "triple", TRIPLE, engine, {key: measured(value) for key, value in wanted.items()}, Use.RESCUE, positions, sides, dict(sides)
    )


def with_proposed(record: BuildRecord, side: Side, changed: SideRecord) -> BuildRecord:
    return replace(record, proposed={**record.proposed, side: changed})


def empty_build(kind: EngineKind) -> BuildRecord:
    """Nothing known but the kind."""
    nothing = dict.fromkeys(Side, SideRecord())
    return BuildRecord("unknown", kind, {}, {}, Use.STREET, (), nothing, dict(nothing))


def on_its_own_lobe(side: TrainSide) -> TrainSide:
    """The side with the lobe that is drawn for it known point by point, its coils counted and nothing learnt: no doubt of law is left."""
    curve = side.curve
    points = np.linspace(float(curve.angle[0]), float(curve.angle[-1]), 721)
    lobe = Lobe(
        tuple(points.tolist()), tuple(curve.smooth_lift_at(points).tolist()), StatedAt.VALVE, Origin.TABLE, 0.0, 0.0, 0.0
    )  # fmt: skip
    springs = tuple(replace(packed, spring=replace(packed.spring, active=measured(packed.spring.active.value))) for packed in side.springs)
    return replace(side, cam=replace(side.cam, shape=lobe, at=StatedAt.VALVE), springs=springs, shape=Figure(1.0), joint=None)


def harmonic(lift: float, half_degrees: float, points: int = 8001) -> LiftCurve:
    """Closed form s = L/2 (1 + cos(pi theta/half)), lift in m, half event in cam degrees."""
    half = math.radians(half_degrees)
    angle, rate, scale = np.linspace(-half, half, points), math.pi / half, lift / 2.0
    x = rate * angle
    parts = (scale * (1 + np.cos(x)), -scale * rate * np.sin(x), -scale * rate**2 * np.cos(x), scale * rate**3 * np.sin(x))
    return LiftCurve(angle, *parts)


def eccentric(base: float, throw: float, points: int = 721) -> NDArray[np.complex128]:
    """Outline of an eccentric circle: base radius and throw in m. An exact cam for every follower; clockwise from below."""
    turn = np.linspace(math.pi * 1.5 - 1e-9, -math.pi / 2.0 + 1e-9, points)
    return 1j * throw + (base + throw) * np.exp(1j * turn)


def roller_pitch_radius(base: float, roller: float, s: np.ndarray, v: np.ndarray, a: np.ndarray) -> np.ndarray:
    """Closed form for a straight roller without offset, an independent check of the geometry (METHODS 2; Norton, from memory)."""
    reach = base + roller + s
    return np.asarray((reach**2 + v**2) ** 1.5 / (reach**2 + 2.0 * v**2 - a * reach))


def roller_pressure_angle(base: float, roller: float, s: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Closed form of the same, tan(phi) = v / (Rb + Rr + s)."""
    return np.arctan2(v, base + roller + s)
