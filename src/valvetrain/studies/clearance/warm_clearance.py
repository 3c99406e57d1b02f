"""The clearance of a warm engine from lengths, materials and temperatures: a hint with its sign and spread, never in place of the cold one."""

import csv
import math
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources

import numpy as np

from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.thermal import growth, reading_shift, warm_clearance
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, Figure, estimate

USUAL_BASE = 15e-3  # m, radius of a base circle until it is measured. Source: judgement

COLD = 293.15  # K, 20 degC
WARM_TO_READ = 308.15  # K, 35 degC: above it a reading is no longer a cold one. Source: trade


@lru_cache(maxsize=1)
def _table() -> dict[str, tuple[list[tuple[float, float]], float, str]]:
    text = resources.files("valvetrain").joinpath("data/expansion.csv").read_text(encoding="utf-8")
    rows = csv.DictReader(line for line in text.splitlines() if not line.startswith("#"))
    found: dict[str, tuple[list[tuple[float, float]], float, str]] = {}
    for row in rows:
        listed, _, _ = found.setdefault(row["material"], ([], float(row["share"]), row["part"]))
        listed.append((float(row["to_degC"]) + 273.15, float(row["alpha"]) * 1e-6))
    return found


def materials(part: str) -> list[str]:
    """Materials of the table for `valve`, `head` or `gear`."""
    return [name for name, (_, _, kind) in _table().items() if kind == part]


def expansion(material: str, temperature: float) -> Figure:
    """Mean coefficient from 20 degC to a temperature (K), 1/K; read between the rows of data/expansion.csv, held beyond its ends.

    Raises OutOfRangeError for a material that is not in the table.
    """
    if material not in _table():
        raise OutOfRangeError(f"“{material}” is not in the table of expansion. Known are {', '.join(_table())}.")
    rows, share, _ = _table()[material]
    value = float(np.interp(temperature, [at for at, _ in rows], [alpha for _, alpha in rows]))
    return Figure(value, value * share, Basis.CARD)


@dataclass(frozen=True)
class WarmCase:
    """One side of a warm engine, SI: distance from seat to cam axis, base circle radius, and temperatures (K) of head, hot and cool end of
    the valve, and gear; each may be an estimate. `hot_length` of the valve is its head and lower stem."""

    side: Side
    cold: Figure
    head_length: Figure
    hot_length: Figure
    base_radius: Figure
    head_material: str
    valve_material: str
    head: Figure
    valve_hot: Figure
    valve_cool: Figure


@dataclass(frozen=True)
class WarmHint:
    """The clearance when warm and its change, m (k = 2); `spread` of both."""

    warm: float
    change: float
    spread: float


def usual_case(side: Side, cold: Figure, base_radius: float, head_length: float | None = None, valve: str = "") -> WarmCase:
    """What is usual of an overhead-cam engine at work (source: judgement): head at 100 degC, the hot end of an exhaust valve 350 K
    over cold."""
    material = valve or ("austenitic 21-4N" if side is Side.EXHAUST else "valve steel")
    hot = 350.0 if side is Side.EXHAUST else 230.0
    length = Figure(head_length, head_length * 0.03, Basis.MEASURED) if head_length else estimate(92e-3, 0.15)
    return WarmCase(
        side=side, cold=cold, head_length=length, hot_length=estimate(0.33 * length.value, 0.2), base_radius=estimate(base_radius, 0.05), head_material="aluminium head", valve_material=material,
        head=estimate(COLD + 80.0, spread=20.0), valve_hot=estimate(COLD + hot, spread=90.0), valve_cool=estimate(COLD + 95.0, spread=25.0),
    )  # fmt: skip


def _warm(case: WarmCase, values: dict[str, float]) -> float:
    head, hot, cool = values["head"], values["valve_hot"], values["valve_cool"]
    length, lower, base = values["head_length"], values["hot_length"], values["base_radius"]
    stem = max(length - case.cold.value - lower - base - 5e-3, 0.0)  # shim and bucket's crown: 5 mm together
    alpha_head = values["alpha_head"]
    chain = growth(
        np.array([lower, stem, base + 5e-3]),
        np.array([values["alpha_hot"], values["alpha_cool"], values["alpha_gear"]]),
        np.array([hot - COLD, cool - COLD, head - COLD]),
    )
    return warm_clearance(case.cold.value, alpha_head * length * (head - COLD), chain)


def warm_hint(case: WarmCase) -> WarmHint:
    """Clearance when warm, by the loop of METHODS 8 along the valve's axis; spreads by central differences (source: gum)."""
    figures = {
        "head": case.head, "valve_hot": case.valve_hot, "valve_cool": case.valve_cool, "head_length": case.head_length,
        "hot_length": case.hot_length, "base_radius": case.base_radius,
        "alpha_head": expansion(case.head_material, case.head.value), "alpha_hot": expansion(case.valve_material, case.valve_hot.value),
        "alpha_cool": expansion(case.valve_material, case.valve_cool.value), "alpha_gear": expansion("steel", case.head.value),
    }  # fmt: skip
    centre = {name: figure.value for name, figure in figures.items()}
    total = 0.0
    for name, figure in figures.items():
        ends = [_warm(case, {**centre, name: figure.value + sign * 0.25 * figure.spread}) for sign in (1.0, -1.0)]
        total += ((ends[0] - ends[1]) / 0.5) ** 2
    warm = _warm(case, centre)
    return WarmHint(warm, warm - case.cold.value, math.sqrt(total + case.cold.spread**2))


def at_blade(hint: WarmHint, ratio: float) -> WarmHint:
    """A hint told along the valve as the blade reads it; `ratio` is valve motion over motion where the blade is."""
    return WarmHint(hint.warm / ratio, hint.change / ratio, hint.spread / ratio)


def reads_larger(head_length: float, temperature: float) -> float:
    """How much larger a clearance reads at an engine temperature (K) than at 20 degC, m, with an aluminium head and steel gear."""
    alpha = expansion("aluminium head", temperature).value, expansion("steel", temperature).value
    return reading_shift(head_length, alpha[0], alpha[1], temperature - COLD)
