"""Helpers of a job as view-models: cam caps, head bolts, air in the cylinder."""

import math
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from rocklash.answers.results import BuildResult
from rocklash.answers.stops import firing_text
from rocklash.records.models import Build
from rocklash.ui.drawings import from_above
from rocklash.ui.drawings.from_above import CapMark, LobeMark
from rocklash.ui.drawings.shapes import Shape
from valvetrain.errors import ValveTrainError
from valvetrain.memory import Kept
from valvetrain.parts.engine import Gear, Side
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.clearance.measuring_plan import read_firing
from valvetrain.studies.job.bolts import pattern, read_stages
from valvetrain.studies.job.caps import CapPlan, Layout, lobes_push_up, plan_caps
from valvetrain.studies.job.holding import TRADE, could_fall, crank_under_air, held
from valvetrain.units import LENGTH, QuantityKind, UnitSystem, quantity

_USUAL_AIR = 3.0e5
_ANGLES = (0.0, 2.0, 5.0, 10.0, 20.0)


@dataclass(frozen=True, kw_only=True)
class CapLine:
    """One cap in its order."""

    turn: int
    number: int
    load: str
    height: str
    thrust: bool


@dataclass(frozen=True, kw_only=True)
class CapsView:
    """One camshaft's caps."""

    side: str
    words: str
    drawn: Shape
    lines: list[CapLine]
    pushing: str


@dataclass(frozen=True, kw_only=True)
class AirLine:
    """One valve under air."""

    name: str
    clean: str
    baked: str
    verdict: str


@dataclass(frozen=True, kw_only=True)
class HelpersPage:
    """All three."""

    caps: list[CapsView] = field(default_factory=list)
    caps_words: str = ""
    bolts: Shape | None = None
    undo: str = ""
    stages: list[tuple[str, str]] = field(default_factory=list)
    air: list[AirLine] = field(default_factory=list)
    air_words: str = ""
    crank: list[tuple[str, str, str, str]] = field(default_factory=list)
    trouble: str = ""


def _cap_view(side: Side, plan: CapPlan, system: UnitSystem, *, evenly: bool) -> CapsView:
    force = lambda value: quantity(value, QuantityKind.FORCE, system)
    length = lambda value: quantity(value, LENGTH, system)
    ordered = sorted(plan.caps, key=lambda cap: cap.turn)
    pushing = [lobe for lobe in plan.lobes if lobe.push]
    where = f"Crank {plan.angle:.0f}° after cylinder 1 fires: "
    if plan.rests:
        words = where + "no lobe pushes, the shaft lies in its bed. Draw the caps down evenly, from the middle."
    else:
        words = (
            f"{where}{len(pushing)} lobes push, and no position is without. The shaft lies most level here; every bolt by finger, then half a turn "
            f"at a time in this order, about {plan.rounds} rounds until all caps touch; torque in stages only then."
        )
        if evenly:
            words += " Your way of working takes them from the middle, whatever pushes."
    name = side.value
    drawn = from_above.camshaft(
        [CapMark(cap.station, cap.turn, force(cap.load) if cap.load > 0.5 else "", cap.thrust) for cap in plan.caps],
        [LobeMark(lobe.station, lobe.name, lobe.push > 0.0) for lobe in plan.lobes],
        f"{name.capitalize()} camshaft from above, drive end on the left; caps in the order {', '.join(str(cap.number) for cap in ordered)}.",
    )
    lines = [
        CapLine(
            turn=cap.turn,
            number=cap.number,
            load=force(cap.load),
            height=length(cap.height) if cap.height > 5e-5 else "touches",
            thrust=cap.thrust,
        )
        for cap in ordered
    ]
    told = ", ".join(f"{lobe.name} {force(lobe.push)}" for lobe in pushing)
    return CapsView(side=name, words=words, drawn=drawn, lines=lines, pushing=told)


_PLANS: Kept[CapPlan] = Kept(64)  # a shaft is tried at every second degree of the crank: the same lobes are not tried again


def _caps(result: BuildResult, build: Build, told: dict[str, Any], system: UnitSystem, *, evenly: bool) -> tuple[list[CapsView], str]:
    assert result.review
    kind, done = result.record.kind, result.review.completed
    if kind.gear is not Gear.DOHC or not lobes_push_up(kind.follower):
        return [], (
            "The rockers lie over the camshaft and press it into its bed: back every screw off, and its caps go down evenly, the thrust cap last."
            if kind.gear in (Gear.OHC, Gear.DOHC)
            else "The camshaft lies in the block: there is no cap to draw down."
        )
    firing = read_firing(firing_text(build), kind.cylinders)
    lever = done.engine.get("lift_ratio") if kind.follower == "finger" else None
    views = []
    for side, train in done.proposed.sides.items():
        work = partial(
            plan_caps, train, firing, ratio=lever.value if lever else 1.0, layout=Layout(told.get("layout", Layout.MIDDLE)),
            thrust_last=told.get("thrust") == "far", evenly=evenly, angle=float(told["angle"]) if told.get("angle") is not None else None,
        )  # fmt: skip
        plan = _PLANS.get(repr((result.train_keys["proposed", side], firing, work.keywords)), work)
        views.append(_cap_view(side, plan, system, evenly=evenly))
    return (
        views,
        "Forces from the springs at the clearance set, shared by the lever between neighbouring caps; judgement where the caps stand.",
    )


