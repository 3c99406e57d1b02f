"""Curves, readouts and the section of the Cams station, as data for the drawings."""

import math

import numpy as np

from rocklash.answers.cams import CamAnswer, Contender
from rocklash.answers.sections import section_of_train
from rocklash.ui.drawings import curves
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from rocklash.ui.drawings.lobe_section import Section
from rocklash.ui.drawings.readout import packed
from valvetrain.formats.lobe_log import LobeLog
from valvetrain.studies.cams.cam_events import centre_of
from valvetrain.studies.cams.degree_wheel import DegreeWheelFit
from valvetrain.studies.train.lobe_bands import acceleration_band
from valvetrain.units import UnitSystem

_CSS = {"S": "p-stock", "A": "p-proposed", "B": "p-b", "C": "p-c"}
_READ_STEP = 2.0  # crank degrees between values the crosshair reads
_READINGS = 240  # dots drawn at most; slips always


def _units(system: UnitSystem) -> tuple[tuple[float, str], ...]:
    """Factor and unit of lift, velocity, acceleration and jerk."""
    if system is UnitSystem.METRIC:
        return (1e3, "mm"), (1.0, "m/s"), (1e-3, "km/s²"), (1e-6, "10⁶ m/s³")
    return (1 / 0.0254, "in"), (1 / 0.3048, "ft/s"), (1 / 9.80665, "g"), (1 / 9.80665e3, "10³ g/s")


def _span(found: CamAnswer) -> tuple[float, float]:
    """Crank degrees that hold every event, in steps of 30."""
    low, high = math.inf, -math.inf
    for each in found.contenders:
        if each.train:
            centre = math.degrees(centre_of(each.train))
            low = min(low, centre + 2.0 * math.degrees(each.train.curve.angle[0]))
            high = max(high, centre + 2.0 * math.degrees(each.train.curve.angle[-1]))
    return max(30.0 * math.floor(low / 30.0), -360.0), min(30.0 * math.ceil(high / 30.0), 360.0)


def _ticks(low: float, high: float) -> list[tuple[float, str]]:
    names = {0: "TDC", 180: "BDC", -180: "BDC"}
    step = 60 if high - low > 300 else 30
    found = range(math.ceil(low / step) * step, int(high) + 1, step)
    return [(float(angle), names.get(angle, f"{angle}".replace("-", "\N{MINUS SIGN}"))) for angle in found]


def linked_plots(found: CamAnswer, goal: float, system: UnitSystem, fitted: tuple[LobeLog, DegreeWheelFit] | None) -> Plots:
    """Lift, velocity, acceleration and jerk of every cam over the crank angle; the log's readings on the lift of A."""
    low, high = _span(found)
    omega = math.pi * goal  # camshaft rad/s at half the crank's rev/s
    heights, titles = (128.0, 78.0, 112.0, 78.0), ("Lift at the valve", "Velocity", "Acceleration", "Jerk")
    data = []
    for order, ((factor, unit), title) in enumerate(zip(_units(system), titles, strict=True)):
        lines = []
        for each in found.contenders:
            if each.train is None:
                continue
            curve = each.train.curve
            crank = np.degrees(centre_of(each.train) + 2.0 * curve.angle)
            raw = (curve.lift, curve.velocity, curve.acceleration, curve.jerk)[order]
            values = (np.maximum(raw - each.train.clearance.value, 0.0) if order == 0 else raw * omega**order) * factor
            label = f"{each.letter} {values.max():.{2 if system is UnitSystem.METRIC else 3}f}" if order == 0 and each.letter == "A" else ""
            band: tuple[float, ...] = ()
            if order == 2 and each.letter == "A":
                # the share holds for the peak; where little happens a third of the peak stands for it; a log knows its own band
                wide = np.maximum(np.abs(values), np.abs(values).max() / 3.0) * each.train.shape.spread
                open_wide = acceleration_band(each.train, curve.angle)
                if open_wide is not None:
                    wide = open_wide * omega**2 * factor
                if fitted:
                    scale = curve.full / fitted[1].peak_lift * omega**2 * factor
                    wide = np.interp(curve.angle, fitted[1].angle, fitted[1].acceleration_spread) * scale
                band = tuple(np.round(np.where(curve.lift > each.train.clearance.value, wide, 0.0), 4).tolist())
            keep = slice(None, None, 3)
            lines.append(
                Curve(
                    tuple(np.round(crank[keep], 1).tolist()),
                    tuple(np.round(values[keep], 4).tolist()),
                    _CSS[each.letter],
                    label,
                    band[keep],
                    each.letter,
                )
            )
        dots = _dots(found, fitted, factor) if order == 0 and fitted else ()
        data.append(PlotData(title, unit, tuple(lines), dots, heights[order]))
    return curves.draw(data, low, high, _ticks(low, high))


def _dots(found: CamAnswer, fitted: tuple[LobeLog, DegreeWheelFit], factor: float) -> tuple[tuple[float, float, bool], ...]:
    """Readings of the log that A was fitted to, over the crank angle; slips marked."""
    train = found.contenders[1].train
    if train is None:
        return ()
    log, fit = fitted
    scale = train.curve.full / fit.peak_lift
    centre = math.degrees(centre_of(train))
    every = max(1, len(log.angle) // _READINGS)
    dropped = set(fit.dropped)
    return tuple(
        (centre + 2.0 * math.degrees(angle - fit.nose), (lift - train.clearance.value) * scale * factor, n in dropped)
        for n, (angle, lift) in enumerate(zip(log.angle, log.lift, strict=True))
        if (n % every == 0 or n in dropped) and lift > train.clearance.value
    )


def section_of(each: Contender) -> Section | None:
    """Lobe and follower of one cam in section; None when no lobe gives its lift."""
    if each.train is None or each.lobe is None:
        return None
    return section_of_train(each.train, each.lobe.face_has or each.lobe.face_needed or 0.0)


def readouts(found: CamAnswer, goal: float, system: UnitSystem, plots: Plots, section: Section | None) -> dict[str, object]:
    """What the crosshair reads, a value every two crank degrees: angles, values per plot and cam (packed), and how the section turns."""
    low, high = _span(found)
    crank = np.arange(low, high + 0.5, _READ_STEP)
    omega, series = math.pi * goal, []
    places = [2, 2, 2, 1] if system is UnitSystem.METRIC else [3, 1, 0, 0]
    for order, (factor, _) in enumerate(_units(system)):
        row = {}
        for each in found.contenders:
            if each.train is None:
                continue
            curve = each.train.curve
            raw = (curve.lift, curve.velocity, curve.acceleration, curve.jerk)[order]
            at = (np.radians(crank) - centre_of(each.train)) / 2.0
            values = np.interp(at, curve.angle, raw, left=0.0, right=0.0) * omega**order
            values = np.maximum(values - each.train.clearance.value, 0.0) if order == 0 else values
            row[each.letter] = packed(values * factor, places[order])  # what is read, no more: it goes out with every change
        series.append(row)
    first = found.contenders[1].train
    centre = math.degrees(centre_of(first)) if first else 0.0
    return {
        "low": low,
        "step": _READ_STEP,
        "places": places,
        "high": high,
        "centre": centre,
        "left": plots.left,
        "right": plots.right,
        "scales": [plot.scale for plot in plots.plots],
        "series": series,
        "turn": section.turn if section else None,
    }
