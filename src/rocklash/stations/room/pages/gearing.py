"""Gearing as view-models."""

from dataclasses import dataclass

from rocklash.answers.gearing import driveline_of, marks_of
from rocklash.answers.results import BuildResult
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.records.models import Build
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import FigureMap
from valvetrain.studies.running.gearing import Driveline, machine_of
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, unit_symbol

_CHAIN = ["front_teeth", "rear_teeth", "chain_pitch", "chain_links", "rolling", "tyre_growth", "wheel_slip"]
_ASKS = {
    "gearbox": ["primary_teeth_crank", "primary_teeth_clutch", *(f"gear_{n}" for n in range(1, 7)), *_CHAIN],
    "single": ["clutch_engages", *_CHAIN],
    "water": ["impeller_pitch", "impeller_ratio", "impeller_slip"],
    "governed": ["governed"],
}
_DRIVE = {
    "road": "on road or track", "single": "single speed, with a clutch", "water": "on the water", "governed": "a governor holds it",
    "none": "not known yet",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class SpeedRow:
    """One gear: overall ratio and speeds."""

    gear: str
    ratio: str
    speeds: list[str]


@dataclass(frozen=True, kw_only=True)
class PairRow:
    """One pair of sprockets."""

    pair: str
    ratio: str
    needs: str
    changed: str


@dataclass(frozen=True, kw_only=True)
class GearingPage:
    """Everything the page prints."""

    kind: str
    sentence: str
    heads: list[str]
    rows: list[SpeedRow]
    unit: str
    needs: str
    pairs: list[PairRow]
    wish: list[FieldView]
    asks: list[FieldView]
    shifts: list[tuple[str, str, str]]
    more: list[str]
    map_heads: list[str]
    map_rows: list[tuple[str, list[tuple[str, str]]]]


_AROUND = (2, 4)  # sprockets looked at on either side: front, rear. Source: judgement


def _map(
    found: Driveline, engine: FigureMap, wish: float | None, system: UnitSystem
) -> tuple[list[str], list[tuple[str, list[tuple[str, str]]]]]:
    """Road speed at the stock limiter in top gear for each sprocket pair around the one that is on, front down and rear across; each with its word: `on`,
    `enough` for the speed wished, or nothing."""
    if not found.lines or "front_teeth" not in engine or "rear_teeth" not in engine:
        return [], []
    front, rear = round(engine["front_teeth"].value), round(engine["rear_teeth"].value)
    fronts = [teeth for teeth in range(front - _AROUND[0], front + _AROUND[0] + 1) if teeth > 4]
    rears = [teeth for teeth in range(rear - _AROUND[1], rear + _AROUND[1] + 1) if teeth > 7]
    top = found.lines[-1].speeds[1] * rear / front

    def cell(f: int, r: int) -> tuple[str, str]:
        speed = top * f / r
        word = "on" if (f, r) == (front, rear) else "enough" if wish and speed >= wish else ""
        return show(speed, QuantityKind.ROAD, system), word

    return [str(teeth) for teeth in rears], [(str(f), [cell(f, r) for r in rears]) for f in fronts]


def _rows(found: Driveline, system: UnitSystem) -> list[SpeedRow]:
    name = {"road": "gear {}", "single": "direct"}.get(found.kind, "impeller")
    return [
        SpeedRow(
            gear=name.format(line.gear), ratio=f"{line.ratio:.3f}", speeds=[show(speed, QuantityKind.ROAD, system) for speed in line.speeds]
        )
        for line in found.lines
    ]


def _chain(links: float, whole: float | None) -> str:
    if whole is not None:
        even = 2 * round(whole / 2.0)
        return f"{even} links"
    if links == 0:
        return "same chain"
    return f"chain about {abs(links):g} {'link' if abs(links) == 1 else 'links'} {'longer' if links > 0 else 'shorter'}"


def gearing_page(answer: BuildResult, build: Build, system: UnitSystem, trouble: FieldError | None) -> GearingPage | None:
    """View-model of the page; None when the figures contradict one another."""
    if answer.review is None:
        return None
    done = answer.review.completed
    engine, goal = done.engine, done.goal_figures
    marks, found = marks_of(answer), driveline_of(answer)

    def fields(keys: list[str]) -> list[FieldView]:
        return field_views("engine", Owner.ENGINE, keys, build.engine.figures, engine, system, trouble)

    pairs = [
        PairRow(
            pair=f"{pair.front}/{pair.rear}",
            ratio=f"{pair.ratio:.3f}",
            needs=show(pair.needs, QuantityKind.SPEED),
            changed=f"{pair.changed} {'tooth' if pair.changed == 1 else 'teeth'}, {_chain(pair.links, pair.length)}",
        )
        for pair in found.pairs
    ]
    heads, rows = _map(found, engine, goal["road_speed"].value if "road_speed" in goal else None, system)
    return GearingPage(
        kind=_DRIVE[found.kind],
        sentence=found.sentence,
        heads=[f"{name}, {show(speed, QuantityKind.SPEED)} rpm" for name, speed in marks],
        rows=_rows(found, system),
        unit=unit_symbol(QuantityKind.ROAD, system),
        needs=f"{show(found.needs, QuantityKind.SPEED)} rpm" if found.needs else "",
        pairs=pairs,
        wish=field_views("goal", Owner.GOAL, ["road_speed"], build.figures, goal, system, trouble),
        asks=fields(_ASKS.get(machine_of(engine, answer.record.facts.get("machine", "")), [])),
        shifts=[
            (f"{shift.gear} to {shift.gear + 1}", show(shift.limiter, QuantityKind.SPEED), show(shift.goal, QuantityKind.SPEED))
            for shift in found.shifts
        ],
        more=_more(found, system),
        map_heads=heads,
        map_rows=rows,
    )


def _more(found: Driveline, system: UnitSystem) -> list[str]:
    """What else the driveline tells, a line each."""
    said = []
    if found.clutch:
        engages, speed = found.clutch
        said.append(
            f"The clutch takes hold at {show(engages, QuantityKind.SPEED)} rpm, which is {quantity(speed, QuantityKind.ROAD, system)}: below that it slips and heats."
        )
    if found.distance:
        said.append(f"The chain that is on puts the shafts {quantity(found.distance, QuantityKind.LENGTH, system)} apart.")
    return said
