"""A complete, assessable valve train: every figure is there, known or estimated."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from valvetrain.parts.cam_source import CamSource
from valvetrain.parts.engine import EngineKind, Side, Use, ValvePosition
from valvetrain.parts.figure import Figure
from valvetrain.parts.joint import Joint
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.spring import PackedSpring


@dataclass(frozen=True)
class TrainSide:
    """One side of the head. `masses` maps part names to the moving mass of each (kg), springs not included.

    `lift` is at the valve before clearance; `duration` carries the spread of the cam's durations; `shape` (about 1) carries how well the flank's form is known.
    `installed_height` is seat to retainer, shut, without added shim; `retainer_to_seal` is the gap when shut. `vibration` holds how the
    train shakes: stiffnesses N/m at the valve, damping ratios, and `clash`, closed coils over open ones. `joint` are the rows in which
    estimates belong together, weighted by what the stock engine is known to do. One lobe works `on_a_lobe` valves: each carries its share
    of their rocker, and the lobe bears the force of all.
    """

    side: Side
    cam: CamSource
    lobe_centre: Figure
    lift: Figure
    duration: Figure
    shape: Figure
    masses: Mapping[str, Figure]
    springs: tuple[PackedSpring, ...]
    installed_height: Figure
    spring_shim: Figure
    retainer_to_seal: Figure
    clearance: Figure
    head_diameter: Figure
    seat_width: Figure
    stem_diameter: Figure
    positions: tuple[ValvePosition, ...]
    vibration: Mapping[str, Figure] = field(default_factory=dict)
    joint: Joint | None = None
    on_a_lobe: int = 1

    @property
    def curve(self) -> LiftCurve:
        """Lift curve at the valve, before clearance."""
        return self.cam.curve


@dataclass(frozen=True)
class LowProfile:
    """The low lobe of a two-profile side: the same train on another lobe and follower, up to the change-over (crank rev/s)."""

    train: TrainSide
    switch_speed: Figure


@dataclass(frozen=True)
class Setup:
    """An engine with one set of valve-train parts in it; `lifters` is the crank speed (rev/s) to which its hydraulic elements are good."""

    kind: EngineKind
    stroke: Figure
    sides: Mapping[Side, TrainSide]
    low: Mapping[Side, LowProfile] = field(default_factory=dict)
    lifters: Figure | None = None


@dataclass(frozen=True)
class Goal:
    """What the engine shall do. Speeds in rev/s, pressures gauge Pa, forces N, lengths m, piston speed m/s.

    `seat_force` per side is the force that must be left on the seat beyond the gas load; where it was taken from the stock
    springs, `seat_reference` holds those, so that an error of their load is not held against themselves. `limits` are those of the
    gaps (m) and of piston and rod, by the catalogue's key; `origin` maps a limit's key to where it comes from; a limit that is not in it is the trade's (source: trade).
    """

    goal_rpm: float
    over_rev: float
    boost: Figure
    back_pressure: Figure
    pulse_factor: Figure
    reserve: float
    seat_force: Mapping[Side, Figure]
    coil_bind_limit: float
    retainer_limit: float
    piston_speed_limit: float
    limits: Mapping[str, float] = field(default_factory=dict)
    use: Use = Use.STREET
    seat_reference: Mapping[Side, tuple[PackedSpring, ...]] = field(default_factory=dict)
    origin: Mapping[str, str] = field(default_factory=dict)
