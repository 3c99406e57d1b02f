"""Runs laid over one another, and what they differ by, as view-models."""

import math
from dataclasses import dataclass

import numpy as np

from rocklash.answers.results import BuildResult
from rocklash.records.models import Build, ProofFile, ProofTest
from rocklash.ui.drawings.curves import Curve, PlotData, Plots, draw
from rocklash.ui.drawings.scale import round_step
from valvetrain.errors import ValveTrainError
from valvetrain.formats import run_table
from valvetrain.formulas.compression import swept_volume
from valvetrain.quantities import in_unit
from valvetrain.studies.proof import dyno, float_tale, road, throttle
from valvetrain.studies.proof.air import FORMULAS, Air, Standard, factor, outside_of
from valvetrain.studies.running.gearing import gears_of
from valvetrain.units import QuantityKind, UnitSystem, quantity, told, unit_symbol
from valvetrain.wording import proof as wording

_LINES = ("p-stock", "p-proposed", "p-b", "p-c", "p-ink", "p-stock", "p-b", "p-c")
MOST_LAID = 8
_LEAST_NOISE, _SMOOTHED = 0.003, 0.7  # of two runs' quotient: never held to be finer; what the smoothing left of a bin's own


@dataclass(frozen=True, kw_only=True)
class RunView:
    """One run of the list."""

    pk: int
    name: str
    phase: str
    when: str
    peak: str
    torque: str
    air: str
    shown: bool
    css: str
    left_out: list[str]


@dataclass(frozen=True, kw_only=True)
class RunsPage:
    """The overlay with its sentence; `trouble` where the runs cannot be laid over one another."""

    runs: list[RunView]
    plots: Plots | None
    sentence: str
    trouble: str
    standard: str
    formula: str
    notes: list[str]
    bands: list[tuple[str, str, str]]
    table: list[list[str]]
    heads: list[str]
    float_words: str
    data: dict[str, object]
    asked: list[int]


def _power(watts: float, system: UnitSystem) -> str:
    return f"{watts / 1e3:.1f} kW" if system is UnitSystem.METRIC else f"{watts / 745.7:.1f} hp"


def run_of(test: ProofTest, *, boosted: bool) -> dyno.Run:
    """A kept run, from its bins."""
    condition, found = test.conditions, test.found
    air = None
    if condition.get("ambient") and condition.get("temperature"):
        air = Air(pressure=condition["ambient"], temperature=condition["temperature"], humidity=(condition.get("humidity") or 50.0) / 100.0)
    standard = Standard(condition.get("standard") or Standard.NONE)
    made_on = tuple((key, str(condition.get(key, ""))) for key in ("dyno", "gear", "wheel"))
    return dyno.Run(
        name=test.name or str(test.pk),
        speed=np.array(found["speed"]),
        power=np.array(found["power"]),
        air=air,
        standard=standard,
        boosted=boosted,
        made_on=made_on,
        taken_off=condition.get("taken_off") or 0.0,
        gain=found.get("gain") or 0.0,
    )


def _curve(test: ProofTest, run: dyno.Run, standard: Standard) -> dyno.Curve:
    """The run as of a standard, with the noise that its own samples told."""
    curve = dyno.brought_to(run, standard)
    noise = np.interp(curve.speed, test.found["speed"], test.found["noise"]) * (curve.factor if run.standard is Standard.NONE else 1.0)
    return dyno.Curve(
        name=curve.name,
        speed=curve.speed,
        power=curve.power,
        noise=np.maximum(noise, 1.0),
        factor=curve.factor,
        standard=standard,
        samples=test.found["rows"],
    )


def in_use_of(answer: BuildResult) -> tuple[float, float] | None:
    """Speeds between which the engine lives by its gears: up to the goal; None without a review."""
    if answer.review is None:
        return None
    ratios = [ratio for _, ratio in sorted(gears_of(answer.review.completed.engine).items())]
    top = answer.review.completed.goal.goal_rpm
    return dyno.range_in_use(top, ratios) if ratios else (0.75 * top, top)


