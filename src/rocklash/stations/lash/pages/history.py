"""Wear over the hours and the warm engine as view-models."""

from dataclasses import dataclass

import numpy as np

from rocklash.answers.rows import side_rows
from rocklash.answers.wear import WarmSide
from rocklash.desk.words import FactView, fact_views
from rocklash.records.models import Build, SetupRole
from rocklash.ui.drawings import curves
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from valvetrain.parts.catalogue import Owner
from valvetrain.quantities import in_unit
from valvetrain.studies.clearance.clearance_trend import Trend
from valvetrain.units import QuantityKind, UnitSystem, show, shown_unit, unit_symbol
from valvetrain.wording import told

_STYLES = ("p-proposed", "p-b", "p-c", "p-stock")
_KEYS = ("proposed", "b", "c", "stock")  # the same in a legend


@dataclass(frozen=True, kw_only=True)
class TrendRow:
    """One valve: rate per 10 h with band, hours to the limit with band, next check, sentences."""

    name: str
    now: str
    rate: str
    band: str
    left: str
    left_band: str
    check: str
    words: tuple[str, ...]
    urgent: bool
    trouble: str


@dataclass(frozen=True, kw_only=True)
class WarmRow:
    """One side of the warm engine."""

    side: str
    cold: str
    warm: str
    change: str
    spread: str
    material: str
    titanium: str


@dataclass(frozen=True, kw_only=True)
class HistoryPage:
    """Everything the page prints."""

    rows: list[TrendRow]
    plots: list[tuple[str, Plots, list[tuple[str, str]]]]
    warm: list[WarmRow]
    materials: list[FactView]
    unit: str
    sheets: int
    soonest: str


def _signed(value: float, system: UnitSystem) -> str:
    text = show(value, QuantityKind.LENGTH, system, 3 if system is UnitSystem.METRIC else 4)
    return text if text.startswith("\N{MINUS SIGN}") else f"+{text}"


def _check_words(hours: float | None) -> str:
    if hours is None:
        return ""
    return f"in {hours:.0f} h" if hours >= 0.5 else "now"


def _soonest(trends: list[tuple[str, str, Trend | None, str]]) -> str:
    """When the engine is to be opened next, and for which valve."""
    due = [(found.next_check, name) for name, _, found, _ in trends if found and found.next_check is not None]
    if not due:
        return ""
    hours, name = min(due)
    if hours >= 0.5:
        return f"Check again in {hours:.0f} h, for {name}."
    return f"Check now: {', '.join(name for hours, name in due if hours < 0.5)}."


def _row(name: str, found: Trend | None, trouble: str, system: UnitSystem) -> TrendRow:
    if found is None:
        return TrendRow(name=name, now="", rate="", band="", left="", left_band="", check="", words=(), urgent=False, trouble=trouble)
    places = 3 if system is UnitSystem.METRIC else 4
    band = "" if found.band == (0.0, 0.0) else f"{_signed(found.band[0] * 10, system)} to {_signed(found.band[1] * 10, system)}"
    left = "not at this rate" if found.limit_hours is None else f"{found.limit_hours:.0f} h"
    ends = (
        ""
        if found.limit_least is None
        else f"{found.limit_least:.0f} h to {'never' if found.limit_most is None else f'{found.limit_most:.0f} h'}"
    )
    urgent = (
        bool(found.steps)
        or found.next_check == 0.0
        or (found.limit_least is not None and found.limit_least < 10.0)
        or any("replace it" in word for word in found.words)
    )
    return TrendRow(
        name=name, now=show(found.now, QuantityKind.LENGTH, system, places), rate=_signed(found.rate * 10, system) if len(found.hours) > 1 else "", band=band, left=left, left_band=ends,
        check=_check_words(found.next_check), words=tuple(told(word, system) for word in found.words), urgent=urgent, trouble="",
    )  # fmt: skip


def _plot(side: str, trends: list[Trend], system: UnitSystem) -> Plots:
    factor = in_unit(1.0, QuantityKind.LENGTH, shown_unit(QuantityKind.LENGTH, system))
    lines, dots = [], []
    low, high = min(t.hours[0] for t in trends), max(t.hours[-1] for t in trends)
    for number, each in enumerate(trends):
        hours, wear = np.array(each.hours), np.array(each.wear) * factor
        rate, (slow, fast) = each.rate * factor, (end * factor for end in each.band)
        middle = (hours[0] + hours[-1]) / 2.0
        level = float(np.median(wear - rate * (hours - middle)))
        along = np.array([hours[0], middle, hours[-1]])
        lines.append(
            Curve(tuple(along.tolist()), tuple(np.round(level + rate * (along - middle), 5).tolist()), _STYLES[number % len(_STYLES)])
        )
        ends = level + np.array([slow, fast])[:, None] * (along - middle)  # the band of the rate opens from the middle of the sheets
        centre, half = ends.mean(axis=0), abs(ends[1] - ends[0]) / 2.0
        lines.append(Curve(tuple(along.tolist()), tuple(np.round(centre, 5).tolist()), "", band=tuple(np.round(half, 5).tolist())))
        dots += [(float(h), float(w), False) for h, w in zip(hours, wear, strict=True)]
    step = max(round((high - low) / 5), 1)
    ticks = [(float(h), f"{h:.0f} h") for h in np.arange(low, high + 0.5, step)]
    data = [
        PlotData(
            f"{side.capitalize()}, wear since the first sheet", unit_symbol(QuantityKind.LENGTH, system), tuple(lines), tuple(dots), 150.0
        )
    ]
    return curves.draw(data, low, max(high, low + 1.0), ticks, width=460.0)


def history_page(
    build: Build, trends: list[tuple[str, str, Trend | None, str]], warm: list[WarmSide], sheets: int, system: UnitSystem
) -> HistoryPage:  # fmt: skip
    """View-model of the page."""
    rows = [_row(name, found, trouble, system) for name, _, found, trouble in trends]
    plots = []
    for side in ("exhaust", "intake"):
        own = [found for _, place, found, _ in trends if place == side and found and len(found.hours) > 1]
        if own:
            keys = [(_KEYS[n % len(_KEYS)], each.valve) for n, each in enumerate(own)]
            plots.append((side, _plot(side, own, system), keys))
    places = 3 if system is UnitSystem.METRIC else 4
    told = [
        WarmRow(
            side=each.side, cold=show(each.cold, QuantityKind.LENGTH, system, places), warm=show(each.hint.warm, QuantityKind.LENGTH, system, places),
            change=_signed(each.hint.change, system), spread=f"±{show(each.hint.spread, QuantityKind.LENGTH, system, places)}", material=each.material,
            titanium=_signed(each.titanium.change, system),
        )
        for each in warm
    ]  # fmt: skip
    parts = side_rows(build)
    materials = [
        view
        for side in ("exhaust", "intake")
        if (valve := parts[SetupRole.PROPOSED, side].valve)
        for view in fact_views(valve, Owner.VALVE, ("material",))
    ]
    return HistoryPage(
        rows=rows,
        plots=plots,
        warm=told,
        materials=materials,
        unit=unit_symbol(QuantityKind.LENGTH, system),
        sheets=sheets,
        soonest=_soonest(trends),
    )
