"""Spring heights valve by valve: measured or from protrusion, the shims that bring each to its seat load, what recession does."""

import math
from dataclasses import dataclass, replace

from valvetrain.errors import ContradictionError
from valvetrain.parts.engine import ValvePosition
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.checks.assessment import judge
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.train.side_figures import nominal_seat_load
from valvetrain.units import FORCE, LENGTH, amount

SUNK = 0.1e-3  # m of recession at which a valve job is due for a look. Source: common practice, no source

# Spring shims on sale, m. Source: trade
SHIMS = (0.25e-3, 0.4e-3, 0.5e-3, 0.75e-3, 0.8e-3, 1.0e-3, 1.5e-3)
_MOST = 2  # shims under one spring
_READING = 0.1e-3  # what a depth gauge on a spring seat leaves open, k = 2. Source: judgement


def height_from_protrusion(protrusion: float, tip_to_retainer: float) -> float:
    """Installed height (m) from how far the stem's tip stands above the spring seat and how far below the tip the spring's end lies.

    Raises ContradictionError when the retainer would lie below the seat.
    """
    if protrusion <= tip_to_retainer:
        raise ContradictionError(
            f"The tip stands {amount(protrusion, LENGTH)} above the spring seat and the retainer {amount(tip_to_retainer, LENGTH)} below the tip: "
            "then there is no room for a spring."
        )
    return protrusion - tip_to_retainer


@dataclass(frozen=True)
class ValveHeight:
    """One valve: installed `height` (m) without shim, load (N) as it is with `shim`, and the shim (m) that serves it best.

    `load_after` N and `bind_after` m (least travel left of all its springs at full lift) are those with `shim_next`. `verdict` judges the load
    against the wanted seat load; `words` say what stands in the way, if anything.
    """

    place: ValvePosition
    height: float
    shim: float
    load: float
    shim_next: float
    shims: tuple[float, ...]
    load_after: float
    bind_after: float
    verdict: Verdict
    words: str


def _stacks() -> list[tuple[float, ...]]:
    one = [(shim,) for shim in SHIMS]
    two = [(a, b) for number, a in enumerate(SHIMS) for b in SHIMS[number:]]
    return [(), *one, *two]


def height_of(side: TrainSide, place: ValvePosition, own_shim: float | None = None) -> float:
    """Installed height (m) of one valve without any shim; `own_shim` is one that its deviation already holds, in place of the side's."""
    bare = side.installed_height.value + place.deviation
    return bare if own_shim is None else bare + own_shim - side.spring_shim.value


def _bind(side: TrainSide, height: float) -> float:
    lift = side.lift.value - side.clearance.value
    return min(height - packed.step.value - lift - packed.spring.solid_height.value for packed in side.springs)


def _load(side: TrainSide, height: float) -> float:
    return sum(packed.spring.force(height - packed.step.value) for packed in side.springs)


def plan_heights(side: TrainSide, goal: Goal, wanted: float, shims: dict[str, float]) -> tuple[ValveHeight, ...]:
    """The shims of each valve that give at least the wanted seat load (N) with the least force to spare, coil bind kept.

    `shims` (m) are those under single valves' springs, by name, as their deviations hold them; else the side's own shim counts.
    """
    found = []
    for place in side.positions:
        height = height_of(side, place, shims.get(place.name))
        now = shims.get(place.name, side.spring_shim.value)
        options = []
        for stack in _stacks():
            total = sum(stack)
            if _bind(side, height - total) >= goal.coil_bind_limit:
                options.append((_load(side, height - total), total, stack))
        enough = [option for option in options if option[0] >= wanted - 0.5]
        best = min(enough) if enough else max(options, default=(_load(side, height), 0.0, ()))
        load, total, stack = best
        words = ""
        if not options:
            words = "binds at full lift even without a shim"
        elif not enough:
            words = "no shim brings it: coil bind comes first"
        elif total == 0.0 and load > wanted * 1.1:
            low = ": this valve stands low" if place.deviation < -_READING else ""
            words = f"{amount(load - wanted, FORCE)} more than wanted{low}"
        spread = math.hypot(_READING * sum(packed.spring.rate.value for packed in side.springs), 0.01 * load)
        margin = load - wanted
        verdict = judge(margin + 0.5, min(spread, abs(wanted) * 0.05), on_estimates=False) if options else Verdict.SHORT
        found.append(
            ValveHeight(
                place=place,
                height=height,
                shim=now,
                load=_load(side, height - now),
                shim_next=total,
                shims=stack,
                load_after=load,
                bind_after=_bind(side, height - total),
                verdict=verdict,
                words=words,
            )
        )
    return tuple(found)


@dataclass(frozen=True)
class Recession:
    """What a valve sunk deeper into its seat by `depth` (m) does: seat load and clearance (N, m) lost, and the depth at which the
    clearance is used up."""

    depth: float
    load: float
    clearance: float
    closes_at: float


def recession(side: TrainSide, place: ValvePosition, depth: float, ratio: float) -> Recession:
    """The tip rises by what the face sinks: the spring stretches by it, the clearance loses it over the lever (`ratio` valve to blade).

    The installed height grows by `depth`; source: statics (geometry).
    """
    before = nominal_seat_load(side, place)
    lower = replace(place, deviation=place.deviation + depth)
    return Recession(
        depth, nominal_seat_load(side, lower) - before, -depth / ratio, side.clearance.value
    )  # the train holds it at the valve
