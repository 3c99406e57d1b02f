"""What an engine is made of, and where its valves sit."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class Side(StrEnum):
    """The two sides of a head."""

    INTAKE = "intake"
    EXHAUST = "exhaust"


class Gear(StrEnum):
    """Where the camshafts are and what they move."""

    DOHC = "dohc"
    OHC = "ohc"
    PUSH_ROD = "push_rod"
    SIDE_VALVE = "side_valve"


class Follower(StrEnum):
    """What rides on the lobe."""

    BUCKET = "bucket"
    FINGER = "finger"
    ROCKER = "rocker"
    TAPPET = "tappet"


class Adjuster(StrEnum):
    """What sets the clearance."""

    SHIM_UNDER = "shim_under"
    SHIM_OVER = "shim_over"
    SHIM_ON_STEM = "shim_on_stem"
    GRADED_BUCKET = "graded_bucket"
    SCREW = "screw"
    LASH_CAP = "lash_cap"
    STEM_GRIND = "stem_grind"
    HYDRAULIC = "hydraulic"


SHIMMED = frozenset({Adjuster.SHIM_UNDER, Adjuster.SHIM_OVER, Adjuster.SHIM_ON_STEM, Adjuster.LASH_CAP, Adjuster.GRADED_BUCKET})

# Which follower and adjuster go with which gear; the first of each is the usual one. Source: trade.
FITTING: dict[Gear, tuple[tuple[Follower, ...], tuple[Adjuster, ...]]] = {
    Gear.DOHC: (
        (Follower.BUCKET, Follower.FINGER, Follower.ROCKER),
        (Adjuster.SHIM_UNDER, Adjuster.SHIM_OVER, Adjuster.SHIM_ON_STEM, Adjuster.GRADED_BUCKET, Adjuster.SCREW, Adjuster.HYDRAULIC),
    ),
    Gear.OHC: (
        (Follower.ROCKER, Follower.BUCKET, Follower.FINGER),
        (Adjuster.SCREW, Adjuster.SHIM_UNDER, Adjuster.SHIM_OVER, Adjuster.SHIM_ON_STEM, Adjuster.GRADED_BUCKET, Adjuster.HYDRAULIC),
    ),
    Gear.PUSH_ROD: ((Follower.ROCKER,), (Adjuster.SCREW, Adjuster.LASH_CAP, Adjuster.HYDRAULIC)),
    Gear.SIDE_VALVE: ((Follower.TAPPET,), (Adjuster.STEM_GRIND, Adjuster.SCREW)),
}


class Use(StrEnum):
    """What the engine is for; sets the default limits."""

    TRAIL = "trail"
    STREET = "street"
    ROAD_RACE = "road_race"
    DRAG = "drag"
    MOTOCROSS = "motocross"
    ENDURANCE = "endurance"
    WORK = "work"
    RESCUE = "rescue"


@dataclass(frozen=True)
class ValvePosition:
    """One valve's place; `deviation` (m) is how much higher than the side's figure this valve's spring stands, `own_shim` (m) how much more shim
    than the side's lies under it: that is in the deviation already, and moves the spring but not the retainer."""

    name: str
    side: Side
    cylinder: int
    deviation: float = 0.0
    own_shim: float = 0.0

    @property
    def retainer_deviation(self) -> float:
        """How much higher than the side's figure this valve's retainer stands, m."""
        return self.deviation + self.own_shim


ONE_CAMSHAFT = frozenset({Gear.OHC, Gear.PUSH_ROD, Gear.SIDE_VALVE})
LEVERS = frozenset({Follower.FINGER, Follower.ROCKER})


@dataclass(frozen=True)
class EngineKind:
    """The make-up that estimates are drawn from. On a side that is `shared` one lobe works all valves of a cylinder through one forked or roller
    rocker; `caps` are lash caps beside adjusting screws."""

    cylinders: int
    valves_per_side: int
    gear: Gear
    follower: Follower
    adjuster: Adjuster
    shared: tuple[Side, ...] = ()
    caps: bool = False

    def on_a_lobe(self, side: Side) -> int:
        """Valves that one lobe of a side works."""
        return self.valves_per_side if side in self.shared else 1

    @property
    def one_camshaft(self) -> bool:
        """Whether one camshaft carries the lobes of both sides, so that moving it moves both."""
        return self.gear in ONE_CAMSHAFT


def kind_told(
    cylinders: int, valves_per_side: int, gear: Gear, follower: Follower, adjuster: Adjuster, facts: Mapping[str, str]
) -> EngineKind:
    """A make-up with what the words of the engine say of it: shared lobes (only of rockers and fingers over two or three valves), caps beside
    screws."""
    may = follower in LEVERS and valves_per_side > 1
    shared = tuple(side for side in Side if may and facts.get(f"lobe_{side}") == "shared")
    return EngineKind(
        cylinders, valves_per_side, gear, follower, adjuster, shared, adjuster is Adjuster.SCREW and facts.get("caps") == "yes"
    )
