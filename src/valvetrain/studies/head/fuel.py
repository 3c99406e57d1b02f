"""What the fuel bears: the compression that boost, charge heat and altitude make of the ratio that is built, and what blows through at overlap."""

import csv
import math
from dataclasses import dataclass
from functools import cache
from importlib import resources

import numpy as np
from scipy.optimize import brentq

from valvetrain.formulas.compression import (
    air_pressure,
    compressor_outlet,
    cooled_charge,
    end_pressure,
    end_temperature,
    ratio_of_equal_pressure,
    ratio_of_equal_temperature,
)
from valvetrain.formulas.losses import knock_delay
from valvetrain.formulas.valve_flow import flow_through
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.checks.assessment import judge
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.gaps.piston import crank_grid, lift_over
from valvetrain.studies.head.areas import PortSide, effective_area
from valvetrain.studies.train.assembly import CompletedBuild
from valvetrain.studies.train.head_change import changed_engine, head_change
from valvetrain.studies.train.uncertainty import Numbers, propagate

_COLD, _SEA = 293.15, 101325.0
_EXPONENT = estimate(1.33, spread=0.03)  # of compression in a running engine. Source: heywood1988
_EVAPORATES = estimate(1.0 / 3.0, spread=1.0 / 6.0)  # share that turns to vapour before the valve closes. Source: judgement
_HEAT = 1005.0  # J/(kg K) of air
# Ratio that petrol of 95 RON bears at full power in a water-cooled bore of 80 mm, and what an octane, a millimetre and air cooling change of it. Source:
# common practice, no source: judgement
_BEARS, _OCTANE, _BORE, _AIR = estimate(12.0, spread=1.0), 0.15, -0.03, -1.5
_GAS, _HOT_GAS = (287.05, 1.4), (298.6, 1.33)
_BURNT = 1000.0  # K behind the exhaust valve at full power. Source: judgement
USUAL_EFFICIENCY = estimate(0.62, spread=0.1)  # of small compressors. Source: trade


@dataclass(frozen=True)
class Fuel:
    """A fuel: usual octane, air it needs by mass, heat that evaporates it J/kg."""

    name: str
    octane: float
    air: float
    latent: float

    @property
    def chill(self) -> float:
        """How much all of it, evaporated, would cool its air, K."""
        return self.latent / (self.air * _HEAT)


@cache
def fuels() -> dict[str, Fuel]:
    """The fuels of the data file by name."""
    text = resources.files("valvetrain").joinpath("data/fuels.csv").read_text(encoding="utf-8")
    rows = csv.DictReader(line for line in text.splitlines() if not line.startswith("#"))
    return {row["fuel"]: Fuel(row["fuel"], float(row["octane"]), float(row["air"]), float(row["latent"]) * 1e3) for row in rows}


def fuel_names(record: BuildRecord) -> tuple[str, str]:
    """The fuel it was made for and the one it shall run on; petrol where nobody told."""
    made = record.facts.get("fuel", "") or "petrol"
    return made, record.goal_facts.get("fuel", "") or made


@dataclass(frozen=True)
class FuelAnswer:
    """What the goal asks of the fuel. Temperatures K; ratios with spread (k = 2).

    `built` compression as built; `by_pressure` and `by_temperature` the ratios that would end as pressed, or as hot, without boost at the sea; `equal` the one
    that the fuel would bear as long, between them; `bears` what the fuel bears; `static` the ratio to build for this boost; `richer` fuel flow over petrol's for the same air;
    `anchored` whether the stock engine's own ratio told more than the trade's table.
    """

    fuel: Fuel
    made_for: Fuel
    octane: Figure
    pressure_ratio: float
    charge: Figure
    outlet: float | None
    built: Figure
    by_pressure: Figure
    by_temperature: Figure
    equal: Figure
    bears: Figure
    static: Figure
    richer: float
    end_temperature: float
    anchored: bool
    verdict: Verdict


def _borne(done: CompletedBuild, record: BuildRecord, octane: Figure, made_for: Fuel) -> tuple[Figure, bool]:
    """The ratio that the fuel bears in this engine: the trade's, or where the stock engine was built with more, that."""
    engine = done.engine
    here = _BORE * (engine["bore"].value * 1e3 - 80.0) + (_AIR if record.facts.get("cooling") == "air" else 0.0)
    trade = _BEARS.value + here + _OCTANE * (octane.value - 95.0)
    stock = engine["compression"]
    shown = stock.value + _OCTANE * (octane.value - made_for.octane)
    spread = math.hypot(_BEARS.spread, _OCTANE * octane.spread)
    if stock.basis is not Basis.ESTIMATE and shown > trade:
        return Figure(shown, math.hypot(0.5 * spread, stock.spread), Basis.ESTIMATE), True
    return Figure(trade, spread, Basis.ESTIMATE), False


def _charge(goal: FigureMap, boost: float, ambient: float, altitude: float, chill: float) -> tuple[Figure, float | None]:
    """Temperature of the charge in the cylinder's port with how unsure it is, and of the air as it leaves the compressor."""
    pressed = air_pressure(altitude)
    if "charge_temperature" in goal:
        read = goal["charge_temperature"]
        return Figure(read.value - chill * _EVAPORATES.value, math.hypot(read.spread, chill * _EVAPORATES.spread), read.basis), None
    if boost <= 0.0:
        return Figure(ambient - chill * _EVAPORATES.value, abs(chill) * _EVAPORATES.spread + 5.0, Basis.ESTIMATE), None
    efficiency, cooler = (
        goal.get("compressor_efficiency", USUAL_EFFICIENCY),
        goal.get("cooler_effectiveness", Figure(0.0, 0.0, Basis.ESTIMATE)),
    )

    def port(x: Numbers) -> float:
        hot = compressor_outlet(ambient, 1.0 + x["boost"] / pressed, min(max(x["efficiency"], 0.3), 1.0))
        return cooled_charge(hot, ambient, min(max(x["cooler"], 0.0), 1.0)) - chill * x["evaporates"]

    found = propagate(
        port, {"boost": goal.get("boost", Figure(boost)), "efficiency": efficiency, "cooler": cooler, "evaporates": _EVAPORATES}
    )
    outlet = compressor_outlet(ambient, 1.0 + boost / pressed, efficiency.value)
    return Figure(found.value, found.spread, Basis.ESTIMATE), outlet


