"""The Room station's first page as view-models: section, gap curves, phaser map, every gap, what would free room."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rocklash.answers.gaps import RoomAnswer, RoomMap
from rocklash.records.models import GapReading
from rocklash.ui.drawings import curves, phaser_map, room_section
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from rocklash.ui.drawings.phaser_map import PhaserMap, PhaserMapData
from rocklash.ui.drawings.readout import packed
from rocklash.ui.drawings.room_section import RoomSection, SectionData, SectionValve
from rocklash.ui.drawings.waterfall import Fall, Waterfall
from rocklash.ui.presenting import gap_words, signed
from valvetrain import wording
from valvetrain.parts.engine import Side
from valvetrain.parts.gaps import GapKind
from valvetrain.quantities import in_unit
from valvetrain.studies.checks.check import Check, Verdict
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, shown_unit, unit_symbol
from valvetrain.wording import told

_ROOF_MM = 8.0  # gaps beyond are not drawn
_STEP = 1.0  # crank degrees between values the crosshair reads
_WORDS = ("before", "overlap TDC", "after")
_CSS = {Side.INTAKE: "p-proposed", Side.EXHAUST: "p-ink"}
Array = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class GapCell:
    """One side's figure of a gap: verdict, figure or range, margin, spread, how it is known."""

    verdict: str
    figure: str
    margin: str
    spread: str
    how: str
    why: str
    worst: str


@dataclass(frozen=True, kw_only=True)
class GapRow:
    """One kind of gap with its limit, both sides."""

    name: str
    limit: str
    intake: GapCell | None
    exhaust: GapCell | None
    strong: bool


@dataclass(frozen=True, kw_only=True)
class FreeRow:
    """One way to free room: what, its gain, its price."""

    what: str
    gain: str
    price: str
    enough: bool


@dataclass(frozen=True, kw_only=True)
class SpeedView:
    """What is left of one side at the over-rev."""

    side: str
    sentence: str
    verdict: str
    waterfall: Waterfall
    limit: str


@dataclass(frozen=True)
class ValveRow:
    """One valve's gaps, as printed."""

    name: str
    piston: str
    bind: str
    fast: str
    retainer: str


@dataclass(frozen=True, kw_only=True)
class RoomPage:
    """Everything the page prints."""

    section: RoomSection | None
    plots: Plots | None
    data: dict[str, object]
    crank: dict[str, object]
    map: PhaserMap | None
    map_words: str
    rows: list[GapRow]
    settled: str
    unit: str
    now: list[tuple[str, str, str, str]]
    free: list[tuple[str, list[FreeRow]]]
    speeds: list[SpeedView]
    notes: tuple[str, ...]
    measure: list[tuple[str, str]]
    sentence: str
    pistons: bool
    fast: bool
    both: bool
    valves: list[ValveRow]


def _title(check: Check) -> str:
    name = wording.NAMES[check.code].capitalize()
    _, _, spring = check.about.partition(" ")
    return f"{name}, {spring}" if spring else name


def _cell(check: Check, how: str, system: UnitSystem) -> GapCell:
    guessed = how == "estimate"
    low, high = check.figure - check.spread, check.figure + check.spread
    figure = show(check.figure, QuantityKind.LENGTH, system)
    if guessed:
        decimals = 1 if system is UnitSystem.METRIC else 3
        figure = f"{show(low, QuantityKind.LENGTH, system, decimals)}…{show(high, QuantityKind.LENGTH, system, decimals)}"
    return GapCell(
        verdict=check.verdict.value, figure=figure, margin="" if guessed else signed(check.margin, QuantityKind.LENGTH, system),
        spread="" if guessed else f"±{show(check.spread, QuantityKind.LENGTH, system, difference=True)}", how="not known" if guessed else how, why=told(check.why, system) + gap_words(check, system), worst=check.worst,
    )  # fmt: skip


def _how(found: RoomAnswer, check: Check) -> str:
    known = found.room.how.get((check.code, check.about))
    return known or ("estimate" if check.basis == "estimates" else check.basis)


