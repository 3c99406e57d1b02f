"""Linked plots of lift and forces at one speed, as data for the drawings and for the crosshair."""

import math

import numpy as np
from numpy.typing import NDArray

from rocklash.ui.drawings import curves
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from rocklash.ui.drawings.readout import packed
from valvetrain.quantities import in_unit
from valvetrain.studies.motion.forces import ForceLines, MovingForces
from valvetrain.units import QuantityKind, UnitSystem, shown_unit

Array = NDArray[np.float64]

_EVERY = 1.0  # cam degrees between values the crosshair reads
_HEIGHTS = (104.0, 128.0, 136.0)


def _points(angle: Array, values: Array, factor: float, low: float, high: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    degrees = np.degrees(angle)
    inside = (degrees >= low) & (degrees <= high)
    keep = slice(None, None, max(int(inside.sum() / 240), 1))
    return tuple(np.round(degrees[inside][keep], 2).tolist()), tuple(np.round(values[inside][keep] * factor, 4).tolist())


def span(own: ForceLines, stock: ForceLines) -> tuple[float, float]:
    """Cam degrees either side of the nose that hold both events, in steps of ten."""
    reach = max(float(np.degrees(np.abs(lines.angle[lines.lift > 0.0])).max()) for lines in (own, stock))
    edge = 10.0 * math.ceil((reach + 4.0) / 10.0)
    return -edge, edge


def force_plots(own: ForceLines, stock: ForceLines, moving: MovingForces | None, before: MovingForces | None, system: UnitSystem) -> Plots:
    """Lift; spring force against inertia force of a rigid train; contact force, of the motion where it is known."""
    low, high = span(own, stock)
    length, force = (1.0 / _unit(QuantityKind.LENGTH, system), 1.0 / _unit(QuantityKind.FORCE, system))

    def line(lines: ForceLines | MovingForces, values: Array, factor: float, css: str, name: str = "") -> Curve:
        return Curve(*_points(lines.angle, values, factor, low, high), css, name=name)

    peak = float(stock.contact.max())
    # a stock train that floats beats on its lobe: what goes off the top tells nothing that the eye needs
    roof = 1.25 * max(float((moving or own).contact.max()), peak)
    contact = [
        line(before, np.minimum(before.contact, roof), force, "p-stock")
        if before
        else line(stock, np.maximum(stock.contact, 0.0), force, "p-stock")
    ]
    if moving:
        contact.append(line(moving, moving.contact, force, "p-proposed", "contact"))
        if moving.apart.any():
            contact.append(line(moving, np.where(moving.apart, 0.0, np.nan), force, "p-apart"))
    else:
        contact.append(line(own, own.contact, force, "p-proposed", "contact"))
    unit, newton = shown_unit(QuantityKind.LENGTH, system), shown_unit(QuantityKind.FORCE, system)
    shown = np.maximum(own.inertia, -0.1 * peak)
    data = [
        PlotData(
            "Lift",
            unit,
            (line(stock, stock.lift, length, "p-stock"), line(own, own.lift, length, "p-proposed", "lift")),
            height=_HEIGHTS[0],
        ),
        PlotData(
            "Spring force and inertia force",
            newton,
            (
                line(stock, stock.spring, force, "p-stock"),
                line(own, own.spring, force, "p-proposed", "spring"),
                line(own, np.maximum(shown, 0.0), force, "p-ink", "inertia"),
            ),
            height=_HEIGHTS[1],
        ),
        PlotData("Contact force at the valve", newton, tuple(_split(contact)), height=_HEIGHTS[2]),
    ]
    ticks = [(float(angle), f"{angle}".replace("-", "\N{MINUS SIGN}")) for angle in range(int(low), int(high) + 1, 20)]
    return curves.draw(data, low, high, ticks, width=380.0)


def _unit(kind: QuantityKind, system: UnitSystem) -> float:
    """SI value of one shown unit."""
    return 1.0 / in_unit(1.0, kind, shown_unit(kind, system))


def _split(lines: list[Curve]) -> list[Curve]:
    """Lines with holes as one line a stretch."""
    found = []
    for line in lines:
        stretch: list[tuple[float, float]] = []
        for x, y in [*zip(line.x, line.y, strict=True), (0.0, math.nan)]:
            if not math.isnan(y):
                stretch.append((x, y))
            elif stretch:
                found.append(Curve(tuple(p for p, _ in stretch), tuple(q for _, q in stretch), line.css, line.label, (), line.name))
                stretch = []
    return found


def readouts(
    own: ForceLines, stock: ForceLines, moving: MovingForces | None, system: UnitSystem, plots: Plots, turn: dict[str, object] | None
) -> dict[str, object]:
    """What the crosshair reads each cam degree: lift, spring and inertia force, contact force; and how the section turns."""
    low, high = span(own, stock)
    degrees = np.arange(low, high + 0.5 * _EVERY, _EVERY)
    at = np.radians(degrees)
    length, force = (1.0 / _unit(QuantityKind.LENGTH, system), 1.0 / _unit(QuantityKind.FORCE, system))

    metric = system is UnitSystem.METRIC
    fine, coarse = (3, 0) if metric else (4, 1)  # decimals: no more than is read, all of it goes out with every change

    def row(lines: ForceLines | MovingForces, values: Array, factor: float, places: int) -> str:
        return packed(np.interp(at, lines.angle, values) * factor, places)

    contact = row(moving, moving.contact, force, coarse) if moving else row(own, own.contact, force, coarse)
    return {
        "low": low,
        "high": high,
        "step": _EVERY,
        "per": 1,
        "places": [2, 0, 0] if system is UnitSystem.METRIC else [3, 1, 1],
        "centre": 0,
        "left": plots.left,
        "right": plots.right,
        "scales": [plot.scale for plot in plots.plots],
        "series": [
            {"lift": row(own, own.lift, length, fine)},
            {"spring": row(own, own.spring, force, coarse), "inertia": row(own, np.maximum(own.inertia, 0.0), force, coarse)},
            {"contact": contact},
        ],
        "turn": turn,
    }
