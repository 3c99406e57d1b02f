"""Compression, leak-down, light and starter current, as view-models."""

from dataclasses import dataclass

from rocklash.answers.proof import compression_of, expected_gauge, leaks_of, newest
from rocklash.answers.results import BuildResult
from rocklash.records.models import Build, Phase, ProofKind, ProofTest
from rocklash.ui.drawings.bores import Bore, Bores
from rocklash.ui.drawings.curves import Curve, PlotData, Plots, draw
from rocklash.ui.drawings.scale import round_step
from valvetrain.studies.proof import leak_down
from valvetrain.studies.proof.compression import EVEN, CompressionResult
from valvetrain.units import QuantityKind, UnitSystem, quantity, told
from valvetrain.wording import proof as wording

_LEAK_FULL = 0.30  # part lost at which the inner ring is whole


@dataclass(frozen=True, kw_only=True)
class CylinderRow:
    """One cylinder's line of a test: figures as text."""

    number: int
    pressure: str
    other: str
    of_highest: str
    wet: str
    causes: str
    low: bool


@dataclass(frozen=True, kw_only=True)
class TestView:
    """One test as its card shows it."""

    pk: int
    title: str
    when: str
    by: str
    sentence: str
    notes: list[str]
    rows: list[CylinderRow]
    plot: Plots | None = None


def _told(value: float, system: UnitSystem) -> str:
    return quantity(value, QuantityKind.PRESSURE, system)


def _other(system: UnitSystem) -> UnitSystem:
    return UnitSystem.INCH if system is UnitSystem.METRIC else UnitSystem.METRIC


def _head(test: ProofTest) -> tuple[str, str, str]:
    return (
        f"{test.get_kind_display().capitalize()}, {test.get_phase_display()}",
        f"{test.made_on:%d %b %Y}",
        str(test.by) if test.by else "",
    )


def compression_view(test: ProofTest, found: CompressionResult, system: UnitSystem) -> TestView:
    """A compression test with its verdict."""
    title, when, by = _head(test)
    notes = []
    if found.trend_only:
        notes.append(f"Not as it should be: {', '.join(each.value for each in found.unmet)}. Compare only with a test made the same way.")
    if found.causes:
        notes.append(f"All of them: {', '.join(found.causes)}.")
    if test.conditions.get("decompressor"):
        notes.append("With a decompressor no pressure can be expected: cylinders and days are compared only.")
    if test.conditions.get("note"):
        notes.append(str(test.conditions["note"]))
    rows = [
        CylinderRow(
            number=each.cylinder, pressure=_told(each.pressure, system), other=_told(each.pressure, _other(system)), of_highest=f"{100 * each.of_highest:.0f} %",
            wet="" if each.rise is None else f"{100 * each.rise:+.0f} %".replace("-", "\N{MINUS SIGN}"),
            causes=wording.causes_sentence(each.cylinder, each.causes) if each.causes else "", low=each.low,
        )
        for each in found.cylinders
    ]  # fmt: skip
    return TestView(
        pk=test.pk, title=title, when=when, by=by, sentence=told(wording.compression_sentence(found), system), notes=notes, rows=rows
    )


def leak_view(test: ProofTest, system: UnitSystem) -> TestView:
    """A leak-down test."""
    title, when, by = _head(test)
    found = leaks_of(test)
    rows = [
        CylinderRow(
            number=each.cylinder, pressure=f"{100 * each.lost:.0f} %",
            other=quantity(each.area, QuantityKind.AREA, system) if each.area < 1.0 else "open", of_highest=f"{100 * each.on_reference:.0f} %", wet="",
            causes=wording.leak_words(each), low=each.soundness in (leak_down.Soundness.WATCH, leak_down.Soundness.REPAIR),
        )
        for each in found
    ]  # fmt: skip
    worst = max(found, key=lambda each: each.on_reference, default=None)
    sentence = "" if worst is None else f"Cylinder {worst.cylinder} loses most, {100 * worst.lost:.0f} %: {wording.leak_words(worst)}."
    told = test.conditions.get("regulated") and test.conditions.get("restrictor")
    notes = [] if told else ["The tester's regulated pressure or restrictor is not known: the usual one is assumed, and the area with it."]
    return TestView(pk=test.pk, title=title, when=when, by=by, sentence=sentence, notes=notes, rows=rows)


def starter_view(test: ProofTest) -> TestView:
    """A starter's trace: percent by cylinder, and the picture."""
    title, when, by = _head(test)
    found, order = test.found, test.conditions.get("order", [])
    rows = [
        CylinderRow(
            number=order[place] if found["anchored"] and place < len(order) else place + 1, pressure=f"{100 * share:.0f} %",
            other=f"±{200 * error:.1f}", of_highest="", wet="", causes="", low=share < 0.92 and not found["trend_only"],
        )
        for place, (share, error) in enumerate(zip(found["share"], found["error"], strict=True))
    ]  # fmt: skip
    notes = ["Percent of current is not pressure, and under 8 points mean nothing."]
    if not found["anchored"]:
        notes.append(
            "Which of them is cylinder 1 is not known: the order is a ring. A second channel from coil, cam sensor or injector tells it."
        )
    if found["trend_only"]:
        notes.append("An engine that fires unevenly, or alone, needs a known-good trace of its own: only a trend until then.")
    if found.get("against_good"):
        notes.append("Held against the known-good trace of this engine.")
    sentence = (
        "One is weak: go to the gauge." if found["imbalanced"] else "Nothing stands out." if not found["trend_only"] else "A trend only."
    )
    time, current = found["time"], found["current"]
    step = round_step(max(time) - min(time), 8)
    ticks = [(n * step, f"{n * step:g}") for n in range(int(min(time) / step) + 1, int(max(time) / step) + 1)]
    plot = draw(
        [PlotData("Current", "A", (Curve(tuple(time), tuple(current), "p-proposed"),), height=110.0)],
        min(time),
        max(time),
        ticks,
        width=520.0,
    )
    return TestView(
        pk=test.pk,
        title=title,
        when=when,
        by=by,
        sentence=f"{sentence} Cranked at {60 * found['speed']:.0f} rpm.",
        notes=notes,
        rows=rows,
        plot=plot,
    )


