"""What the one who assembles needs beside clearances: torques, cam timing, heights and shims per valve, counts, crank positions."""

import math
from dataclasses import dataclass

from rocklash.answers.results import BuildResult
from rocklash.answers.rows import keyhole_of, side_rows
from rocklash.answers.stops import stops_of, told_stops
from rocklash.records.models import Build, SetupRole
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import SHIMMED, Side
from valvetrain.parts.figure import Basis
from valvetrain.units import QuantityKind, UnitSystem, quantity, show
from valvetrain.wording.inputs import basis_words

TORQUES = ("torque_cam_cap", "torque_cam_sprocket", "torque_tensioner", "torque_lock_nut", "torque_cover", "torque_head")
_PAPERS = ("service_interval",)


@dataclass(frozen=True, kw_only=True)
class ValveStanding:
    """One valve's spring as it should stand."""

    name: str
    height: str
    shim: str


@dataclass(frozen=True, kw_only=True)
class JobFacts:
    """Everything of it, as text. `torques` are those that the manual was told to say; none is ever ours."""

    papers: list[tuple[str, str]]
    torques: list[tuple[str, str]]
    timing: list[tuple[str, str]]
    standing: list[ValveStanding]
    counts: list[tuple[str, int]]
    stops: list[tuple[str, str]]


def _told(build: Build, keys: tuple[str, ...], system: UnitSystem) -> list[tuple[str, str]]:
    figures, found = build.engine.figures, []
    for key in keys:
        if key in figures:
            page = f", page {figures[key]['page']}" if figures[key].get("page") else ""
            kind = FIGURES[Owner.ENGINE, key]
            found.append((kind.label, f"{quantity(figures[key]['value'], kind.kind, system)}{page}"))
    return found


def _papers(build: Build, system: UnitSystem) -> list[tuple[str, str]]:
    engine = build.engine
    fuel = build.facts.get("fuel", "") or engine.facts.get("fuel", "")
    words = [("Serial number", engine.serial), ("Fuel", fuel), ("Manual", engine.manual)]
    high = build.figures.get("altitude")
    above = [(FIGURES[Owner.GOAL, "altitude"].label, quantity(high["value"], QuantityKind.ALTITUDE, system))] if high else []
    return [*((name, word) for name, word in words if word), *_told(build, _PAPERS, system), *above]


def _timing(answer: BuildResult, build: Build, system: UnitSystem) -> list[tuple[str, str]]:
    assert answer.review
    found, sides = [], answer.review.completed.proposed_sides
    for side in (Side.INTAKE, Side.EXHAUST):
        centre = sides[side].parts[Owner.CAM]["lobe_centre"]
        where = "after" if side is Side.INTAKE else "before"
        known = ", an estimate" if centre.basis is Basis.ESTIMATE else f", {basis_words(centre.basis)}"
        found.append((f"{side.value.capitalize()} lobe centre", f"{math.degrees(centre.value):.1f}° {where} overlap TDC{known}"))
    pins = build.engine.figures.get("chain_pins")
    if pins:
        found.append(("Chain pins between the marks", show(pins["value"], QuantityKind.NUMBER, system, 0)))
    return found


def _standing(answer: BuildResult, system: UnitSystem) -> list[ValveStanding]:
    assert answer.review
    found = []
    for side in (Side.EXHAUST, Side.INTAKE):
        train = answer.review.completed.proposed.sides[side]
        for place in train.positions:
            shim = train.spring_shim.value + place.own_shim
            height = train.installed_height.value + place.deviation - train.spring_shim.value
            decimals = 4 if system is UnitSystem.INCH else 2
            found.append(
                ValveStanding(
                    name=place.name,
                    height=show(height, QuantityKind.LENGTH, system, decimals),
                    shim=show(shim, QuantityKind.LENGTH, system, decimals) if shim > 1e-6 else "none",
                )
            )
    return found


def _counts(build: Build) -> list[tuple[str, int]]:
    rows, engine = side_rows(build), build.engine
    valves = engine.cylinders * engine.valves_per_side
    counts: dict[str, int] = {}

    def count(what: str, number: int) -> None:
        counts[what] = counts.get(what, 0) + number

    for side in Side:
        row = rows[SetupRole.PROPOSED, side.value]
        count("valves", valves)
        count("seals", valves)
        count("retainers", valves)
        count("springs", valves * (2 if row.inner_spring else 1))
        if not keyhole_of(row):
            count("keeper halves", 2 * valves)
        if engine.adjuster in SHIMMED or row.shim:
            count("lash caps" if engine.adjuster in ("lash_cap", "screw") else "shims or graded buckets", valves)
    return list(counts.items())


def _stops(answer: BuildResult, build: Build) -> list[tuple[str, str]]:
    plan = stops_of(answer, build) if build.engine.adjuster != "hydraulic" else None
    if plan is None:
        return []
    return [(f"{where}, {turn}" if turn else where, valves) for where, turn, valves in told_stops(plan)]


def job_facts(answer: BuildResult, build: Build, system: UnitSystem) -> JobFacts:
    """All of it; needs a review."""
    return JobFacts(
        papers=_papers(build, system),
        torques=_told(build, TORQUES, system),
        timing=_timing(answer, build, system),
        standing=_standing(answer, system),
        counts=_counts(build),
        stops=_stops(answer, build),
    )