def _plots(curves: list[dyno.Curve], found: dyno.Comparison | None, system: UnitSystem) -> Plots:
    per_power = 1e3 if system is UnitSystem.METRIC else 745.7
    per_torque = 1.0 if system is UnitSystem.METRIC else 1.3558
    power_unit, torque_unit = ("kW", "N m") if system is UnitSystem.METRIC else ("hp", "lbf ft")
    low, high = 60 * min(curve.speed[0] for curve in curves), 60 * max(curve.speed[-1] for curve in curves)
    step = round_step(high - low, 8)
    ticks = [(n * step, f"{n * step:,.0f}") for n in range(math.ceil(low / step), math.floor(high / step) + 1)]

    def lines(of: str, per: float) -> tuple[Curve, ...]:
        return tuple(
            Curve(
                tuple(60 * curve.speed), tuple(getattr(curve, of) / per), _LINES[n], name=curve.name if len(curves) <= 2 else ""
            )
            for n, curve in enumerate(curves)
        )  # fmt: skip

    data = [
        PlotData("Power", power_unit, lines("power", per_power), height=150.0),
        PlotData("Torque", torque_unit, lines("torque", per_torque), height=120.0),
    ]
    if found is not None:
        band = tuple(found.spread / (2 * math.pi * found.speed) / per_torque)
        difference = (
            Curve(tuple(60 * found.speed), tuple(0.0 * found.speed), "", band=band), Curve(tuple(60 * found.speed), tuple(found.torque / per_torque), "p-proposed")
        )  # fmt: skip
        data.append(PlotData("Second less first; shaded: the runs' own spread", torque_unit, difference, height=90.0))
    return draw(data, low, high, ticks, width=620.0)


def _float_words(first: dyno.Curve, second: dyno.Curve) -> str:
    """What a loss of the first run against the second tells."""
    low, high = max(first.speed[0], second.speed[0]), min(first.speed[-1], second.speed[-1])
    grid = second.speed[(second.speed >= low + 0.35 * (high - low)) & (second.speed <= high)]
    noise = np.hypot(*(np.interp(grid, each.speed, each.noise / each.power) for each in (first, second)))
    found = float_tale.onset_of_loss(
        grid,
        np.interp(grid, first.speed, first.torque),
        np.interp(grid, second.speed, second.torque),
        max(_LEAST_NOISE, float(np.median(noise)) / _SMOOTHED),
    )
    if found is None or not found.told:
        return ""
    words = f"Against “{second.name}”, “{first.name}” loses from {60 * found.onset:,.0f} rpm on ({60 * (found.low - dyno.BIN):,.0f} to {60 * (found.high + dyno.BIN):,.0f})"
    words += ", and is ragged from there" if found.rougher > 1.8 else ""
    return (
        f"{words}. That is consistent with float, and with fuel, intake or heat: ragged, and normal again 300 rpm lower, speaks for valves."
    )


def plot_data(lines: list[tuple[str, np.ndarray, np.ndarray]]) -> dict[str, object]:
    """Power (kW) of several runs over all speeds (rpm) that any of them has; nothing where a run has no sample there."""
    x = np.unique(np.concatenate([np.round(60.0 * speed, 1) for _, speed, _ in lines])) if lines else np.zeros(0)
    data: list[list[float | None]] = [list(x.tolist())]
    for _, speed, power in lines:
        column: list[float | None] = [None] * len(x)
        for place, value in zip(np.searchsorted(x, np.round(60.0 * speed, 1)).tolist(), (power / 1e3).tolist(), strict=True):
            column[place] = round(value, 3)
        data.append(column)
    return {"names": [name for name, _, _ in lines], "unit": "kW", "data": data}


def _alike(one: ProofTest, other: ProofTest) -> bool:
    """Whether two road pulls are the two ways of one: same phase, road, gear and wheel, one out and one back."""
    keys = ("dyno", "gear", "wheel", "mass")
    ways = {one.conditions.get("way"), other.conditions.get("way")}
    same = all(one.conditions.get(key) == other.conditions.get(key) for key in keys)
    return one.phase == other.phase and ways == {"out", "back"} and same


def _averaged(chosen: list[ProofTest], curves: list[dyno.Curve]) -> tuple[list[dyno.Curve], dict[int, int], list[str]]:
    """Road pulls there and back as one curve each; which test stands in which curve, and what was averaged."""
    merged: list[dyno.Curve] = []
    place: dict[int, int] = {}
    notes: list[str] = []
    for test, curve in zip(chosen, curves, strict=True):
        if test.pk in place:
            continue
        place[test.pk] = len(merged)
        partner = next((each for each in chosen if each.pk not in place and each.found.get("by_road") and _alike(test, each)), None)
        if partner is not None and test.found.get("by_road"):
            place[partner.pk] = len(merged)
            single, doubt = (road.doubt_of_run(both_ways=both) for both in (False, True))
            there, back = sorted((test, partner), key=lambda each: each.conditions["way"] != "out")
            curve = dyno.both_ways(curves[chosen.index(there)], curves[chosen.index(back)], single, doubt)  # noqa: PLW2901  (the pair stands for the one)
            notes.append(
                f"“{curve.name}” is the mean of both ways: off by some {100 * doubt:.1f} % (one sigma), slope and steady wind taken out."
            )
        elif test.found.get("by_road"):
            notes.append(
                f"“{test.name}” comes from the road, one way: off by some 3.6 % (one sigma), 2.9 of it common to the run. One more back on the same road removes slope and wind."
            )
        merged.append(curve)
    return merged, place, notes


