"""The Cams station as view-models."""

import math
from dataclasses import dataclass

import numpy as np

from rocklash.bridge.cams import CrankCurves, cam_answer, crank_curves
from rocklash.bridge.fields import FieldView, field_views
from rocklash.bridge.figures import Trouble
from rocklash.bridge.results import Answer
from rocklash.bridge.rows import side_rows
from rocklash.bridge.sides import completed_side
from rocklash.records.models import Build, CamLog, Part, SetupRole
from rocklash.ui.drawings import curves, timing_dial
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from rocklash.ui.drawings.timing_dial import Dial, Open
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.quantities import Kind, System, show, unit_symbol
from valvetrain.studies.cam_events import CamPair, Difference, Quantity, SideEvents
from valvetrain.studies.wording import quantity

_FIELDS = ["lift", "height_1", "duration_1", "height_2", "duration_2", "lobe_centre", "ramp_velocity"]
_TRUST = {1: (2, "fair: one height, shape assumed"), 2: (3, "good: two heights"), 0: (1, "poor: estimated")}
_X_TICKS = [(-270.0, ""), (-180.0, "BDC"), (-90.0, "\N{MINUS SIGN}90"), (0.0, "TDC"), (90.0, "90"), (180.0, "BDC"), (270.0, "")]


@dataclass(frozen=True)
class CamRow:
    """A cam in the list of how each is known."""

    side: str
    row: int
    seen: str
    name: str
    stock: str
    changed: bool
    trust: int
    words: str
    log: str
    options: list[tuple[str, str, bool]]
    fields: list[FieldView]
    open: bool


@dataclass(frozen=True)
class DifferenceRow:
    """A line of the difference list."""

    name: str
    about: str
    stock: str
    proposed: str
    spread: str
    change: str
    unit: str


@dataclass(frozen=True)
class CamsPage:
    """Everything the station prints."""

    sentence: str
    dial: Dial
    plots: Plots
    cams: list[CamRow]
    rows: list[DifferenceRow]
    goal: str
    height: str


def _event(angle: float, before: str, after: str) -> str:
    """`23° before`: the trade's way of telling an event that may lie on either side."""
    degrees = round(math.degrees(angle))
    return f"{abs(degrees)}° {before if degrees >= 0 else after}"


def _open(events: SideEvents, role: str) -> Open:
    opens, shuts = math.degrees(events.opens), math.degrees(events.shuts)
    if events.side is Side.INTAKE:
        texts = (f"intake opens|{_event(events.opens, 'before', 'after')}", f"intake shuts|{_event(events.shuts, 'after', 'before')}")
        return Open(role, "intake", -opens, 180.0 + shuts, *texts)
    texts = (f"exhaust opens|{_event(events.opens, 'before', 'after')}", f"exhaust shuts|{_event(events.shuts, 'after', 'before')}")
    return Open(role, "exhaust", -180.0 - opens, shuts, *texts)


def _dial(stock: CamPair, proposed: CamPair) -> Dial:
    valves = [_open(events, role) for role, pair in (("stock", stock), ("proposed", proposed)) for events in (pair.intake, pair.exhaust)]
    return timing_dial.draw(valves, math.degrees(proposed.overlap), math.degrees(stock.overlap))


def _plots(found: list[CrankCurves], system: System) -> Plots:
    metric = system is System.METRIC
    length, speed, bend = (1e3, 1.0, 1e-3) if metric else (1 / 0.0254, 1 / 0.3048, 1 / 9.80665)
    units = ("mm", "m/s", "km/s²") if metric else ("in", "ft/s", "g")

    def plot(title: str, unit: str, field: str, factor: float) -> PlotData:
        lines = []
        for each in found:
            values = getattr(each, field) * factor
            moving = each.lift > 0.0
            label = f"{each.side.value} {np.max(values):.2f}" if field == "lift" and each.role == "proposed" else ""
            css = f"p-{each.role}"
            lines.append(Curve(tuple(np.round(each.crank[moving], 1)), tuple(np.round(values[moving], 4)), css, label))
        return PlotData(title, unit, tuple(lines))

    data = [
        plot("Lift at the valve", units[0], "lift", length),
        plot("Velocity at the goal", units[1], "velocity", speed),
        plot("Acceleration at the goal", units[2], "acceleration", bend),
    ]
    return curves.draw(data, -290.0, 290.0, _X_TICKS)


