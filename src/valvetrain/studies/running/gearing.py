"""Gearing: speed on road, track or water from engine speed, and whether a sprocket is the cheaper speed."""

from dataclasses import dataclass, replace
from itertools import pairwise

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.driveline import chain_links, engine_speed, overall_ratio, road_speed, shaft_distance, speed_in_gear, water_speed
from valvetrain.parts.figure import FigureMap

_FRONT, _REAR = 2, 6  # teeth that a shop tries either way


@dataclass(frozen=True)
class GearLine:
    """One gear: overall ratio and speed over the ground (m/s) at each asked crank speed."""

    gear: int
    ratio: float
    speeds: tuple[float, ...]


@dataclass(frozen=True)
class SprocketPair:
    """A pair of sprockets: overall ratio in top gear, crank speed (rev/s) at the speed wished for, teeth changed in all, and links that the
    chain grows by at the same distance of the shafts (half the teeth added; ISO 606, first term); `length` is the whole chain in links
    where the present one is told."""

    front: int
    rear: int
    ratio: float
    needs: float
    changed: int
    links: float
    length: float | None = None


@dataclass(frozen=True)
class Driveline:
    """What the engine drives, as far as it is told. `kind` is road, single, water, governed or none; `missing` what road or water still lacks.
    `shifts` are crank speeds (rev/s) after each upshift from the stock limiter and from the goal; `distance` (m) is that of the shafts."""

    kind: str
    lines: tuple[GearLine, ...]
    needs: float | None
    pairs: tuple[SprocketPair, ...]
    missing: tuple[str, ...]
    sentence: str
    shifts: tuple["Upshift", ...] = ()
    clutch: tuple[float, float] | None = None
    distance: float | None = None


@dataclass(frozen=True)
class Upshift:
    """A change up: out of which gear, and the crank speed (rev/s) that it lands at from the stock limiter and from the goal."""

    gear: int
    limiter: float
    goal: float


def machine_of(engine: FigureMap, told: str) -> str:
    """What the engine drives: as told, or as its figures say; empty where neither does."""
    if told:
        return told
    if "impeller_pitch" in engine:
        return "water"
    if "governed" in engine:
        return "governed"
    if gears_of(engine):
        return "gearbox"
    return "single" if "clutch_engages" in engine else ""


def gears_of(engine: FigureMap) -> dict[int, float]:
    """Gear ratios by number, as far as told."""
    return {number: engine[f"gear_{number}"].value for number in range(1, 7) if f"gear_{number}" in engine}


def rolling_at(engine: FigureMap, *, top: bool) -> float:
    """How far the wheel moves the machine in a turn, m: grown at top speed, less its slip under power."""
    growth = engine["tyre_growth"].value if "tyre_growth" in engine and top else 0.0
    slip = engine["wheel_slip"].value if "wheel_slip" in engine else 0.0
    return engine["rolling"].value * (1.0 + growth) * (1.0 - slip)


def _road_missing(engine: FigureMap, machine: str) -> list[str]:
    words = {"front_teeth": "front sprocket", "rear_teeth": "rear sprocket", "rolling": "how far the wheel rolls in one turn"}
    missing = [name for key, name in words.items() if key not in engine]
    return missing if machine == "single" or gears_of(engine) else [*missing, "the gear ratios"]


def primary_ratio(engine: FigureMap) -> float:
    """Turns of the crank for one of the clutch; 1 where it is not known."""
    if "primary_teeth_crank" in engine and "primary_teeth_clutch" in engine:
        return engine["primary_teeth_clutch"].value / engine["primary_teeth_crank"].value
    return 1.0


def _upshifts(gears: dict[int, float], limiter: float, goal: float) -> tuple[Upshift, ...]:
    numbers = sorted(gears)
    return tuple(
        Upshift(low, speed_in_gear(limiter, gears[low], gears[high]), speed_in_gear(goal, gears[low], gears[high]))
        for low, high in pairwise(numbers)
    )


def shafts_apart(engine: FigureMap) -> float | None:
    """Distance of the shafts (m) from the chain that is on, or None where pitch, links or teeth are not known or cannot be."""
    if not engine.keys() >= {"chain_pitch", "chain_links", "front_teeth", "rear_teeth"}:
        return None
    try:
        return shaft_distance(*(engine[key].value for key in ("chain_links", "chain_pitch", "front_teeth", "rear_teeth")))
    except OutOfRangeError:
        return None


