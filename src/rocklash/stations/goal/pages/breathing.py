"""What the valves let pass, and how much work the goal asks for, as view-models."""

from dataclasses import dataclass

import numpy as np

from rocklash.answers.advice import HeadAnswer, head_of
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import side_rows
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.desk.words import FactView, engine_facts
from rocklash.records.models import Build, SetupRole
from rocklash.ui.drawings import curves
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from valvetrain import wording
from valvetrain.formats.build_file import FlowDocument
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.quantities import in_unit
from valvetrain.studies.head.areas import SideAreas, bench_areas
from valvetrain.units import LENGTH, QuantityKind, UnitSystem, quantity, shown_unit, unit_symbol
from valvetrain.wording.fuel import breathing_words, effort_words

_FIT = ["throat", "seat_angle"]
_GOOD = {"breathes": "fills well to", "follows": "follows to", "bears": "good to"}


@dataclass(frozen=True, kw_only=True)
class RungRow:
    """One step of work: its verdict's mark, what it is good for, what it costs."""

    verdict: str
    word: str
    name: str
    to: str
    costs: str


@dataclass(frozen=True, kw_only=True)
class FlowRow:
    """One flow test that is kept."""

    number: int
    words: str
    counts: bool


@dataclass(frozen=True, kw_only=True)
class SideFields:
    """Fields and words of one side's seats and ports."""

    name: str
    fields: list[FieldView]
    facts: list[FactView]


@dataclass(frozen=True, kw_only=True)
class BreathingPage:
    """Everything the page prints; `trouble` in place of all where the figures cannot be."""

    trouble: str = ""
    headline: str = ""
    sentences: list[str]
    plots: Plots | None = None
    areas: list[tuple[str, str, str, str, str]]
    rungs: list[RungRow]
    enough: list[str]
    flows: list[FlowRow]
    sides: list[SideFields]
    goal: str = ""


def _plots(found: HeadAnswer, system: UnitSystem) -> Plots:
    area = lambda value: in_unit(value, QuantityKind.AREA, shown_unit(QuantityKind.AREA, system))
    length = lambda value: in_unit(value, LENGTH, shown_unit(LENGTH, system))
    far = max(side.lift for setup in (found.breathing.stock, found.breathing.proposed) for side in setup.values()) * 1.08
    lifts = np.linspace(0.0, far, 60)
    x = tuple(length(float(lift)) for lift in lifts)
    data = []
    for side in Side:
        own, old = found.breathing.proposed[side], found.breathing.stock[side]
        port = own.port
        line = lambda values: tuple(area(float(value)) for value in values)
        shown = [
            Curve(x, line(np.minimum(port.curtain(lifts), 1.25 * port.throat_area)), "p-c", "curtain"),
            Curve(x, line(port.area(lifts)), "p-proposed", "least area"),
        ]
        if old.port != port:
            shown.insert(1, Curve(x, line(old.port.area(lifts)), "p-stock"))
        dots: tuple[tuple[float, float, bool], ...] = ()
        if port.test:
            dots = tuple(
                (length(lift), area(float(value)), False) for lift, value in zip(port.test.lifts, bench_areas(port.test), strict=True)
            )
        data.append(PlotData(f"{side.value.capitalize()}, one valve", unit_symbol(QuantityKind.AREA, system), tuple(shown), dots, 150.0))
    step = 2.0 if system is UnitSystem.METRIC else 0.1
    ticks = [(n * step, f"{n * step:g}") for n in range(int(length(far) / step) + 1)]
    return curves.draw(data, 0.0, length(far), ticks, width=420.0)


def _areas(found: HeadAnswer, system: UnitSystem) -> list[tuple[str, str, str, str, str]]:
    """Rows: what, intake stock and proposed, exhaust stock and proposed."""

    def row(name: str, told: "object") -> tuple[str, str, str, str, str]:
        assert callable(told)
        cells = [told(setup[side]) for side in Side for setup in (found.breathing.stock, found.breathing.proposed)]
        return (name, cells[0], cells[1], cells[2], cells[3])

    size = lambda value: quantity(value, LENGTH, system)
    across = lambda value: quantity(value, QuantityKind.AREA, system)

    def times(each: SideAreas) -> str:
        share = each.time_area / each.open_for if each.open_for else 0.0
        return across(share)

    return [
        row("Throat less stem, one valve", lambda each: across(each.port.throat_area)),
        row("Throat is the narrowest from a lift of", lambda each: size(each.port.full_at)),
        row("Full lift, clearance off", lambda each: size(each.lift)),
        row("Share of the event above that", lambda each: f"{each.above / each.open_for:.0%}" if each.open_for else "none"),
        row("Effective area in the mean, all valves", times),
        row("The same over head area", lambda each: f"{each.mean_flow:.2f}"),
        row("Known by", lambda each: each.port.known_by),
    ]


def _rungs(found: HeadAnswer, goal: float, system: UnitSystem) -> list[RungRow]:
    rows = []
    for rung in found.rungs:
        sure = abs(rung.to - goal) > rung.spread
        verdict = ("holds" if sure else "slim") if rung.enough else ("short" if sure else "slim")
        word = "enough" if rung.enough and sure else "just about" if not sure else "not enough"
        to = quantity(rung.to, QuantityKind.SPEED, system) + (f" ±{rung.spread * 60.0:,.0f}" if rung.spread else "")
        rows.append(RungRow(verdict=verdict, word=word, name=rung.name, to=f"{_GOOD[rung.about]} {to}", costs=rung.costs))
    return rows


def _flows(build: Build) -> list[FlowRow]:
    found, last = [], {}
    for number, row in enumerate(build.flows):
        last[row["side"], row["state"]] = number
    for number, row in enumerate(build.flows):
        test = FlowDocument.model_validate(row).test()
        state = "stock" if test.state == "stock" else "as it is now"
        words = f"{test.side.value} port, {state}: {len(test.lifts)} lifts at {test.depression / 1e3:.1f} kPa{', ' + test.name if test.name else ''}"
        found.append(FlowRow(number=number, words=words, counts=last[row["side"], row["state"]] == number))
    return found


def breathing_page(answer: BuildResult, build: Build, system: UnitSystem, wrong: FieldError | None) -> BreathingPage:
    """View-model of the page."""
    rows = side_rows(build)
    done = answer.review.completed if answer.review else None
    sides = []
    for side in Side:
        fit = rows[SetupRole.PROPOSED, side.value]
        completed = done.proposed_sides[side].fit if done else None
        fields = field_views(f"fit-{fit.pk}", Owner.FIT, _FIT, fit.figures, completed, system, wrong)
        sides.append(SideFields(name=side.value, fields=fields, facts=engine_facts(build, (f"seat_cut_{side}",))))
    found = head_of(answer) if answer.review else answer.contradiction
    if isinstance(found, str):
        return BreathingPage(
            trouble=wording.told(found, system), sentences=[], areas=[], rungs=[], enough=[], flows=_flows(build), sides=sides
        )
    assert answer.review
    goal = answer.review.completed.goal.goal_rpm
    said = [wording.told(each, system) for each in breathing_words(found.breathing)]
    return BreathingPage(
        headline=said[0], sentences=said[1:], plots=_plots(found, system), areas=_areas(found, system), rungs=_rungs(found, goal, system),
        enough=effort_words(found.rungs), flows=_flows(build), sides=sides, goal=quantity(goal, QuantityKind.SPEED, system),
    )  # fmt: skip