def _rows(found: RoomAnswer, system: UnitSystem) -> list[GapRow]:
    ranked = sorted(found.checks, key=lambda check: (tuple(GapKind).index(check.code), check.about.partition(" ")[2] == "inner"))
    rows: dict[str, dict[str, tuple[Check, GapCell]]] = {}
    for check in ranked:
        sides = ["intake", "exhaust"] if check.side is None else [check.side.value]
        for side in sides:
            rows.setdefault(_title(check), {})[side] = (check, _cell(check, _how(found, check), system))
    tight = min((check for check in found.checks if _how(found, check) != "estimate"), key=lambda check: check.margin, default=None)
    listed = []
    for name, cells in rows.items():
        limits = {show(check.limit, QuantityKind.LENGTH, system) for check, _ in cells.values()}
        ordered = [show(cells[side][0].limit, QuantityKind.LENGTH, system) for side in ("intake", "exhaust") if side in cells]
        limit = ordered[0] if len(limits) == 1 else " / ".join(ordered)
        strong = tight is not None and any(check is tight for check, _ in cells.values())
        listed.append(
            GapRow(
                name=name,
                limit=f"≥ {limit}",
                intake=cells["intake"][1] if "intake" in cells else None,
                exhaust=cells["exhaust"][1] if "exhaust" in cells else None,
                strong=strong,
            )
        )
    return listed


def _section(found: RoomAnswer) -> RoomSection:
    chamber = found.room.geometry.chamber
    valves = []
    for side, place in found.room.geometry.places.items():
        valves.append(
            SectionValve(
                side=side.value, angle=math.degrees(place.angle.value), offset=place.offset.value * 1e3, height=place.height.value * 1e3, head=place.head_diameter.value * 1e3,
                margin=place.margin.value * 1e3, stem=found.trains[side].stem_diameter.value * 1e3, pocket=place.pocket_depth.value * 1e3,
                pocket_angle=math.degrees(place.pocket_angle.value), pocket_across=place.pocket_diameter.value * 1e3,
            )
        )  # fmt: skip
    return room_section.draw(SectionData(chamber.bore.value * 1e3, chamber.deck.value * 1e3, chamber.gasket.value * 1e3, tuple(valves)))


def _clipped(x: Array, y: Array, roof: float, css: str, name: str = "", band: float = 0.0, said: str = "") -> list[Curve]:
    """A curve where it stays below the roof, a stretch each."""
    keep = y <= roof
    found, start = [], None
    for n in range(len(x) + 1):
        if n < len(x) and keep[n]:
            start = n if start is None else start
        elif start is not None:
            part = slice(start, n)
            wide = (band,) * len(x[part]) if band else ()
            found.append(Curve(tuple(np.round(x[part], 2)), tuple(np.round(y[part], 4)), css, "", wide, name, said))
            start = None
    return found


def _plots(found: RoomAnswer, readings: list[GapReading], system: UnitSystem) -> Plots:
    factor = in_unit(1.0, QuantityKind.LENGTH, shown_unit(QuantityKind.LENGTH, system))
    roof, degrees = _ROOF_MM * 1e-3 * factor, np.degrees(found.angle)
    limits = [
        (check.limit * factor, f"{'IN' if check.side is Side.INTAKE else 'EX'} ≥ {show(check.limit, QuantityKind.LENGTH, system)}")
        for check in found.checks
        if check.code is GapKind.PISTON_VALVE
    ]
    if len({value for value, _ in limits}) == 1:
        limits = [(limits[0][0], limits[0][1].split(" ", 1)[1])]
    lines: list[Curve] = []
    for side, side_curves in found.sides.items():
        known = found.room.pistons[side]
        guessed = known.rest.how == "estimate"
        lines += _clipped(
            degrees, side_curves.gap * factor, roof, _CSS[side], "" if guessed else side.value, known.spread * factor, side.value
        )
        if side_curves.computed is not None:
            lines += _clipped(degrees, side_curves.computed * factor, roof, "p-stock", said=f"{side.value}, computed")
        if side_curves.fast is not None and known.rest.how != "estimate":
            lines += _clipped(degrees, side_curves.fast * factor, roof, "p-fast", said=f"{side.value}, at speed")
    squares = tuple(
        (math.degrees(row.angle), row.value * factor)
        for row in readings
        if row.gap == "piston_to_valve" and row.angle is not None and row.value * factor < roof
    )
    unit = unit_symbol(QuantityKind.LENGTH, system)
    data = [PlotData("Gap along the stem", unit, tuple(lines), (), 250.0, tuple(limits), squares)]
    ticks = [(float(angle), "TDC" if angle == 0 else f"{angle}".replace("-", "\N{MINUS SIGN}")) for angle in range(-60, 61, 20)]
    return curves.draw(data, -75.0, 75.0, ticks, width=380.0)


def _places(system: UnitSystem) -> int:
    return 2 if system is UnitSystem.METRIC else 4


