"""Fill the gaps of a build record with estimates drawn from its kind, so that a first verdict is possible at once.

All rules here are judgement (source: judgement): wide spreads, meant to be typed over. Sizes, masses and springs of a side come from the
joint distribution of its class (`priors`, `side_estimates`).
"""

import math
from collections.abc import Mapping

from valvetrain.formulas.slider_crank import piston_acceleration
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.studies.train.priors import class_of

_MM = 1e-3
# Clearance intake, exhaust, and half the range that manuals give, mm. Source: trade
_CLEARANCE = {"small two-valve": (0.07, 0.09, 0.02), "push-rod": (0.10, 0.15, 0.03), "side valve": (0.12, 0.18, 0.04)}
_USUAL_CLEARANCE = (0.135, 0.205, 0.035)
# Pressure in the cylinder while it draws in behind a closed throttle, Pa gauge. Source: judgement (idle vacuum of 0.4 to 0.7 bar)
CLOSED_THROTTLE = estimate(-0.55e5, 0.25)
STOCK_BACK_PRESSURE = 0.1e5  # Pa gauge, mean, of an engine without boost and with its silencer


# How a train shakes, none of it calibrated: value, and the share that its k = 2 factor may be off (1.0: half to twice). Source: judgement
VIBRATION = {
    "train_damping": (0.07, 1.0), "seat_stiffness": (60e6, 0.6), "seat_damping": (0.15, 1.0), "spring_damping": (0.02, 1.5), "clash": (20.0, 1.0),
}  # fmt: skip
_RUBBING = estimate(0.05, 1.0)  # damping of springs pressed into one another or round a flat damper. Source: judgement
# Steps, thinnest and thickest on sale, mm, where they are not those of small shims; of a graded bucket the crown. Source: judgement
_SIZES = {Adjuster.GRADED_BUCKET: (0.02, 2.50, 6.00), Adjuster.LASH_CAP: (0.05, 1.50, 5.00)}
# Crank speed to which hydraulic elements usually follow, rev/s, and how far their plunger is pushed in, m. Source: judgement
_LIFTERS, _PRELOAD = estimate(7000 / 60, 0.15), estimate(0.8 * _MM, 0.6)
_TRAIN_STIFFNESS = {Gear.DOHC: 20e6, Gear.OHC: 12e6, Gear.PUSH_ROD: 3e6, Gear.SIDE_VALVE: 15e6}  # N/m at the valve


def _learnt(usual: Figure, own: Figure | None) -> Figure:
    """An estimate as the workshop's own results have it: moved, and as sure as they leave it."""
    return usual if own is None else estimate(usual.value * own.value, own.spread / own.value)


def complete_engine(kind: EngineKind, known: FigureMap, learnt: FigureMap | None = None) -> dict[str, Figure]:
    """Engine figures: the known ones, and an estimate for each that is missing; `learnt` holds parts of the trade's that a workshop found."""
    learnt = learnt or {}
    own = class_of(kind, known)
    guess = dict(known)
    guess.setdefault("bore", estimate(own.bore * _MM, 0.24))
    guess.setdefault("stroke", estimate(own.stroke * _MM * (guess["bore"].value / (own.bore * _MM)) ** 0.5, 0.18))
    guess.setdefault("rod_length", estimate(guess["stroke"].value * 1.85, 0.08))
    guess.setdefault("compression", estimate(8.0 if kind.gear is Gear.SIDE_VALVE else 11.5, 0.12))
    # longer strokes turn slower, by the law of the class
    limiter = own.limiter / 60.0 * (own.stroke * _MM / guess["stroke"].value) ** 0.5
    guess.setdefault("limiter", estimate(limiter, 0.16))
    guess.setdefault("peak", estimate(guess["limiter"].value * 0.93, 0.06))
    guess.setdefault("idle", estimate(max(guess["limiter"].value * 0.14, 1200 / 60), 0.2))
    *middles, half = _CLEARANCE.get(own.name, _USUAL_CLEARANCE)
    for side, middle in zip(Side, middles, strict=True):
        guess.setdefault(f"clearance_{side}_least", estimate((middle - half) * _MM, 0.3))
        guess.setdefault(f"clearance_{side}_most", estimate(guess[f"clearance_{side}_least"].value + 2.0 * half * _MM, 0.3))
    step, thinnest, thickest = _SIZES.get(kind.adjuster, (0.05, 1.20, 3.50))
    guess.setdefault("shim_step", estimate(step * _MM))
    guess.setdefault("shim_thinnest", estimate(thinnest * _MM))
    guess.setdefault("shim_thickest", estimate(thickest * _MM))
    # under a finger the blade stands at the cam; under a rocker usually at the valve
    guess.setdefault("rocker_ratio", estimate(1.3, 0.1) if kind.follower is Follower.FINGER else estimate(1.0, 0.0))
    guess.setdefault("screw_ratio", estimate(1.0, 0.0))
    guess.setdefault("screw_pitch", estimate(0.75 * _MM, 0.3))
    stiff = estimate(_TRAIN_STIFFNESS[kind.gear], 0.7 if kind.gear is Gear.PUSH_ROD else 1.0)
    guess.setdefault("train_stiffness", _learnt(stiff, learnt.get("train_stiffness")))
    if kind.adjuster is Adjuster.HYDRAULIC:
        guess.setdefault("hydraulic_limit", _LIFTERS)
        guess.setdefault("hydraulic_preload", _PRELOAD)
    for key, (value, share) in VIBRATION.items():
        guess.setdefault(key, _learnt(estimate(value, share), learnt.get(key)))
    # a finger's blade stands at the cam, so the ratio of the blade is that of the lift
    lever = guess["rocker_ratio"].value if kind.follower is Follower.FINGER else 1.3
    guess.setdefault("lift_ratio", estimate(1.0 if kind.follower in (Follower.BUCKET, Follower.TAPPET) else lever, 0.1))
    return guess


