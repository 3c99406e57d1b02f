"""Cautions where the hand is in danger: one registry, from which pages, sheets and procedures draw. Source of all: trade."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from valvetrain.parts.engine import Adjuster, EngineKind, Gear, Use
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.running.gearing import machine_of
from valvetrain.studies.train.assembly import CompletedBuild, keyhole


class Place(StrEnum):
    """Where a caution may stand: a page, the sheet, a procedure."""

    OVERVIEW = "overview"
    GOAL = "goal"
    TIMING = "timing"
    SPRINGS = "springs"
    NEW_PART = "new part"
    VALVES = "valves"
    MEASURE = "measure"
    OVER_REV = "over-rev"
    GEARING = "gearing"
    LASH = "lash"
    STOPS = "stops"
    SHEET = "sheet"
    LEAK_DOWN = "leak-down"
    MACHINE_SHOP = "machine shop"
    REGRIND = "regrind"
    MATERIALS = "materials"
    CRANKING = "cranking"
    PULL = "pull"


class Shape(StrEnum):
    """The sign beside the words."""

    EYE = "eye"
    HAND = "hand"
    BURST = "burst"
    FLAME = "flame"
    DUST = "dust"
    STOP = "stop"


@dataclass(frozen=True)
class Situation:
    """What decides which cautions apply. Speeds are crank rev/s; `maker` is the speed its maker holds it to."""

    kind: EngineKind
    use: Use = Use.STREET
    machine: str = ""
    utility: bool = False
    goal: float = 0.0
    maker: float = 0.0
    boosted: bool = False
    keyhole: bool = False
    practice: bool = False
    fuel: str = ""

    @property
    def water(self) -> bool:
        """Whether it sits in a hull, where fuel vapour gathers."""
        return self.machine == "water" or self.use is Use.RESCUE

    @property
    def cams_come_out(self) -> bool:
        """Whether a shim is reached only with the cams out."""
        return self.kind.gear in (Gear.DOHC, Gear.OHC) and self.kind.adjuster in (
            Adjuster.SHIM_UNDER,
            Adjuster.GRADED_BUCKET,
            Adjuster.SHIM_ON_STEM,
        )


When = Callable[[Situation], bool]


@dataclass(frozen=True)
class Caution:
    """One caution: its name, the sign, where it stands, when it applies, the words. A grave one is set large."""

    id: str
    shape: Shape
    places: frozenset[Place]
    when: When
    words: str
    grave: bool = False


def _always(_: Situation) -> bool:
    return True


def _at(*places: Place) -> frozenset[Place]:
    return frozenset(places)


_SLOWEST_CAR = (
    4600 / 60
)  # push-rod and side-valve engines held below this are utility engines, whatever they are put into. Source: judgement

CAUTIONS: tuple[Caution, ...] = (
    Caution(
        "governed-speed", Shape.BURST, _at(Place.OVERVIEW, Place.GOAL, Place.GEARING, Place.SPRINGS, Place.SHEET, Place.PULL),
        lambda s: s.utility and s.goal > s.maker * 1.0001,
        "This goal is above the speed its maker holds it to. Flywheel, rod and governor are made for that speed: beyond it a cast flywheel can burst and a "
        "cast rod break. Not without a flywheel and a rod rated for the new speed, and a shield.", grave=True,
    ),
    Caution(
        "boost", Shape.FLAME, _at(Place.OVERVIEW, Place.GOAL), lambda s: s.boosted,
        "More boost: look at fuel, ignition and charge heat first. Lean or early, a piston melts before a valve floats.",
    ),
    Caution(
        "valve-held", Shape.HAND, _at(Place.SPRINGS, Place.NEW_PART, Place.OVER_REV, Place.SHEET), lambda s: not s.keyhole,
        "With the head on, hold the valve up before its keepers come out: rope in the cylinder, or air with the crank locked and the piston at TDC.",
    ),
    Caution(
        "valve-held-keyhole", Shape.HAND, _at(Place.SPRINGS, Place.NEW_PART, Place.OVER_REV, Place.SHEET), lambda s: s.keyhole,
        "With the head on, hold the valve up before its retainer slides off: rope in the cylinder, or air with the crank locked and the piston at TDC.",
    ),
    Caution(
        "springs-fly", Shape.EYE, _at(Place.SPRINGS, Place.NEW_PART, Place.VALVES, Place.SHEET), _always,
        "A compressed spring flies: goggles, a compressor that fits, no bare fingers, no impact driver. Tap each stem end before the engine turns.",
    ),
    Caution(
        "borescope-first", Shape.STOP, _at(Place.OVER_REV), lambda s: s.kind.gear is not Gear.SIDE_VALVE,
        "Look with the borescope before the crank is turned: a bent valve and a piston meet again at the first turn.", grave=True,
    ),
    Caution(
        "leak-down", Shape.HAND, _at(Place.OVER_REV, Place.LEAK_DOWN), _always,
        "Leak-down: regulator up from zero, wrench off the crank, out of gear and brake on, hands off chain and sprocket. Air turns the engine.",
    ),
    Caution(
        "cranking", Shape.FLAME, _at(Place.CRANKING), _always,
        "Cranking with the plugs out: ignition earthed, fuel off, nobody before the plug holes, hands off chain and sprocket.",
    ),
    Caution(
        "full-throttle", Shape.BURST, _at(Place.PULL), _always,
        "Full throttle on a closed road, a track or a dyno with guards: nobody beside chain, belt or drum, new speeds in steps, the maker's limit wins. "
        "Whoever rides does not handle a phone.",
    ),
    Caution(
        "cams-out", Shape.STOP, _at(Place.LASH, Place.SHEET), lambda s: s.cams_come_out,
        "For shims the cams come out: count the pins, tensioner off first and wound back before it goes in, chain wired, wells covered, caps off in stages and "
        "kept in order, small parts counted out and in.",
    ),
    Caution(
        "piston-stop", Shape.STOP, _at(Place.TIMING), _always,
        "A piston stop only by hand, plug out, never on the starter.",
    ),
    Caution(
        "chain-off", Shape.STOP, _at(Place.TIMING), lambda s: s.kind.gear in (Gear.DOHC, Gear.OHC),
        "With the chain off neither crank nor cam is swung freely: valves meet pistons, and one another.",
    ),
    Caution(
        "stem-grinding", Shape.EYE, _at(Place.LASH, Place.SHEET), lambda s: s.kind.adjuster is Adjuster.STEM_GRIND,
        "Grinding a stem: goggles, dust away from the engine, square and cool, a little at a time, never through the hardened tip.",
    ),
    Caution(
        "fuel-vapour", Shape.FLAME, _at(Place.STOPS, Place.MEASURE, Place.OVER_REV, Place.LASH, Place.TIMING, Place.LEAK_DOWN, Place.CRANKING), lambda s: s.water,
        "In a hull: open it and blow out fuel vapour before any cranking; ignition earthed.", grave=True,
    ),
    Caution(
        "dust", Shape.DUST, _at(Place.VALVES, Place.NEW_PART, Place.SHEET, Place.MACHINE_SHOP, Place.MATERIALS), _always,
        "Seats, guides and valves: dust of nickel, titanium and beryllium is not to be breathed, and titanium chips burn. Wet, or with extraction; a shop that "
        "is equipped for it.",
    ),
    Caution(
        "licensed-shop", Shape.HAND, _at(Place.MACHINE_SHOP), _always,
        "Machine-shop work: a licensed shop, its own figures and the manual win over these.",
    ),
    Caution(
        "oven-and-nitrogen", Shape.FLAME, _at(Place.MACHINE_SHOP), _always,
        "A head out of the oven and a ring out of nitrogen burn hands: gloves, goggles, air. Liquid nitrogen and dry ice in no closed room.",
    ),
    Caution(
        "hard-case", Shape.STOP, _at(Place.REGRIND), _always,
        "A proposal for a grinder to check, never a drawing to grind by. What is ground off is the hard case: ask how deep it is (a nitrided skin is a few tenths "
        "of a millimetre), and whether it is hardened again. A rusty or pitted cam stays out.",
    ),
    Caution(
        "new-lobe", Shape.HAND, _at(Place.REGRIND), _always,
        "Followers that ran on the old lobe do not go on a new one. Degree the cam in, turn it by hand twice, measure the gaps to the piston.",
    ),
    Caution(
        "methanol", Shape.FLAME, _at(Place.GOAL, Place.MATERIALS), lambda s: s.fuel == "methanol",
        "Methanol burns without a visible flame and is poison through the skin: gloves, water at hand, no naked light.", grave=True,
    ),
    Caution(
        "hot-engine", Shape.FLAME, _at(Place.LASH), lambda s: s.kind.adjuster is not Adjuster.HYDRAULIC,
        "A hot engine burns hands, and its clearance is not the one in the manual: cold overnight.",
    ),
    Caution(
        "hydraulic", Shape.HAND, _at(Place.LASH), lambda s: s.kind.adjuster is Adjuster.HYDRAULIC,
        "Hydraulic elements that were out may stand too long at first: turn by hand twice and wait before the engine is started.",
    ),
    Caution(
        "practice", Shape.STOP, frozenset(Place), lambda s: s.practice,
        "Practice copy: readings here may be simulated. Never set or sign an engine by them.", grave=True,
    ),
)  # fmt: skip


def situation_of(record: BuildRecord, done: CompletedBuild | None) -> Situation:
    """What decides the cautions of a build; with `done` also goal, governor and what it drives."""
    kind, engine = record.kind, done.engine if done else record.engine
    machine = machine_of(engine, record.facts.get("machine", ""))
    slow = kind.gear in (Gear.PUSH_ROD, Gear.SIDE_VALVE) and "limiter" in engine and engine["limiter"].value < _SLOWEST_CAR
    limits = [engine[key].value for key in ("governed", "limiter") if key in engine]
    return Situation(
        kind=kind,
        use=record.use,
        machine=machine,
        utility="governed" in engine or machine == "governed" or record.use is Use.WORK or slow,
        goal=done.goal.goal_rpm if done else 0.0,
        maker=limits[0] if limits else 0.0,
        boosted=bool(done and done.goal.boost.value > 0.0),
        keyhole=any(keyhole(side.parts) for side in record.proposed.values()),
        practice=record.facts.get("practice") == "yes",
        fuel=record.goal_facts.get("fuel", "") or record.facts.get("fuel", ""),
    )


def cautions_at(place: Place, situation: Situation) -> tuple[Caution, ...]:
    """The cautions that stand at a place, grave ones first."""
    found = [caution for caution in CAUTIONS if place in caution.places and caution.when(situation)]
    return tuple(sorted(found, key=lambda caution: not caution.grave))


# What a step of a job warns of, by the names its data gives.
STEP_CAUTIONS: dict[str, tuple[Shape, str]] = {
    "eyes": (Shape.EYE, "Goggles on."),
    "spring": (Shape.EYE, "A compressed spring: no fingers in it, no impact driver, stand beside it."),
    "air": (Shape.HAND, "Air turns the crank: regulator up from zero, wrench off, hands off chain and sprocket."),
    "vapour": (Shape.FLAME, "Fuel vapour: no spark, no flame, let air in."),
    "start": (Shape.STOP, "Nobody touches the starter."),
    "stand": (Shape.STOP, "It tips or rolls: chocks and stands."),
    "hot": (Shape.FLAME, "Hot parts burn, and a warm clearance is false."),
    "coolant": (Shape.FLAME, "Hot coolant scalds, and it is poison: keep it off the floor."),
    "contact": (Shape.STOP, "Valves may meet pistons: turn by hand, slowly, and stop at any hard place."),
    "camcrack": (Shape.STOP, "Uneven load cracks a cam in two."),
    "chain": (Shape.STOP, "A tensioner put in extended breaks the chain."),
    "lift": (Shape.HAND, "Heavy: lift it straight, with two."),
    "dust": (Shape.DUST, "Dust of nickel, titanium and beryllium is not to be breathed; titanium chips burn."),
    "solvent": (Shape.FLAME, "Solvent: gloves, air, no flame."),
    "stemgrind": (Shape.EYE, "Square and cool, a little at a time, never through the hardened tip."),
    "flywheel": (Shape.BURST, "Above the speed it was made for a flywheel bursts."),
    "boost": (Shape.FLAME, "Lean or early, a piston melts before a valve floats."),
}