def _stage_words(text: str, system: UnitSystem) -> list[tuple[str, str]]:
    other = UnitSystem.INCH if system is UnitSystem.METRIC else UnitSystem.METRIC
    found = []
    for number, stage in enumerate(read_stages(text), 1):
        if stage.angle:
            found.append((f"Round {number}", f"on by {math.degrees(stage.angle):.0f}°, each in turn; mark the heads first"))
        else:
            here, there = (quantity(stage.torque, QuantityKind.TORQUE, each) for each in (system, other))
            found.append((f"Round {number}", f"{here} ({there})"))
    return found


def _falls(result: BuildResult, train: TrainSide) -> float | None:
    assert result.review
    found = result.review.room.pistons.get(train.side)
    return found.rest.figure.value if found else None


def _air(result: BuildResult, told: dict[str, Any], system: UnitSystem) -> tuple[list[AirLine], str, list[tuple[str, str, str, str]]]:
    assert result.review
    done = result.review.completed
    if result.record.kind.gear is Gear.SIDE_VALVE:
        return [], "A side valve holds itself up: neither air nor rope.", []
    pressure = float(told.get("pressure") or _USUAL_AIR)
    show = lambda value: quantity(value, QuantityKind.PRESSURE, system)
    lines, falls = [], []
    for side, train in done.proposed.sides.items():
        mass = sum(figure.value for name, figure in train.masses.items() if name in ("valve", "retainer", "keepers"))
        gap = _falls(result, train)
        if gap is not None:
            falls.append((side, gap))
        for place in train.positions:
            one = held(train, place, mass)
            verdict = (
                "holds, even where the cone is baked" if pressure >= one.baked
                else "holds a clean cone; a knock may pop a baked one" if pressure >= one.clean else "too little: the valve follows the cup"
            )  # fmt: skip
            lines.append(AirLine(name=place.name, clean=show(one.clean), baked=show(one.baked), verdict=verdict))
    engine = done.engine
    bore, stroke, rod = (
        (engine[key].value for key in ("bore", "stroke", "rod_length")) if {"bore", "stroke", "rod_length"} <= engine.keys() else (0.0,) * 3
    )
    crank = []
    if bore and stroke and rod:
        nearest = min((gap for _, gap in falls), default=0.0)
        crank = [
            (
                f"{math.degrees(each.angle):.0f}°", quantity(each.torque, QuantityKind.TORQUE, system), quantity(each.down, LENGTH, system),
                quantity(could_fall(nearest, each.down), LENGTH, system) if falls else "not known",
            )
            for each in crank_under_air(pressure, bore, stroke, rod, [math.radians(angle) for angle in _ANGLES])
        ]  # fmt: skip
    low, high = (show(each) for each in TRADE)
    words = (
        f"At {show(pressure)}. The trade holds with {low} and goes to {high} when a knock keeps popping the valve; slowly up from zero, back down when it is free. "
        "A valve that leaks is not held: then rope."
    )
    return lines, words, crank


def helpers_page(result: BuildResult, build: Build, told: dict[str, Any], system: UnitSystem, *, evenly: bool) -> HelpersPage:
    """Everything of it; a build whose figures contradict one another has none."""
    if result.review is None:
        return HelpersPage(trouble=result.contradiction)
    try:
        caps, caps_words = _caps(result, build, told, system, evenly=evenly)
        air, air_words, crank = _air(result, told, system)
        columns = int(told.get("columns") or result.record.kind.cylinders + 1)
        order = pattern(int(told.get("rows") or 2), columns)
        stages = _stage_words(str(told["stages"]), system) if told.get("stages") else []
    except ValveTrainError as error:
        return HelpersPage(trouble=error.told(system))
    drawn = from_above.head_bolts(
        [(bolt.row, bolt.column, bolt.turn) for bolt in order],
        f"Head from above: {len(order)} bolts, drawn down in the order of their numbers.",
    )
    return HelpersPage(
        caps=caps, caps_words=caps_words, bolts=drawn, undo=", ".join(str(bolt.turn) for bolt in reversed(order)), stages=stages, air=air,
        air_words=air_words, crank=crank,
    )  # fmt: skip


def shown(told: dict[str, Any], system: UnitSystem) -> dict[str, Any]:
    """What was told, as the form shows it."""
    air = {"pressure": quantity(float(told["pressure"]), QuantityKind.PRESSURE, system)} if told.get("pressure") else {}
    return {key: value for key, value in told.items() if key != "pressure"} | air
