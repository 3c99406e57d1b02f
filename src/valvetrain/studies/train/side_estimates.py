"""Estimates of one side's parts, springs and heights, drawn together from what engines of its class have and from what is told."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Side
from valvetrain.parts.figure import Basis, Figure, FigureMap, estimate
from valvetrain.parts.record import SideRecord
from valvetrain.studies.train.priors import ROWS, Prior, draw_prior, scores, weighted

Array = NDArray[np.float64]

_MM = 1e-3
_SHARES = {1: (1.0,), 2: (0.7, 0.3)}  # of the force, outer and inner. Source: judgement
_HEIGHT_SCATTER, _BIND, _BIND_SCATTER = 0.045, 1.8 * _MM, 0.35
_TOLD = {Owner.VALVE: "valve", Owner.RETAINER: "retainer", Owner.KEEPERS: "keepers", Owner.FOLLOWER: "follower"}


@dataclass(frozen=True)
class SideEstimates:
    """Figures without a gap: `parts` by owner, `fit`, `springs` outer first; `columns` the rows behind every estimate, SI, by the name under
    which the float knows it."""

    parts: Mapping[Owner, dict[str, Figure]]
    fit: dict[str, Figure]
    springs: tuple[dict[str, Figure], ...]
    columns: Mapping[str, Array]


def _guess(column: Array, weights: Array | None = None) -> Figure:
    low, middle, high = weighted(column, np.full(len(column), 1.0 / len(column)) if weights is None else weights)
    return Figure(middle, max((high - low) / 2.0, 1e-12), Basis.ESTIMATE)


def seat_force(spring: FigureMap, height: float) -> Figure | None:
    """A spring's force (N) at its own installed height (m) as told; None where nothing tells it.

    A load told without a height is the seat force; one at another height is brought there by the rate where that is told.
    """
    if "load" not in spring:
        return None
    load = spring["load"]
    if "load_height" not in spring:
        return load
    at = spring["load_height"].value
    if abs(at - height) < 1e-6:
        return load
    if "rate" not in spring or math.isnan(height):  # it says nothing of the seat while the installed height is unknown
        return None
    rate = spring["rate"]
    value = load.value + rate.value * (at - height)
    if value <= 1.0:
        return None
    return Figure(value, math.hypot(load.spread, rate.spread * (at - height)), load.basis)


def _told(record: SideRecord, springs: tuple[FigureMap, ...], height: float, step: float) -> dict[str, Figure]:
    """What is told of a side under the names of the prior."""
    known: dict[str, Figure] = {}
    valve = record.parts[Owner.VALVE].figures if Owner.VALVE in record.parts else {}
    for key, name in (("head_diameter", "head"), ("stem_diameter", "stem")):
        if key in valve:
            known[name] = valve[key]
    known |= {
        name: record.parts[owner].figures["mass"]
        for owner, name in _TOLD.items()
        if owner in record.parts and "mass" in record.parts[owner].figures
    }
    shares = _SHARES[len(springs)]
    loads = [seat_force(spring, height - (step if n else 0.0)) for n, spring in enumerate(springs)]
    for name, found in (
        ("seat", loads),
        ("rate", [spring.get("rate") for spring in springs]),
        ("springs", [spring.get("mass") for spring in springs]),
    ):
        there = [(figure, share) for figure, share in zip(found, shares, strict=True) if figure is not None]
        if there:
            part = sum(share for _, share in there)
            total = sum(figure.value for figure, _ in there) / part
            spread = math.hypot(*(figure.spread for figure, _ in there)) / part
            known[name] = Figure(total, math.hypot(spread, 0.5 * (1.0 - part) * total), Basis.CARD)
    return {name: figure for name, figure in known.items() if figure.value > 0.0}


def prior_of(
    kind: EngineKind, side: Side, record: SideRecord, springs: tuple[FigureMap, ...], engine: FigureMap, fit: FigureMap,
    cam: Mapping[str, Figure],
) -> Prior:  # fmt: skip
    """Rows of a side from all that is told of it; `engine` the figures told of the engine, `cam` lift (m) and duration (crank rad at 1 mm) where
    they are known."""
    height = fit["installed_height"].value if "installed_height" in fit else math.nan
    step = fit["inner_step"].value if "inner_step" in fit else 1.0 * _MM
    told = _told(record, springs, height, step) | dict(cam)
    material = record.parts[Owner.VALVE].facts.get("material", "") if Owner.VALVE in record.parts else ""
    return draw_prior(kind, side, {key: engine[key] for key in ("bore", "stroke", "limiter") if key in engine}, told, material)


def _shim_mass(adjuster: Adjuster) -> float:
    if adjuster is Adjuster.SHIM_OVER:
        return 0.006
    return 0.0016 if adjuster in (Adjuster.SHIM_UNDER, Adjuster.SHIM_ON_STEM, Adjuster.LASH_CAP) else 1e-4


def complete_from(
    prior: Prior, kind: EngineKind, side: Side, record: SideRecord, springs: tuple[FigureMap, ...], fit: FigureMap, lift: Figure,
    clearance: Figure, ratio: float = 1.0, weights: Array | None = None,
) -> SideEstimates:  # fmt: skip
    """Every figure of a side: what is told, and for each gap the middle of the rows with half the width that holds 95 % of them.

    `lift` is the cam's at the valve (m), `ratio` valve motion over motion where the blade is, `weights` how much each row counts.
    """
    rows, columns = prior.columns, {}
    parts: dict[Owner, dict[str, Figure]] = {owner: dict(part.figures) for owner, part in record.parts.items()}
    valve = parts.setdefault(Owner.VALVE, {})
    valve.setdefault("head_diameter", _guess(rows["head"], weights))
    valve.setdefault("stem_diameter", _guess(rows["stem"], weights))
    valve.setdefault("seat_width", estimate((1.1 if side is Side.INTAKE else 1.3) * _MM, 0.25))
    for owner, name in _TOLD.items():
        own = parts.setdefault(owner, {})
        if "mass" not in own:
            own["mass"] = _guess(rows[name], weights)
            columns[f"mass:{owner.value}"] = rows[name] / (kind.on_a_lobe(side) if owner is Owner.FOLLOWER else 1)
    parts.setdefault(Owner.SHIM, {}).setdefault("mass", estimate(_shim_mass(Adjuster.LASH_CAP if kind.caps else kind.adjuster), 0.3))
    done = dict(fit)
    lifted = rows["lift"] if lift.basis is Basis.ESTIMATE else np.full(ROWS, lift.value)
    standing = (lifted + prior.own.above * _MM) * np.exp(_HEIGHT_SCATTER * scores(f"height {side}"))
    if "installed_height" not in done:
        done["installed_height"] = _guess(standing, weights)
        columns["installed_height"] = standing
    done.setdefault("inner_step", estimate(1.0 * _MM, spread=0.5 * _MM))
    done.setdefault("spring_shim", Figure(0.0, 0.0, Basis.CARD))
    done.setdefault("retainer_to_seal", estimate(lift.value + 2.0 * _MM, spread=1.0 * _MM))
    done.setdefault("clearance", clearance)
    return SideEstimates(
        parts, done, _springs(prior, side, springs, done, columns, lift.value - ratio * done["clearance"].value, weights), columns
    )


def _springs(
    prior: Prior, side: Side, springs: tuple[FigureMap, ...], fit: FigureMap, columns: dict[str, Array], lift: float, weights: Array | None
) -> tuple[dict[str, Figure], ...]:  # fmt: skip
    rows, found = prior.columns, []
    margin = _BIND * np.exp(_BIND_SCATTER * scores(f"bind {side}"))
    for number, (known, share) in enumerate(zip(springs, _SHARES[len(springs)], strict=True)):
        spring = dict(known)
        height = fit["installed_height"].value - (fit["inner_step"].value if number else 0.0)
        if "load" not in spring:
            spring["load"] = _guess(rows["seat"] * share, weights)
            columns[f"load_{number}"] = rows["seat"] * share
            spring["load_height"] = Figure(height, 0.0, Basis.ESTIMATE)
        elif "load_height" not in spring:  # a load without a height is the seat force, at the installed height
            spring["load_height"] = Figure(height, 0.0, Basis.ESTIMATE)
        if "rate" not in spring:
            spring["rate"] = _guess(rows["rate"] * share, weights)
            columns[f"rate_{number}"] = rows["rate"] * share
        if "mass" not in spring:
            spring["mass"] = _guess(rows["springs"] * share, weights)
            columns[f"mass:spring {number}"] = rows["springs"] * share
        if "solid_height" not in spring:
            solid = height - lift - margin
            spring["solid_height"] = _guess(solid, weights)
            columns[f"solid_{number}"] = solid
        found.append(spring)
    return tuple(found)


def cam_guess(prior: Prior) -> dict[str, Figure]:
    """Lift (m) and crank duration at 1 mm (rad) of a cam nobody told of."""
    return {"lift": _guess(prior.columns["lift"]), "duration": _guess(prior.columns["duration"])}