def clearance_range(side: Side, engine: FigureMap, cam: FigureMap, facts: Mapping[str, str]) -> tuple[Figure, Figure]:
    """Least and most clearance (m, at the blade) of a side: the manual's, or where the card of its cam is told to count, the card's with the
    manual's range about it."""
    least, most = engine[f"clearance_{side}_least"], engine[f"clearance_{side}_most"]
    card = cam.get("card_clearance")
    if card is None or facts.get(f"clearance_from_{side}") != "card":
        return least, most
    half = (most.value - least.value) / 2.0
    return Figure(max(card.value - half, 0.0), 0.0, card.basis), Figure(card.value + half, 0.0, card.basis)


def card_differs(side: Side, engine: FigureMap, cam: FigureMap) -> bool:
    """Whether the card of a cam names a clearance outside what the manual allows."""
    card = cam.get("card_clearance")
    return card is not None and not (
        engine[f"clearance_{side}_least"].value - 1e-9 <= card.value <= engine[f"clearance_{side}_most"].value + 1e-9
    )


def blade_ratio(kind: EngineKind, engine: FigureMap) -> Figure:
    """Valve motion over motion where the blade is: what stands between a clearance as read and the valve."""
    return engine["rocker_ratio"] if kind.follower in (Follower.FINGER, Follower.ROCKER) else Figure(1.0)


def at_valve(clearance: Figure, ratio: Figure) -> Figure:
    """A clearance as read with a blade, brought to the valve by the ratio between them (m)."""
    spread = math.hypot(clearance.spread * ratio.value, clearance.value * ratio.spread)
    return Figure(clearance.value * ratio.value, spread, clearance.basis)


def vibration(engine: FigureMap, spring_facts: tuple[Mapping[str, str], ...]) -> dict[str, Figure]:
    """How one side shakes: the engine's figures; springs that rub on one another are taken to be damped more, until it is typed."""
    figures = {key: engine[key] for key in ("train_stiffness", *VIBRATION)}
    rubs = any(facts.get("nested") in ("interference", "damper") for facts in spring_facts)
    if rubs and figures["spring_damping"].basis is Basis.ESTIMATE:
        held = figures["spring_damping"]
        usual = VIBRATION["spring_damping"]
        same = held.value == usual[0] and held.spread == usual[0] * usual[1]
        figures["spring_damping"] = _RUBBING if same else _learnt(_RUBBING, Figure(held.value / usual[0], held.spread / usual[0]))
    return figures


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


def use_limits(use: Use, rods: str = "") -> dict[str, Figure]:
    """Every limit that a use sets until the maker's is typed, by the catalogue's key."""
    bind, gap, speed = _LIMITS[use]
    own = {"coil_bind_limit": estimate(bind * _MM), "retainer_limit": estimate(gap * _MM), "piston_speed_limit": estimate(speed)}
    return own | room_limits(use, rods)


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
    goal.setdefault("interval", estimate(100 * 3600.0))
    for key, figure in use_limits(use, rods).items():
        goal.setdefault(key, figure)
    if "acceleration_limit" not in known:
        # short strokes live with more: what the maker runs at the stock limiter and a quarter. Source: judgement
        pull = piston_acceleration(engine["stroke"].value, engine["rod_length"].value, engine["limiter"].value)
        goal["acceleration_limit"] = estimate(max(goal["acceleration_limit"].value, 1.25 * pull))
    return goal