def _crosshair(found: RoomAnswer, plots: Plots, system: UnitSystem) -> dict[str, object]:
    factor = in_unit(1.0, QuantityKind.LENGTH, shown_unit(QuantityKind.LENGTH, system))
    crank = np.arange(-75.0, 75.5, _STEP)
    places = _places(system)
    series = {
        side.value: packed(np.interp(np.radians(crank), found.angle, each.gap) * factor, places)
        for side, each in found.sides.items()
        if found.room.pistons[side].rest.how != "estimate"
    }
    least = min(found.room.pistons.values(), key=lambda each: each.value)
    return {
        "low": -75.0, "high": 75.0, "step": _STEP, "per": 1, "places": [places],
        "centre": round(math.degrees(least.at)) + 40, "left": plots.left, "right": plots.right,
        "scales": [plot.scale for plot in plots.plots], "series": [series], "turn": None,
    }  # fmt: skip


def _moving(found: RoomAnswer, section: RoomSection, system: UnitSystem) -> dict[str, object]:
    """What moves the section at each crank degree: travel in mm, lifts as shown, and gaps that are a range (others the crosshair reads), packed."""
    crank = np.radians(np.arange(-75.0, 75.5, _STEP))
    unit = shown_unit(QuantityKind.LENGTH, system)
    factor, places = in_unit(1.0, QuantityKind.LENGTH, unit), _places(system)

    def at(values: Array, scale: float) -> str:
        return packed(np.interp(crank, found.angle, values) * scale, places)

    sides: dict[str, dict[str, object]] = {}
    for side, each in found.sides.items():
        sides[side.value] = {"lift": at(each.lift, factor)}
        if found.room.pistons[side].rest.how == "estimate":
            sides[side.value] |= {"gap": at(each.gap, factor), "spread": round(found.room.pistons[side].spread * factor, 4)}
    return {
        "low": -75.0, "step": _STEP, "scale": section.scale, "travel": at(found.travel, 1e3), "sides": sides, "unit": unit,
        "mm": round(1e3 / factor, 4), "places": places, "coarse": 1 if system is UnitSystem.METRIC else 3, "words": _WORDS,
    }  # fmt: skip


def _map(found: RoomAnswer, mapped: RoomMap, system: UnitSystem) -> tuple[PhaserMap, str]:
    code = GapKind.VALVE_VALVE if mapped.what == "valve" else GapKind.PISTON_VALVE
    check = next(check for check in found.checks if check.code is code and check.side in (None, mapped.side))
    limit, doubt = check.limit, check.spread if _how(found, check) == "estimate" else 0.0
    low, high = (math.degrees(end) for end in mapped.ends)
    lines = [(0.0, "g-rest", "rest")]
    lines += [(high, "g-stop", "stop, early")] if high > 0.5 else []
    lines += [(low, "g-stop", "stop, late")] if low < -0.5 else []
    if mapped.tooth:
        tooth = math.degrees(mapped.tooth)
        lines += [(high + tooth, "g-tooth", "a tooth early"), (low - tooth, "g-tooth", "a tooth late")]
    factor = in_unit(1e-3, QuantityKind.LENGTH, shown_unit(QuantityKind.LENGTH, system))
    data = PhaserMapData(
        np.degrees(mapped.advances), np.degrees(mapped.angles), mapped.gaps * 1e3, limit * 1e3, tuple(lines),
        2 if system is UnitSystem.METRIC else 3, factor, doubt * 1e3,
    )  # fmt: skip
    name = "Valve to valve" if mapped.what == "valve" else f"{mapped.side.capitalize()} valve to piston"
    return phaser_map.draw(data), f"{name} over crank angle and {mapped.side.value} cam advance"


def _free(found: RoomAnswer, system: UnitSystem) -> list[tuple[str, list[FreeRow]]]:
    listed = []
    for check in found.checks:
        if check.code is not GapKind.PISTON_VALVE or not check.remedies:
            continue
        rows = [
            FreeRow(
                what=wording.action(remedy, system), gain=signed(remedy.effects[0].figure - check.figure, QuantityKind.LENGTH, system),
                price=", ".join(wording.price(price) for price in remedy.prices), enough=remedy.suffices,
            )
            for remedy in check.remedies
        ]  # fmt: skip
        listed.append((check.about, rows))
    return listed