def _difference(row: Difference, goal_speed: float, system: System) -> DifferenceRow:
    about = f"{row.side.value}" if row.side else "both"
    factor, decimals, unit = 1.0, 1, ""
    if row.what in (Quantity.AREA, Quantity.OVERLAP_AREA):
        factor, decimals, unit = 1e3 * 180 / math.pi, 0, "mm·deg"
    elif row.what is Quantity.ACCELERATION:
        factor, decimals, unit = (math.pi * goal_speed) ** 2 / 1e3, 1, "km/s²"
    if row.kind is Kind.NUMBER:
        texts = [f"{value * factor:.{decimals}f}" for value in (row.stock, row.proposed, row.change, row.spread)]
    else:
        places = {Kind.ANGLE: 0, Kind.VELOCITY: 2}.get(row.kind)
        texts = [show(value, row.kind, system, places, difference=True) for value in (row.stock, row.proposed, row.change)]
        texts.append(show(row.spread, row.kind, system, 1 if row.kind is Kind.ANGLE else places, difference=True))
        unit = unit_symbol(row.kind, system)
    change = texts[2].replace("-", "\N{MINUS SIGN}")
    nothing = not change.strip("+\N{MINUS SIGN}0.")
    spread = f"±{texts[3]}" if row.spread else ""
    signed = "0" if nothing else change if change.startswith("\N{MINUS SIGN}") else f"+{change}"
    return DifferenceRow(row.what.value[0].upper() + row.what.value[1:], about, texts[0], texts[1], spread, signed, unit)


def _log_words(log: CamLog, system: System) -> str:
    """What the log itself says, beside the figures taken from it."""
    noise = quantity(log.noise, Kind.LENGTH, system, 4 if system is System.METRIC else 5)
    who = f" by {log.by}" if log.by else ""
    return f"Log of {log.at:%d %b %Y}{who}: noise {noise}, largest acceleration {log.acceleration * 1e3:.1f} ±{log.acceleration_spread * 1e3:.1f} mm/rad²."


def _cam_rows(
    answer: Answer, build: Build, parts: list[Part], logs: dict[int, CamLog], system: System, trouble: Trouble | None
) -> list[CamRow]:
    found, rows = [], side_rows(build)
    for side in Side:
        row, stock = rows[SetupRole.PROPOSED, side.value], rows[SetupRole.STOCK, side.value]
        cam = row.cam
        if cam is None:
            continue
        known = sum(f"duration_{n}" in cam.figures and f"height_{n}" in cam.figures for n in (1, 2)) if "lift" in cam.figures else 0
        fields = field_views(
            f"part-{cam.pk}", Owner.CAM, _FIELDS, cam.figures, completed_side(answer, "proposed", side).parts[Owner.CAM], system, trouble
        )
        options = [(str(part.pk), part.name, part.pk == cam.pk) for part in parts if part.kind == "cam" and part.side in ("", side.value)]
        trust, words = _TRUST[known]
        log = logs.get(cam.pk)
        told = _log_words(log, system) if log else ""
        if log:
            trust, words = (2, "fair: the log is coarse") if log.coarse else (3, f"good: {log.readings} readings, {log.dropped} left out")
        wrong = any(field.error for field in fields)
        name = stock.cam.name if stock.cam else "none"
        found.append(
            CamRow(
                side.value,
                row.pk,
                str(cam.pk),
                cam.name,
                name,
                cam != stock.cam,
                trust,
                f"degree wheel, {words}" if log else f"card, {words}",
                told,
                options,
                fields,
                wrong,
            )
        )
    return found


def cams_page(
    answer: Answer, build: Build, parts: list[Part], logs: dict[int, CamLog], system: System, trouble: Trouble | None
) -> CamsPage | None:
    """View-model of the station; None when the figures contradict one another."""
    if answer.review is None:
        return None
    found, goal = cam_answer(answer), answer.review.completed.goal.goal_rpm
    return CamsPage(
        sentence=found.sentence,
        dial=_dial(found.stock, found.proposed),
        plots=_plots(crank_curves(answer), system),
        cams=_cam_rows(answer, build, parts, logs, system, trouble),
        rows=[_difference(row, goal, system) for row in found.rows],
        goal=quantity(goal, Kind.SPEED, system),
        height=quantity(1e-3, Kind.LENGTH, system),
    )
