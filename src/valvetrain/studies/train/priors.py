"""What engines of a class usually have: one joint distribution of sizes, lifts, masses and springs, from which unknown figures are drawn.

Logarithms of all figures are normal together: each follows from its parents by a power law with its own scatter. What is typed conditions
the rest. Medians of the classes are common practice or memory, no source; powers and scatter are judgement.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from valvetrain.parts.engine import EngineKind, Follower, Gear, Side
from valvetrain.parts.figure import Figure

Array = NDArray[np.float64]

ROWS = 1024
_MM, _RPM, _G = 1e-3, 1.0 / 60.0, 1e-3
_OUTLIER = 3.0  # a typed figure further off than so many standard deviations moves the others no more than one so far off would


@dataclass(frozen=True)
class EngineClass:
    """Medians of one class. Pairs are intake, exhaust. Bore, stroke mm; limiter rpm; head over bore, lift over head; duration crank degrees at
    1 mm; `metal` valve mass over that of steel with its scatter; retainer g; seat pressure MPa on the head; open over seat force; `stem` mm;
    `above` mm of installed height beyond the lift."""

    name: str
    bore: float
    stroke: float
    limiter: float
    head: tuple[float, float]
    lift: tuple[float, float]
    duration: tuple[float, float]
    metal: tuple[float, float]
    metal_scatter: tuple[float, float]
    seat: tuple[float, float]
    opened: float
    stem: float
    retainer: float
    above: float
    bucket: tuple[float, float]


_STEEL = (0.12, 0.12)
# Source of every row: trade and memory; a table of ranges that they must keep within stands in the tests.
CLASSES = {
    "small two-valve": EngineClass(
        name="small two-valve", bore=54, stroke=54, limiter=9300, head=(0.46, 0.395), lift=(0.270, 0.285), duration=(222, 220), metal=(1, 1), metal_scatter=_STEEL, seat=(0.27, 0.32), opened=2.4, stem=5.0, retainer=8.0, above=24.0, bucket=(30, 0.25)
    ),
    "small four-valve single": EngineClass(
        name="small four-valve single", bore=77, stroke=53, limiter=12500, head=(0.405, 0.335), lift=(0.28, 0.305), duration=(252, 246), metal=(0.72, 0.90), metal_scatter=(0.26, 0.18), seat=(0.225, 0.27), opened=2.75,
        stem=4.5, retainer=6.5, above=24.0, bucket=(17, 0.40),
    ),
    "large four-valve single": EngineClass(
        name="large four-valve single", bore=95, stroke=62.5, limiter=10800, head=(0.385, 0.325), lift=(0.262, 0.283), duration=(254, 248), metal=(0.72, 0.90), metal_scatter=(0.26, 0.18), seat=(0.175, 0.21), opened=2.75,
        stem=5.0, retainer=7.5, above=25.0, bucket=(16, 0.45),
    ),
    "small four": EngineClass(
        name="small four", bore=66.5, stroke=43, limiter=14500, head=(0.41, 0.345), lift=(0.315, 0.33), duration=(256, 250), metal=(0.80, 0.95), metal_scatter=(0.22, 0.12), seat=(0.32, 0.38), opened=2.95, stem=4.4, retainer=6.0, above=24.0,
        bucket=(17, 0.35),
    ),
    "large four": EngineClass(
        name="large four", bore=75, stroke=56, limiter=12800, head=(0.405, 0.335), lift=(0.30, 0.32), duration=(251, 245), metal=(0.85, 0.95), metal_scatter=(0.22, 0.12), seat=(0.27, 0.33), opened=2.75, stem=4.6, retainer=6.5, above=24.5,
        bucket=(18, 0.40),
    ),
    "watercraft": EngineClass(
        name="watercraft", bore=86, stroke=66, limiter=8300, head=(0.385, 0.335), lift=(0.268, 0.285), duration=(226, 224), metal=(1, 1), metal_scatter=_STEEL, seat=(0.22, 0.27), opened=2.45, stem=6.0, retainer=11.0, above=27.0, bucket=(34, 0.25)
    ),
    "push-rod": EngineClass(
        name="push-rod", bore=72, stroke=57, limiter=3900, head=(0.37, 0.345), lift=(0.245, 0.255), duration=(206, 204), metal=(1, 1), metal_scatter=_STEEL, seat=(0.165, 0.18), opened=1.9, stem=6.2, retainer=10.0, above=26.0, bucket=(85, 0.25)
    ),
    "side valve": EngineClass(
        name="side valve", bore=70, stroke=58, limiter=3700, head=(0.40, 0.38), lift=(0.225, 0.235), duration=(202, 202), metal=(1, 1), metal_scatter=_STEEL, seat=(0.13, 0.15), opened=2.0, stem=6.4, retainer=10.0, above=25.0, bucket=(52, 0.25)
    ),
}  # fmt: skip
_SMALL_ROCKER = (18.0, 0.3)  # of two camshafts: short, and no shaft for both sides. Source: judgement
_FORKED = 1.5  # mass at the valves of a rocker that works two or three over one that works one. Source: judgement
_FOLLOWER = {Follower.FINGER: (9.0, 0.35), Follower.ROCKER: (30.0, 0.25), Follower.TAPPET: (52.0, 0.25)}  # g at a 30 mm valve, scatter

# name: parents with their powers, own scatter. `seat` is the force of all springs shut, `surplus` open over seat force less one.
_LAWS: dict[str, tuple[tuple[tuple[str, float], ...], float]] = {
    "bore": ((), 0.12),
    "stroke": ((("bore", 0.5),), 0.08),
    "limiter": ((("stroke", -0.5),), 0.08),
    "head": ((("bore", 1.0),), 0.035),
    "stem": ((("head", 0.35),), 0.06),
    "metal": ((), 0.12),
    "lift": ((("head", 0.85), ("limiter", 0.15)), 0.065),
    "duration": ((("limiter", 0.22),), 0.028),
    "valve": ((("head", 1.35), ("stem", 1.0), ("metal", 1.0)), 0.06),
    "retainer": ((("stem", 1.2), ("metal", 0.4)), 0.17),
    "keepers": ((("stem", 1.8),), 0.22),
    "follower": ((("head", 1.2),), 0.25),
    "seat": ((("head", 1.6), ("limiter", 0.6), ("valve", 0.25), ("follower", 0.1)), 0.11),
    "surplus": ((), 0.16),
    "rate": ((("surplus", 1.0), ("seat", 1.0), ("lift", -1.0)), 0.01),
    "springs": ((("seat", 0.65), ("lift", 0.4)), 0.13),  # and surplus, by how much of the open force it is
}
NAMES = tuple(_LAWS)
_ENGINE = ("bore", "stroke", "limiter")
MATERIALS = {"titanium 6-4": (0.60, 0.08)}  # any other material that is told is steel or as heavy


def class_of(kind: EngineKind, engine: Mapping[str, Figure]) -> EngineClass:
    """The class whose sizes are nearest to those told, among those of the same make-up (source: judgement)."""
    if kind.gear is Gear.PUSH_ROD:
        return CLASSES["push-rod"]
    if kind.gear is Gear.SIDE_VALVE:
        return CLASSES["side valve"]
    if kind.valves_per_side == 1:
        return CLASSES["small two-valve"]
    if kind.cylinders == 1:
        names = ["large four-valve single", "small four-valve single"]
    elif kind.cylinders >= 4:
        names = ["large four", "small four", "watercraft"]
    else:
        names = ["watercraft", "large four"]
    told = {key: math.log(engine[key].value / unit) for key, unit in (("bore", _MM), ("stroke", _MM), ("limiter", _RPM)) if key in engine}

    def away(name: str) -> float:
        own = CLASSES[name]
        return sum(
            ((told[key] - math.log(getattr(own, key))) / wide) ** 2
            for key, wide in (("bore", 0.12), ("stroke", 0.10), ("limiter", 0.10))
            if key in told
        )

    return CLASSES[min(names, key=away)]


def _medians(own: EngineClass, kind: EngineKind, side: Side) -> tuple[dict[str, float], dict[str, float]]:
    """Medians (SI) of a class and the scatter that is its own."""
    at = 0 if side is Side.INTAKE else 1
    bore, head = own.bore * _MM, own.head[at] * own.bore * _MM
    lift = own.lift[at] * head
    grams, scatter = own.bucket if kind.gear in (Gear.PUSH_ROD, Gear.SIDE_VALVE) else _FOLLOWER.get(kind.follower, own.bucket)
    if kind.gear is Gear.DOHC and kind.follower is Follower.ROCKER:
        grams, scatter = _SMALL_ROCKER
    grams *= _FORKED if kind.on_a_lobe(side) > 1 else 1.0
    seat = own.seat[at] * 1e6 * math.pi / 4.0 * head**2
    stem = own.stem * _MM
    opened = own.opened * seat
    return {
        "bore": bore, "stroke": own.stroke * _MM, "limiter": own.limiter * _RPM, "head": head, "stem": stem, "metal": own.metal[at], "lift": lift,
        "duration": math.radians(own.duration[at]), "valve": 27 * _G * (head / (30 * _MM)) ** 1.35 * (stem / (5 * _MM)) * own.metal[at],
        "retainer": own.retainer * _G, "keepers": 1.5 * _G * (stem / (5 * _MM)) ** 1.8, "follower": grams * _G * (head / (30 * _MM)) ** 1.2,
        "seat": seat, "surplus": own.opened - 1.0, "rate": (opened - seat) / (0.985 * lift),
        "springs": 33 * _G * (opened / 500.0) ** 0.65 * (lift / (9 * _MM)) ** 0.4,
    }, {"metal": own.metal_scatter[at], "follower": scatter}  # fmt: skip


@lru_cache(maxsize=64)
def scores(name: str) -> Array:
    """Standard normal scores of one name over the rows: even shares in an order of their own, the same for the same name."""
    random = np.random.default_rng([ord(letter) for letter in name])
    return np.asarray(ndtri((random.permutation(ROWS) + random.random(ROWS)) / ROWS))


@dataclass(frozen=True, eq=False)
class Prior:
    """Rows drawn from the joint distribution, conditioned on what is told: SI columns of ROWS by name, and the class they are of."""

    columns: Mapping[str, Array]
    own: EngineClass


def draw_prior(
    kind: EngineKind, side: Side, engine: Mapping[str, Figure], told: Mapping[str, Figure], material: str = ""
) -> Prior:  # fmt: skip
    """Rows of one side. `engine` holds bore, stroke and limiter where they are told, `told` any other of NAMES (SI).

    Typed figures condition the rest by the Gaussian of logarithms (source: gum for the spreads; conditioning in closed form); their own
    columns hold them with their own spread.
    """
    own = class_of(kind, engine)
    medians, scatter = _medians(own, kind, side)
    if material:
        medians["metal"], scatter["metal"] = MATERIALS.get(material, (1.0, 0.08))
        medians["valve"] = medians["valve"] / own.metal[0 if side is Side.INTAKE else 1] * medians["metal"]
    number = {name: n for n, name in enumerate(NAMES)}
    mean, mix = np.zeros(len(NAMES)), np.zeros((len(NAMES), len(NAMES)))
    for name, (parents, usual) in _LAWS.items():
        n = number[name]
        powers = [*parents, ("surplus", 0.65 * (own.opened - 1.0) / own.opened)] if name == "springs" else list(parents)
        shift = sum(power * (mean[number[parent]] - math.log(medians[parent])) for parent, power in powers)
        mean[n] = math.log(medians[name]) + shift
        if name in _ENGINE and name in engine:
            mean[n] = math.log(engine[name].value)  # a size that is told stands as it is: what follows from it goes on from there
            mix[n, n] = engine[name].spread / 2.0 / engine[name].value
            continue
        for parent, power in powers:
            mix[n] += power * mix[number[parent]]
        mix[n, n] += scatter.get(name, usual)
    drawn = mean[:, None] + mix @ np.array([scores(f"{name} {side}" if name not in _ENGINE else name) for name in NAMES])
    known = [name for name in NAMES if name in told and name not in _ENGINE]
    if known:
        at = [number[name] for name in known]
        cover = mix @ mix.T
        value = np.log([told[name].value for name in known])
        doubt = np.array([told[name].spread / 2.0 / told[name].value for name in known]) + 1e-4
        off = (value - mean[at]) / np.sqrt(np.diag(cover)[at] + doubt**2)
        noise = doubt**2 * np.maximum(np.abs(off) / _OUTLIER, 1.0) ** 2
        noise += np.where(np.abs(off) > _OUTLIER, np.diag(cover)[at] * ((off / _OUTLIER) ** 2 - 1.0), 0.0)
        gain = np.linalg.solve(cover[np.ix_(at, at)] + np.diag(noise), cover[at]).T
        read = np.array([scores(f"typed {name} {side}") for name in known])
        drawn = drawn + gain @ (value[:, None] + np.sqrt(noise)[:, None] * read - drawn[at])
        drawn[at] = value[:, None] + doubt[:, None] * read
    return Prior({name: np.exp(drawn[n]) for name, n in number.items()}, own)


def weighted(values: Array, weights: Array) -> tuple[float, float, float]:
    """The 2.5, 50 and 97.5 % points of weighted values."""
    order = np.argsort(values)
    share = np.cumsum(weights[order])
    low, middle, high = np.interp([0.025, 0.5, 0.975], (share - 0.5 * weights[order]) / share[-1], values[order])
    return float(low), float(middle), float(high)
