"""Fill the gaps of a build record with estimates drawn from its kind, so that a first verdict is possible at once.

All rules here are judgement (source: judgement): wide spreads, meant to be typed over. They rest on four-stroke engines of
100 to 1,500 cm3 with steel valves.
"""

from collections.abc import Mapping

from valvetrain.formulas.separation import separation_speed
from valvetrain.formulas.slider_crank import piston_acceleration
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.parts.record import SideRecord

_MM = 1e-3
_USUAL_ENGINE = {1: (95.0, 63.0), 2: (76.0, 66.0), 3: (79.0, 66.0), 4: (76.0, 55.0)}  # bore, stroke in mm by cylinders
_USUAL_LIMITER = {Gear.DOHC: 10500.0, Gear.OHC: 8000.0, Gear.PUSH_ROD: 4500.0, Gear.SIDE_VALVE: 3600.0}
_HEAD_TO_BORE = {(Side.INTAKE, 1): 0.46, (Side.EXHAUST, 1): 0.39, (Side.INTAKE, 2): 0.385, (Side.EXHAUST, 2): 0.33}
# Moving mass of the follower as felt at the valve, g at a 30 mm valve
_FOLLOWER_MASS = {Follower.BUCKET: 32.0, Follower.FINGER: 8.0, Follower.ROCKER: 34.0, Follower.TAPPET: 60.0}
_LEAST_CLEARANCE = {Side.INTAKE: 0.10, Side.EXHAUST: 0.17}
STOCK_BACK_PRESSURE = 0.1e5  # Pa gauge, mean, of an engine without boost and with its silencer
_STOCK_MARGIN = 1.15  # makers' springs usually hold the limiter with 10 to 20 % in hand
_SEAT_SHARE = 0.38  # seat load over open load


# How a train shakes, none of it calibrated: value, and the share that its k = 2 factor may be off (1.0: half to twice). Source: judgement
VIBRATION = {
    "train_damping": (0.07, 1.0), "seat_stiffness": (60e6, 0.6), "seat_damping": (0.15, 1.0), "spring_damping": (0.02, 1.5), "clash": (20.0, 1.0),
}  # fmt: skip
_RUBBING = estimate(0.05, 1.0)  # damping of springs pressed into one another or round a flat damper. Source: judgement
# Steps, thinnest and thickest on sale, mm, where they are not those of small shims; of a graded bucket the crown. Source: judgement
_SIZES = {Adjuster.GRADED_BUCKET: (0.02, 2.50, 6.00), Adjuster.LASH_CAP: (0.05, 1.50, 5.00)}
_TRAIN_STIFFNESS = {Gear.DOHC: 20e6, Gear.OHC: 12e6, Gear.PUSH_ROD: 3e6, Gear.SIDE_VALVE: 15e6}  # N/m at the valve


def complete_engine(kind: EngineKind, known: FigureMap) -> dict[str, Figure]:
    """Engine figures: the known ones, and an estimate for each that is missing."""
    bore, stroke = _USUAL_ENGINE.get(kind.cylinders, _USUAL_ENGINE[4])
    if kind.gear in (Gear.PUSH_ROD, Gear.SIDE_VALVE):
        bore, stroke = 70.0, 58.0
    guess = {"bore": estimate(bore * _MM, 0.10), "stroke": estimate(stroke * _MM, 0.10)} | dict(known)
    guess.setdefault("rod_length", estimate(guess["stroke"].value * 1.85, 0.08))
    guess.setdefault("compression", estimate(8.0 if kind.gear is Gear.SIDE_VALVE else 11.5, 0.12))
    # The limiter scales so that mean piston speed stays alike between strokes.
    limiter = _USUAL_LIMITER[kind.gear] / 60.0 * (stroke * _MM / guess["stroke"].value) ** 0.5
    guess.setdefault("limiter", estimate(limiter, 0.10))
    guess.setdefault("peak", estimate(guess["limiter"].value * 0.93, 0.06))
    guess.setdefault("idle", estimate(max(guess["limiter"].value * 0.14, 1200 / 60), 0.2))
    for side in Side:
        least = _LEAST_CLEARANCE[side] * _MM * (0.5 if kind.gear is Gear.PUSH_ROD else 1.0)
        guess.setdefault(f"clearance_{side}_least", estimate(least, 0.3))
        guess.setdefault(f"clearance_{side}_most", estimate(guess[f"clearance_{side}_least"].value + 0.07 * _MM, 0.3))
    step, thinnest, thickest = _SIZES.get(kind.adjuster, (0.05, 1.20, 3.50))
    guess.setdefault("shim_step", estimate(step * _MM))
    guess.setdefault("shim_thinnest", estimate(thinnest * _MM))
    guess.setdefault("shim_thickest", estimate(thickest * _MM))
    guess.setdefault("rocker_ratio", estimate(1.0 if kind.follower in (Follower.BUCKET, Follower.TAPPET) else 1.3, 0.1))
    guess.setdefault("screw_ratio", estimate(1.0, 0.0))
    guess.setdefault("screw_pitch", estimate(0.75 * _MM, 0.3))
    guess.setdefault("train_stiffness", estimate(_TRAIN_STIFFNESS[kind.gear], 0.7 if kind.gear is Gear.PUSH_ROD else 1.0))
    for key, (value, share) in VIBRATION.items():
        guess.setdefault(key, estimate(value, share))
    # a finger's blade stands at the cam, so the ratio of the blade is that of the lift
    lever = guess["rocker_ratio"].value if kind.follower is Follower.FINGER else 1.3
    guess.setdefault("lift_ratio", estimate(1.0 if kind.follower in (Follower.BUCKET, Follower.TAPPET) else lever, 0.1))
    return guess