def _chosen(tests: list[ProofTest], asked: list[int]) -> list[ProofTest]:
    """The runs asked for, or the newest before and the newest after, each road pull with its way back."""
    chosen = [test for test in tests if test.pk in asked][:MOST_LAID]
    if chosen:
        return chosen
    for phase in ("before", "after"):
        newest = next((test for test in reversed(tests) if test.phase == phase), None)
        if newest is not None:
            partner = next((each for each in reversed(tests) if _alike(newest, each)), None)
            chosen += [newest, partner] if partner is not None else [newest]
    return chosen


def runs_page(tests: list[ProofTest], asked: list[int], wished: str, answer: BuildResult, system: UnitSystem) -> RunsPage:
    """The runs asked for, or the newest before and the newest after."""
    boosted = bool(answer.review and answer.review.completed.goal.boost.value > 0.0)
    chosen = _chosen(tests, asked)
    standard = Standard(wished) if wished in {each.value for each in Standard} else Standard.SAE_J1349
    trouble, sentence, float_words, plots, found = "", "", "", None, None
    notes: list[str] = []
    bands: list[tuple[str, str, str]] = []
    curves: list[dyno.Curve] = []
    place: dict[int, int] = {}
    try:
        runs = [run_of(test, boosted=boosted) for test in chosen]
        if runs:
            standard = dyno.common_standard(runs, standard)
            curves = [_curve(test, run, standard) for test, run in zip(chosen, runs, strict=True)]
            notes += [f"Not made alike, {each}." for each in dyno.differences(runs)]
            notes += [
                f"“{run.name}” has {run.taken_off:+g} kg m² of turning parts: what they keep at {60 * run.gain:,.0f} rpm a second is taken off."
                for run in runs if run.taken_off and run.gain
            ]  # fmt: skip
            curves, place, said = _averaged(chosen, curves)
            notes += said
            notes += [
                f"The factor of “{c.name}” ({c.factor:.3f}) lies where {standard} no longer holds."
                for c in curves
                if outside_of(standard, c.factor)
            ]
            if boosted:
                notes.append("Boosted: no correction of naturally aspirated engines holds, so power is left as measured.")
        if len(curves) == 2:
            found = dyno.compare(curves[0], curves[1], in_use_of(answer))
            sentence = told(wording.comparison_sentence(found), system)
            float_words = _float_words(curves[0], curves[1])
            for band in (*([found.in_use] if found.in_use else []), *found.bands):
                name = "where it lives" if band is found.in_use else "gained" if band.gain > 0 else "lost"
                bands.append(
                    (
                        name,
                        f"{60 * band.low:,.0f} to {60 * band.high:,.0f}",
                        f"{100 * band.gain:+.1f} % ±{200 * band.noise:.1f}".replace("-", "\N{MINUS SIGN}"),
                    )
                )
        if curves:
            plots = _plots(curves, found, system)
    except ValveTrainError as error:
        trouble = error.told(system)
    grid = np.unique(np.concatenate([curve.speed for curve in curves]))[::5] if curves else np.zeros(0)
    table = [
        [f"{60 * speed:,.0f}", *(f"{np.interp(speed, c.speed, c.power) / 1e3:.1f}" if c.speed[0] <= speed <= c.speed[-1] else "" for c in curves)] for speed in grid
    ]  # fmt: skip
    views = []
    for test in reversed(tests):
        at = place.get(test.pk, -1)
        power = np.array(test.found["power"])
        speed = np.array(test.found["speed"])
        torque = power / (2 * math.pi * speed)
        run = run_of(test, boosted=boosted)
        air = f"{run.standard}" + (
            f", day's factor {factor(run.air, Standard.SAE_J1349):.3f}"
            if run.air and not boosted
            else ", air not known"
            if not boosted
            else ""
        )
        views.append(
            RunView(
                pk=test.pk, name=run.name, phase=test.phase, when=f"{test.made_on:%d %b %Y}",
                peak=f"{_power(float(power.max()), system)} at {60 * speed[power.argmax()]:,.0f}",
                torque=f"{quantity(float(torque.max()), QuantityKind.TORQUE, system)} at {60 * speed[torque.argmax()]:,.0f}", air=f"{air}, lambda {test.found['lambda']:.2f}" if test.found.get("lambda") else air, shown=at >= 0,
                css=_LINES[at] if at >= 0 else "", left_out=test.found["left_out"],
            )
        )  # fmt: skip
    return RunsPage(
        runs=views, plots=plots, sentence=sentence, trouble=trouble, standard=standard.value, formula=FORMULAS[standard], notes=notes, bands=bands,
        table=table, heads=["rpm", *(f"{curve.name}, kW" for curve in curves)], float_words=float_words,
        data=plot_data([(curve.name, curve.speed, curve.power) for curve in curves]), asked=[test.pk for test in chosen],
    )  # fmt: skip