def fuel_answer(record: BuildRecord, done: CompletedBuild) -> FuelAnswer:
    """What boost, charge heat and altitude make of the compression, against what the fuel bears."""
    goal, names = record.goal, fuel_names(record)
    made_for, fuel = (fuels()[name] for name in names)
    octane = goal["octane"] if "octane" in goal else Figure(fuel.octane, 2.0, Basis.ESTIMATE)
    boost, altitude = done.goal.boost, goal["altitude"].value if "altitude" in goal else 0.0
    ambient = goal["air_temperature"].value if "air_temperature" in goal else _COLD
    built = changed_engine(done.engine, head_change(record.kind, done.engine))["compression"]
    chill = fuel.chill - fuels()["petrol"].chill
    charge, outlet = _charge({**goal, "boost": boost}, boost.value, ambient, altitude, chill)
    ratio = (air_pressure(altitude) + boost.value) / _SEA
    figures = {"built": built, "boost": boost, "charge": charge, "n": _EXPONENT}

    def by_pressure(x: Numbers) -> float:
        return ratio_of_equal_pressure(max(x["built"], 1.01), (air_pressure(altitude) + max(x["boost"], 0.0)) / _SEA, x["n"])

    def by_temperature(x: Numbers) -> float:
        return ratio_of_equal_temperature(max(x["built"], 1.01), x["charge"], _COLD, x["n"])

    def harder(x: Numbers) -> float:
        """The ratio of equal delay: how long the charge bears its pressure and its heat together."""
        ratio, n = max(x["built"], 1.01), x["n"]
        pressed = end_pressure(air_pressure(altitude) + max(x["boost"], 0.0), ratio, n)
        wanted = math.log(knock_delay(95.0, pressed, end_temperature(x["charge"], ratio, n)))

        def off(r: float) -> float:
            return math.log(knock_delay(95.0, end_pressure(_SEA, r, n), end_temperature(_COLD, r, n))) - wanted

        return float(brentq(off, 1.2, 39.0)) if off(1.2) > 0.0 > off(39.0) else max(by_pressure(x), by_temperature(x))

    bands = {name: propagate(model, figures) for name, model in (("p", by_pressure), ("t", by_temperature), ("h", harder))}
    told = {name: Figure(each.value, each.spread, Basis.ESTIMATE) for name, each in bands.items()}
    bears, anchored = _borne(done, record, octane, made_for)
    factor = told["h"].value / built.value
    # an engine that runs as it was built, on fuel no poorer, bears that by its own proof
    as_built = anchored and told["h"].value <= done.engine["compression"].value * 1.002 and octane.value >= made_for.octane
    margin, spread = bears.value - told["h"].value, math.hypot(bears.spread, told["h"].spread)
    return FuelAnswer(
        fuel=fuel,
        made_for=made_for,
        octane=octane,
        pressure_ratio=ratio,
        charge=charge,
        outlet=outlet,
        built=built,
        by_pressure=told["p"],
        by_temperature=told["t"],
        equal=told["h"],
        bears=bears,
        static=Figure(bears.value / factor, spread / factor, Basis.ESTIMATE),
        richer=fuels()["petrol"].air / fuel.air,
        end_temperature=end_temperature(charge.value, built.value, _EXPONENT.value),
        anchored=anchored,
        verdict=Verdict.HOLDS if as_built else judge(margin, spread, on_estimates=True),
    )


@dataclass(frozen=True)
class Blown:
    """What flows from intake to exhaust while both are open, a cycle: share of the charge (negative: exhaust comes back), and the overlap in which it
    does (crank rad with both valves off their seats)."""

    share: float
    overlap: float
    speed: float


def blow_through(done: CompletedBuild, ports: dict[Side, PortSide], speed: float, charge: float, ambient: float = _SEA) -> Blown:
    """Gas that passes both valves at overlap, steady flow between the port pressures at a crank speed (rev/s); `charge` K."""
    goal, trains = done.goal, done.proposed.sides
    angle = crank_grid()
    step = float(angle[1] - angle[0])
    lifts = {side: lift_over(trains[side], angle) for side in Side}
    both = (lifts[Side.INTAKE] > 0.0) & (lifts[Side.EXHAUST] > 0.0)
    before, behind = ambient + goal.boost.value, ambient + goal.back_pressure.value
    areas = [effective_area(ports[side], lifts[side][both]) for side in Side]
    # one after the other: what passes both is what passes an area of the two in series
    series = areas[0] * areas[1] / np.sqrt(areas[0] ** 2 + areas[1] ** 2 + 1e-18)
    total, sign = float(series.sum()), 1.0 if before >= behind else -1.0
    high, low = max(before, behind), min(before, behind)
    heat, gas = (charge, _GAS) if sign > 0.0 else (_BURNT, _HOT_GAS)
    mass = flow_through(total, high, heat, low, *gas) * step / (2.0 * math.pi * speed)
    bore, stroke = done.engine["bore"].value, done.engine["stroke"].value
    full = math.pi / 4.0 * bore**2 * stroke * before / (_GAS[0] * charge)
    return Blown(sign * mass / full, float(both.sum()) * step, speed)