def light_view(test: ProofTest) -> TestView:
    """Which valves let light or solvent through."""
    title, when, by = _head(test)
    valves = test.readings["valves"]
    bad = [f"{name} {state}" for name, state in valves.items() if state != "tight"]
    sentence = f"{', '.join(bad)}." if bad else "Every valve looked at is tight."
    return TestView(
        pk=test.pk,
        title=title,
        when=when,
        by=by,
        sentence=sentence,
        notes=[f"{len(valves)} valves, {test.conditions.get('with', 'light')}."],
        rows=[],
    )


def expected_words(answer: BuildResult, system: UnitSystem) -> str:
    """What a gauge should show, in words; empty where nothing can be said."""
    band = expected_gauge(answer)
    if band is None:
        return ""
    return f"{_told(band.low, system)} to {_told(band.high, system)} at 300 rpm of cranking, in all about 15 % either way"


def _valve_marks(build: Build, test: ProofTest | None, number: int) -> tuple[tuple[str, float, str], ...]:
    if test is None:
        return ()
    places = [place for place in build.engine.positions.all() if place.cylinder == number]
    out = []
    for side, middle in (("exhaust", -90.0), ("intake", 90.0)):
        mine = [place for place in places if place.side == side]
        for at, place in enumerate(mine):
            spread = 55.0 * (at - (len(mine) - 1) / 2.0)
            out.append((place.name, middle + spread, test.readings["valves"].get(place.name, "tight")))
    return tuple(out)


def bores_of(build: Build, tests: list[ProofTest], answer: BuildResult, system: UnitSystem, tight: tuple[int, ...] = ()) -> Bores | None:
    """The drawing of all cylinders from the newest tests; None before there is one."""
    gauge, before = (newest(tests, ProofKind.COMPRESSION, phase) for phase in (Phase.AFTER, Phase.BEFORE))
    leak, leak_before = (newest(tests, ProofKind.LEAK, phase) for phase in (Phase.AFTER, Phase.BEFORE))
    light = newest(tests, ProofKind.LIGHT, Phase.AFTER) or newest(tests, ProofKind.LIGHT, Phase.BEFORE)
    if gauge is None:
        gauge, before = before, None
    if leak is None:
        leak, leak_before = leak_before, None
    if gauge is None and leak is None and light is None:
        return None
    shown, was = (compression_of(test, answer, tight) if test else None for test in (gauge, before))
    band = expected_gauge(answer, gauge)
    top = max([band.high if band else 0.0, *((each.pressure for each in shown.cylinders) if shown else ()), 1e5]) * 1.1
    read = {each.cylinder: each for each in shown.cylinders} if shown else {}
    old = {each.cylinder: each for each in was.cylinders} if was else {}
    lost = {each.cylinder: each.on_reference for each in leaks_of(leak)} if leak else {}
    lost_before = {each.cylinder: each.on_reference for each in leaks_of(leak_before)} if leak_before else {}
    bores, said = [], []
    for number in range(1, build.engine.cylinders + 1):
        mine = read.get(number)
        highest = max((each.pressure for each in read.values()), default=0.0)
        bores.append(
            Bore(
                number=number, compression=mine.pressure / top if mine else None, least=(1.0 - EVEN) * highest / top if highest else None,
                before=old[number].pressure / top if number in old else None, leak=min(1.0, lost[number] / _LEAK_FULL) if number in lost else None,
                leak_most=leak_down.USABLE / _LEAK_FULL, leak_before=min(1.0, lost_before[number] / _LEAK_FULL) if number in lost_before else None,
                low=bool(mine and mine.low), reads=_told(mine.pressure, system) if mine else "",
                loses=f"{100 * lost[number]:.0f} % lost" if number in lost else "", leaks=_valve_marks(build, light, number),
            )
        )  # fmt: skip
        words = [f"{_told(mine.pressure, system)}" if mine else "", f"{100 * lost[number]:.0f} % lost" if number in lost else ""]
        said.append(f"cylinder {number}: {', '.join(word for word in words if word) or 'not read'}")
    return Bores(bores=tuple(bores), spoken="; ".join(said))


def views_of(tests: list[ProofTest], answer: BuildResult, system: UnitSystem, tight: tuple[int, ...] = ()) -> list[TestView]:
    """Every test of cylinders, newest first."""
    found: list[TestView] = []
    for test in reversed(tests):
        if test.kind == ProofKind.COMPRESSION:
            result = compression_of(test, answer, tight)
            if result is not None:
                found.append(compression_view(test, result, system))
        elif test.kind == ProofKind.LEAK:
            found.append(leak_view(test, system))
        elif test.kind == ProofKind.STARTER:
            found.append(starter_view(test))
        elif test.kind == ProofKind.LIGHT:
            found.append(light_view(test))
    return found