def mapping_of(file: ProofFile | None) -> list[tuple[str, str, int, str, list[str]]]:
    """Columns that may be told: key, words, place, unit, units."""
    columns, units = (file.columns, file.units) if file else ({}, {})
    return [
        (column.key, column.words, columns.get(column.key, -1), units.get(column.key, ""), list(run_table.UNITS[column.key]))
        for column in run_table.COLUMNS
        if column.key in ("time", "rpm", "power", "torque", "lambda")
    ]


def gears_words(answer: BuildResult) -> str:
    """How the range in use came about."""
    if answer.review is None:
        return ""
    return (
        "by the gears of this machine"
        if gears_of(answer.review.completed.engine)
        else "the upper quarter below the goal, for its gears are not known"
    )


def _vacuum(value: float, system: UnitSystem) -> str:
    """A vacuum as its gauges read: hundredths of a bar tell nothing."""
    return f"{value / 100.0:.0f} mbar" if system is UnitSystem.METRIC else quantity(value, QuantityKind.PRESSURE, system, 2)


def vacuum_limits(system: UnitSystem) -> tuple[str, str]:
    """Vacuum up to which there is nothing to gain, and from which it is worth curing."""
    return tuple(_vacuum(each, system) for each in (throttle.NOTHING, throttle.CURE))  # type: ignore[return-value]


@dataclass(frozen=True, kw_only=True)
class VacuumView:
    """Vacuum at full throttle, judged."""

    pk: int
    phase: str
    when: str
    sentence: str
    notes: list[str]
    plot: Plots


def vacuum_view(test: ProofTest, build: Build, system: UnitSystem) -> VacuumView:
    """One test of the throttle, with its plot."""
    engine, told_ = build.engine, test.conditions
    bore, stroke = (engine.figures.get(key, {}).get("value") for key in ("bore", "stroke"))
    swept = swept_volume(bore, stroke) * engine.cylinders if bore and stroke else 0.0
    pairs = test.readings["pairs"]
    intake = throttle.Intake(bore=told_["bore"], throttles=told_["throttles"], cylinders=engine.cylinders, swept=swept or 0.6e-3)
    found = throttle.judge(
        [throttle.Vacuum(speed=line[0], vacuum=line[1], before=line[2] if len(line) > 2 else None) for line in pairs], intake
    )
    most, at = _vacuum(found.vacuum, system), f"{60 * found.speed:,.0f} rpm"
    sentence = f"{most} below the air at {at}: {found.restriction}."
    notes = []
    if found.restriction is not throttle.Restriction.NONE:
        size = quantity(found.cure, QuantityKind.LENGTH, system)
        notes.append(
            f"A bore of {size} would leave {_vacuum(throttle.NOTHING, system)} at the same flow; at most {100 * found.gain:.1f} % more filling, less where tuning or cam limits."
        )
        notes.append("A larger bore answers more abruptly low down; with a turbocharger a smaller one answers sooner.")
    if found.filter_share is not None:
        notes.append(
            f"{100 * found.filter_share:.0f} % of it stands before the throttle already: that is filter, box and snorkel, not the throttle."
        )
    if found.pulses > 1.2:
        notes.append(
            f"{engine.cylinders} cylinders on {told_['throttles']} throttles pulse: a damped gauge reads {found.pulses:.1f} times what the mean flow would."
        )
    if not swept:
        notes.append("Bore and stroke are not known: what the vacuum says of the flow is left out.")
    unit = "mbar" if system is UnitSystem.METRIC else unit_symbol(QuantityKind.PRESSURE, system)
    speeds = [60 * line[0] for line in sorted(pairs)]
    vacuums = [in_unit(line[1], QuantityKind.PRESSURE, unit) for line in sorted(pairs)]
    low, high = min(speeds) - 250.0, max(speeds) + 250.0
    step = round_step(high - low, 8)
    ticks = [(n * step, f"{n * step:,.0f}") for n in range(math.ceil(low / step), math.floor(high / step) + 1)]
    plot = draw(
        [PlotData("Vacuum", unit, (Curve(tuple(speeds), tuple(vacuums), "p-proposed"),), squares=tuple(zip(speeds, vacuums, strict=True)))],
        low,
        high,
        ticks,
        width=520.0,
    )
    return VacuumView(pk=test.pk, phase=test.phase, when=f"{test.made_on:%d %b %Y}", sentence=sentence, notes=notes, plot=plot)