def driveline(
    engine: FigureMap, speeds: tuple[float, ...], wished: float | None, limiter: float, goal: float, machine: str = ""
) -> Driveline:
    """Speeds in every gear at the asked crank speeds (rev/s); sprockets that give the speed wished for (m/s) at or below the limiter. `machine`
    is what the engine is told to drive, in the catalogue's word."""
    machine = machine_of(engine, machine)
    if machine == "water":
        if "impeller_pitch" not in engine:
            return Driveline(
                "none",
                (),
                None,
                (),
                ("the pitch of impeller or screw",),
                "For speeds on the water the pitch of impeller or screw is missing.",
            )
        ratio = engine["impeller_ratio"].value if "impeller_ratio" in engine else 1.0
        slip = engine["impeller_slip"].value if "impeller_slip" in engine else 0.2
        pitch = engine["impeller_pitch"].value
        water = (GearLine(1, ratio, tuple(water_speed(speed, pitch, ratio, slip) for speed in speeds)),)
        needs = wished * ratio / (pitch * (1.0 - slip)) if wished else None
        return Driveline("water", water, needs, (), (), _water_words(needs, limiter, goal))
    if machine == "governed":
        if "governed" not in engine:
            return Driveline("none", (), None, (), ("what the governor holds",), "Type the speed that the governor holds.")
        held = engine["governed"].value
        words = (
            f"The governor holds {held * 60:,.0f} rpm. More speed means going past it: flywheel and rod are rated for what it holds, "
            "and a flywheel that bursts kills. Take it off only where the maker's parts for that speed are in."
        )
        return Driveline("governed", (), None, (), (), words)
    missing = _road_missing(engine, machine)
    if missing:
        return Driveline("none", (), None, (), tuple(missing), f"For speeds on road or track still missing: {', '.join(missing)}.")
    primary, front, rear = primary_ratio(engine), engine["front_teeth"].value, engine["rear_teeth"].value
    single = machine == "single"
    gears = {1: 1.0} if single else gears_of(engine)
    last = max(gears)
    lines: list[GearLine] = []
    for number, gear in gears.items():
        ratio = overall_ratio(primary, gear, front, rear)
        lines.append(GearLine(number, ratio, tuple(road_speed(s, rolling_at(engine, top=number == last), ratio) for s in speeds)))
    clutch = None
    if single and "clutch_engages" in engine:
        engages = engine["clutch_engages"].value
        clutch = (engages, road_speed(engages, rolling_at(engine, top=False), lines[-1].ratio))
    told = Driveline(
        kind="single" if single else "road",
        lines=tuple(lines),
        needs=None,
        pairs=(),
        missing=(),
        sentence="Type the speed that is wished for, and the sprockets that give it are listed.",
        shifts=_upshifts(gears, limiter, goal),
        clutch=clutch,
        distance=shafts_apart(engine),
    )
    if not wished:
        return told
    needs = engine_speed(wished, rolling_at(engine, top=True), lines[-1].ratio)
    pairs = _pairs(engine, primary, gears[last], wished, limiter) if needs > limiter else ()
    return replace(
        told, needs=needs, pairs=pairs, sentence=_road_words(needs, limiter, goal, pairs, (front, rear), "" if single else " in top gear")
    )


def _pairs(engine: FigureMap, primary: float, gear: float, wished: float, limiter: float) -> tuple[SprocketPair, ...]:
    front, rear, apart = round(engine["front_teeth"].value), round(engine["rear_teeth"].value), shafts_apart(engine)
    pitch = engine["chain_pitch"].value if apart else 0.0
    found = []
    for f in range(front - _FRONT, front + _FRONT + 1):
        for r in range(rear - _REAR, rear + _REAR + 1):
            if f < 5 or r < 8:
                continue
            ratio = overall_ratio(primary, gear, f, r)
            needs = engine_speed(wished, rolling_at(engine, top=True), ratio)
            if needs <= limiter:
                whole = chain_links(apart, pitch, f, r) if apart else None
                found.append(SprocketPair(f, r, ratio, needs, abs(f - front) + abs(r - rear), (f - front + r - rear) / 2.0, whole))
    return tuple(sorted(found, key=lambda pair: (pair.changed, -pair.needs))[:6])


def _water_words(needs: float | None, limiter: float, goal: float) -> str:
    if needs is None:
        return "Type the speed you want: the engine speed it takes is shown."
    room = "within the stock limiter" if needs <= limiter else "within the goal" if needs <= goal else "beyond the goal"
    tail = "" if needs <= limiter else " A coarser impeller is the cheaper speed where the engine pulls it; it pulls less from standing."
    return f"That speed takes {needs * 60:,.0f} rpm with this impeller, {room}.{tail}"


def _road_words(needs: float, limiter: float, goal: float, pairs: tuple[SprocketPair, ...], teeth: tuple[float, float], gear: str) -> str:
    speed = f"That speed takes {needs * 60:,.0f} rpm{gear} on {teeth[0]:.0f}/{teeth[1]:.0f}"
    if needs <= limiter:
        return f"{speed}, within the stock limiter: if it is not reached, power is short, not revs."
    if not pairs:
        place = "within the goal" if needs <= goal else "beyond the goal"
        return f"{speed}, {place}; no pair within {_FRONT} teeth in front and {_REAR} behind brings it under the stock limiter."
    best = pairs[0]
    return (
        f"{speed}, {(needs - limiter) * 60:,.0f} rpm past the stock limiter. {best.front}/{best.rear} brings it to {best.needs * 60:,.0f} rpm: a "
        "sprocket is the cheaper speed, as long as the engine pulls it; it costs drive out of the corners."
    )