def vibration(engine: FigureMap, spring_facts: tuple[Mapping[str, str], ...]) -> dict[str, Figure]:
    """How one side shakes: the engine's figures; springs that rub on one another are taken to be damped more, until it is typed."""
    figures = {key: engine[key] for key in ("train_stiffness", *VIBRATION)}
    rubs = any(facts.get("nested") in ("interference", "damper") for facts in spring_facts)
    if rubs and figures["spring_damping"].basis is Basis.ESTIMATE:
        figures["spring_damping"] = _RUBBING
    return figures


def complete_parts(kind: EngineKind, side: Side, record: SideRecord, bore: float) -> dict[Owner, dict[str, Figure]]:
    """Valve, retainer, keepers, follower and shim figures of one side; `bore` in m."""
    known = {owner: dict(part.figures) for owner, part in record.parts.items()}
    valve = known.setdefault(Owner.VALVE, {})
    per_side = min(kind.valves_per_side, 2)
    valve.setdefault("head_diameter", estimate(_HEAD_TO_BORE[side, per_side] * bore, 0.07))
    head = valve["head_diameter"].value
    valve.setdefault("stem_diameter", estimate((4.6 if kind.gear is Gear.DOHC else 6.0) * _MM, 0.12))
    valve.setdefault("seat_width", estimate((1.1 if side is Side.INTAKE else 1.3) * _MM, 0.25))
    stem = valve["stem_diameter"].value
    size = head / (30.0 * _MM)
    valve.setdefault("mass", estimate(0.027 * size**1.6 * (stem / (5.0 * _MM)), 0.22))
    known.setdefault(Owner.RETAINER, {}).setdefault("mass", estimate(0.0095 * stem / (5.0 * _MM), 0.25))
    known.setdefault(Owner.KEEPERS, {}).setdefault("mass", estimate(0.0017 * (stem / (5.0 * _MM)) ** 2, 0.3))
    follower = _FOLLOWER_MASS[kind.follower] + (50.0 if kind.gear is Gear.PUSH_ROD else 0.0)
    known.setdefault(Owner.FOLLOWER, {}).setdefault("mass", estimate(follower * 1e-3 * size, 0.3))
    shim = 0.0016 if kind.adjuster in (Adjuster.SHIM_UNDER, Adjuster.SHIM_ON_STEM, Adjuster.LASH_CAP) else 0.0
    shim = 0.006 if kind.adjuster is Adjuster.SHIM_OVER else shim
    known.setdefault(Owner.SHIM, {}).setdefault("mass", estimate(max(shim, 1e-4), 0.3))
    return known


def complete_fit(known: FigureMap, lift: float, clearance: Figure) -> dict[str, Figure]:
    """Installed height and gaps of one side; `lift` in m."""
    fit = dict(known)
    fit.setdefault("installed_height", estimate(lift + 26.5 * _MM, 0.06))
    fit.setdefault("inner_step", estimate(1.0 * _MM, spread=0.5 * _MM))
    fit.setdefault("spring_shim", Figure(0.0, 0.0, Basis.CARD))
    fit.setdefault("retainer_to_seal", estimate(lift + 2.0 * _MM, spread=1.0 * _MM))
    fit.setdefault("clearance", clearance)
    return fit


def complete_springs(
    springs: tuple[FigureMap, ...], fit: Mapping[str, Figure], curve: LiftCurve, mass: float, limiter: float
) -> tuple[dict[str, Figure], ...]:
    """Spring figures; missing ones so that the stock train holds the stock limiter (rev/s) with what makers leave in hand.

    `curve` is the cam's at the valve, `mass` the moving mass (kg) without springs. Each spring of a pack is taken to carry an equal share.
    """
    height = fit["installed_height"].value
    lift = curve.full - fit["clearance"].value
    open_force = 500.0
    for _ in range(4):  # the springs' own third depends on what they must push, and settles at once
        own = sum(known["mass"].value if "mass" in known else _spring_mass(open_force / len(springs)) for known in springs) / 3.0
        open_force = _needed_open_load(curve, lift, fit["clearance"].value, mass + own, limiter)
    completed = []
    for number, known in enumerate(springs):
        spring = dict(known)
        share = (1.0 if len(springs) == 1 else 0.7) if number == 0 else 0.3
        own_height = height - (fit["inner_step"].value if number else 0.0)
        seat = open_force * _SEAT_SHARE * share
        if "load" not in spring or "load_height" not in spring:
            spring["load"] = estimate(seat, 0.18)
            spring["load_height"] = Figure(own_height, 0.0, Basis.ESTIMATE)
        spring.setdefault("rate", estimate((open_force * share - seat) / lift, 0.18))
        spring.setdefault("solid_height", estimate(own_height - lift - 2.0 * _MM, spread=1.0 * _MM))
        spring.setdefault("mass", estimate(_spring_mass(open_force * share), 0.3))
        completed.append(spring)
    return tuple(completed)