def _speeds(found: RoomAnswer, system: UnitSystem) -> list[SpeedView]:
    listed = []
    for side, fast in found.at_speed.items():
        if not fast.known:
            continue
        limit = found.speed_limit
        over, rest = max(fast.overshoot, 0.0), fast.at_rest
        falls = [Fall("at rest", show(rest, QuantityKind.LENGTH, system), "rest", 0.0, rest)]
        for words, taken in (("overshoot", over), ("rod and bearings", fast.stretch)):
            falls.append(Fall(words, f"\N{MINUS SIGN}{show(taken, QuantityKind.LENGTH, system)}", "less", rest - taken, rest))
            rest -= taken
        falls.append(Fall("left", show(fast.left, QuantityKind.LENGTH, system), "left", 0.0, fast.left))
        sentence = (
            f"At {fast.speed * 60:,.0f} rpm the {side.value} runs {quantity(over, QuantityKind.LENGTH, system)} beyond where its lobe holds it at rest: "
            f"{quantity(fast.left, QuantityKind.LENGTH, system)} left, ±{show(fast.spread, QuantityKind.LENGTH, system)}."
        )
        listed.append(
            SpeedView(
                side=side.value,
                sentence=sentence,
                verdict=fast.verdict(limit).value,
                waterfall=Waterfall(tuple(falls), limit, max(fast.at_rest, limit, 0.5e-3)),
                limit=show(limit, QuantityKind.LENGTH, system),
            )
        )
    return listed


def _sentence(found: RoomAnswer, rows: list[GapRow], system: UnitSystem) -> str:
    short = [check for check in found.checks if check.verdict is Verdict.SHORT]
    unknown = [check for check in found.checks if _how(found, check) == "estimate"]
    if short:
        worst = min(short, key=lambda check: check.margin)
        first = f"{wording.title(worst)} is short by {quantity(abs(worst.margin), QuantityKind.LENGTH, system)}."
    else:
        settled = [check for check in found.checks if _how(found, check) != "estimate"]
        near = min(settled, key=lambda check: check.margin, default=None)
        first = (
            f"No known gap is short; tightest is {wording.title(near).lower()}, {quantity(near.figure, QuantityKind.LENGTH, system)}."
            if near
            else ""
        )
    names = list(dict.fromkeys(wording.title(check).lower() for check in unknown))
    rest = f" Not known yet: {', '.join(names[:3])}{' and more' if len(names) > 3 else ''}." if names and rows else ""
    return first + rest


def _measure(found: RoomAnswer) -> list[tuple[str, str]]:
    """What to measure, most telling first: one line an input."""
    listed: dict[str, str] = {}
    order = {Verdict.SHORT: 0, Verdict.UNPROVEN: 1, Verdict.SLIM: 2, Verdict.HOLDS: 3}
    for check in sorted(found.checks, key=lambda check: (order[check.verdict], tuple(GapKind).index(check.code))):
        if check.verdict is Verdict.HOLDS or not check.dominant:
            continue
        what = check.dominant[0][0]
        listed.setdefault(f"{wording.title(check)}: {wording.input_name(what)}", wording.how_to_measure(what))
    return list(listed.items())[:6]


def _valves(found: RoomAnswer, system: UnitSystem) -> list[ValveRow]:
    def told(value: float | None) -> str:
        return "not known" if value is None else show(value, QuantityKind.LENGTH, system)

    return [
        ValveRow(
            each.name, f"{told(each.piston)}{', read' if each.read else ''}", told(each.bind), told(each.bind_at_speed), told(each.retainer)
        )
        for each in found.valves
    ]  # fmt: skip


def room_page(found: RoomAnswer, mapped: RoomMap | None, readings: list[GapReading], system: UnitSystem) -> RoomPage:
    """View-model of the page."""
    rows = _rows(found, system)
    settled = sum(_how(found, check) != "estimate" and check.verdict is not Verdict.UNPROVEN for check in found.checks)
    section = _section(found) if found.pistons else None
    plots = _plots(found, readings, system) if found.pistons else None
    drawn, words = _map(found, mapped, system) if mapped else (None, "")
    now = []
    for side, least in found.room.pistons.items():
        degrees = round(math.degrees(least.at))
        where = f"{abs(degrees)}° {'after' if degrees >= 0 else 'before'}"
        phaser = f", {abs(math.degrees(least.advance)):.0f}° {'early' if least.advance > 0 else 'late'}" if least.advance else ""
        now.append((side.value, "", f"least {where}{phaser}", least.rest.how if least.rest.how != "estimate" else "not known"))
    return RoomPage(
        section=section,
        plots=plots,
        data=_crosshair(found, plots, system) if plots else {},
        crank=_moving(found, section, system) if section else {},
        map=drawn,
        map_words=words,
        rows=rows,
        settled=f"{settled} of {len(found.checks)} settled",
        unit=unit_symbol(QuantityKind.LENGTH, system),
        now=now,
        free=_free(found, system),
        speeds=_speeds(found, system),
        notes=tuple(told(note, system) for note in found.room.notes),
        measure=_measure(found),
        sentence=_sentence(found, rows, system),
        pistons=found.pistons,
        fast=any(each.fast is not None for each in found.sides.values()),
        both=any(each.computed is not None for each in found.sides.values()),
        valves=_valves(found, system),
    )