def _spring_mass(open_load: float) -> float:
    return 0.008 + 5.5e-5 * open_load


def _needed_open_load(curve: LiftCurve, lift: float, clearance: float, mass: float, limiter: float) -> float:
    unit = _SEAT_SHARE + (1.0 - _SEAT_SHARE) * (curve.lift - clearance).clip(0.0) / lift
    speed = 2.0 * separation_speed(mass, curve.acceleration, unit)
    return float((_STOCK_MARGIN * limiter / speed) ** 2)


# Limits by use: coil bind mm, retainer to seal mm, mean piston speed m/s. Source: trade (METHODS section 14).
_LIMITS = dict.fromkeys(Use, (1.0, 1.0, 22.0)) | {
    Use.ROAD_RACE: (0.8, 1.0, 25.0),
    Use.DRAG: (0.8, 1.0, 26.0),
    Use.MOTOCROSS: (0.8, 1.0, 25.0),
    Use.ENDURANCE: (1.0, 1.2, 22.0),
    Use.WORK: (1.2, 1.2, 14.0),
}


_RACE = {Use.ROAD_RACE, Use.DRAG, Use.MOTOCROSS}
# Piston to intake and exhaust valve, mm: race, long life, and with aluminium rods, which grow and stretch more. Source: trade
_PISTON_GAPS = {"race": (1.0, 1.5), "life": (1.5, 2.0), "aluminium": (2.0, 2.5)}
# The other gaps, mm: race, long life. Source: trade
_GAPS = {
    "pocket_rim_limit": (0.75, 1.0), "valve_valve_limit": (1.0, 1.5), "valve_bore_limit": (0.5, 1.0), "nested_limit": (0.2, 0.2),
    "follower_limit": (0.5, 0.5), "lobe_head_limit": (0.5, 0.5), "spring_pocket_limit": (0.5, 0.5), "head_room_limit": (1.0, 1.0),
    "gap_at_speed_limit": (0.3, 0.5),
}  # fmt: skip


def room_limits(use: Use, rods: str) -> dict[str, Figure]:
    """Limits of the gaps, of piston acceleration and rod load, by use and what the rods are of."""
    race = use in _RACE
    intake, exhaust = _PISTON_GAPS["aluminium" if rods == "aluminium" else "race" if race else "life"]
    found = {"piston_gap_limit_intake": estimate(intake * _MM), "piston_gap_limit_exhaust": estimate(exhaust * _MM)}
    found |= {key: estimate((short if race else long) * _MM) for key, (short, long) in _GAPS.items()}
    found["acceleration_limit"] = estimate(45000.0 if race else 35000.0)  # m/s2; source: trade, from engines larger than these
    found["rod_load_limit"] = estimate(1.35)  # inertia pull over that at the stock limiter; source: judgement
    return found


def complete_goal(
    known: FigureMap, use: Use, engine: FigureMap, seat_loads: Mapping[Side, Figure], rods: str = ""
) -> dict[str, Figure]:  # fmt: skip
    """Goal figures; `seat_loads` are the stock seat loads: the force that held each valve shut without boost; `rods` of what."""
    goal = dict(known)
    goal.setdefault("goal_rpm", estimate(engine["limiter"].value))
    goal.setdefault("over_rev", estimate(goal["goal_rpm"].value * 1.05))
    goal.setdefault("boost", Figure(0.0, 0.0, Basis.CARD))
    boosted = goal["boost"].value > 0.0
    goal.setdefault("back_pressure", estimate(goal["boost"].value * 0.9 if boosted else STOCK_BACK_PRESSURE, 0.4))
    goal.setdefault("pulse_factor", estimate(1.5, 0.2))
    goal.setdefault("reserve", estimate(0.10))
    for side in Side:
        if f"seat_force_{side}" not in goal:
            stock = seat_loads[side]
            goal[f"seat_force_{side}"] = Figure(stock.value, 0.0, stock.basis)
    bind, gap, speed = _LIMITS[use]
    goal.setdefault("coil_bind_limit", estimate(bind * _MM))
    goal.setdefault("retainer_limit", estimate(gap * _MM))
    goal.setdefault("piston_speed_limit", estimate(speed))
    goal.setdefault("interval", estimate(100 * 3600.0))
    for key, figure in room_limits(use, rods).items():
        goal.setdefault(key, figure)
    if "acceleration_limit" not in known:
        # short strokes live with more: what the maker runs at the stock limiter and a quarter. Source: judgement
        pull = piston_acceleration(engine["stroke"].value, engine["rod_length"].value, engine["limiter"].value)
        goal["acceleration_limit"] = estimate(max(goal["acceleration_limit"].value, 1.25 * pull))
    return goal
