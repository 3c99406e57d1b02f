"""The machine shop's sheet as view-models: what is asked, what each valve was and came back to, and what follows."""

from dataclasses import dataclass

from django.utils.timezone import localtime

from rocklash.answers.advice import shop_sides
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import side_rows
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.desk.words import FactView, engine_facts
from rocklash.records.models import Build, Position, SetupRole, ShopOrder, ShopReading
from rocklash.stations.job.commands.shop import order_fingerprint, seen_of
from valvetrain import wording
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.quantities import plain
from valvetrain.studies.head.shop import FLAT, HEAD_MEASURES, MEASURES, WORKS, Fit, ShopSide, Target, returned
from valvetrain.studies.train.head_change import head_change
from valvetrain.units import LENGTH, UnitSystem, quantity, unit_symbol
from valvetrain.wording.head import head_words
from valvetrain.wording.shop import angle_words, drop_in_words, fit_words, press_in_words, target_words

_FIT = [
    "seat_angle", "seat_contact", "seat_outer", "seat_bore", "seat_inner", "seat_depth", "seat_boss", "guide_outer", "guide_hole", "guide_length", "guide_height",
    "stem_play_least", "stem_play_most", "protrusion_least", "protrusion_most",
]  # fmt: skip
Readings = dict[tuple[int | None, str, str], ShopReading]


@dataclass(frozen=True, kw_only=True)
class FitView:
    """One press fit on the sheet."""

    name: str
    rows: list[tuple[str, str]]
    how: str
    notes: list[str]
    guessed: str


@dataclass(frozen=True, kw_only=True)
class SideView:
    """One side of the sheet."""

    name: str
    metals: str
    angle: str
    fits: list[FitView]
    targets: list[tuple[str, str, str]]
    troubles: list[str]
    fields: list[FieldView]
    facts: list[FactView]


@dataclass(frozen=True, kw_only=True)
class Cell:
    """One field of the grid."""

    id: str
    valve: str
    measure: str
    stage: str
    label: str
    value: str
    ghost: str
    seen: str
    error: str = ""


@dataclass(frozen=True, kw_only=True)
class ValveRow:
    """One valve's measures: cells in the order of the heads."""

    name: str
    cells: list[Cell]


@dataclass(frozen=True, kw_only=True)
class Judged:
    """One measure that came back: whether it holds, in words."""

    verdict: str
    word: str
    name: str
    figures: str
    follows: str


@dataclass(frozen=True, kw_only=True)
class ShopPage:
    """Everything the page prints."""

    headline: str
    state: str
    works: list[str]
    order_seen: str
    sides: list[SideView]
    surface: list[str]
    heads: list[tuple[str, str]]
    rows: list[ValveRow]
    head_cells: list[Cell]
    judged: list[Judged]
    fine: list[Judged]
    open_measures: int
    unit: str = ""
    trouble: str = ""


@dataclass(frozen=True, kw_only=True)
class Wrong:
    """A measure that was refused: which, what was typed, why."""

    valve: str
    measure: str
    stage: str
    text: str
    sentence: str


def _fit_view(fit: Fit, how: str, system: UnitSystem) -> FitView:
    told = lambda text: wording.told(text, system)
    guessed = f"Guessed: {', '.join(fit.guessed)}." if fit.guessed else ""
    return FitView(
        name=fit.what,
        rows=[(name, told(words)) for name, words in fit_words(fit)],
        how=told(how),
        notes=[told(note) for note in fit.notes],
        guessed=guessed,
    )


def _side(each: ShopSide, answer: BuildResult, build: Build, system: UnitSystem, wrong: FieldError | None, asked: list[str]) -> SideView:
    row = side_rows(build)[SetupRole.PROPOSED, each.side.value]
    assert answer.review
    completed = answer.review.completed.proposed_sides[each.side].fit
    fits = []
    if each.seat and (not asked or "seats_new" in asked):
        fits.append(_fit_view(each.seat, drop_in_words(each.seat), system))
    if each.guide and (not asked or "guides_new" in asked):
        fits.append(_fit_view(each.guide, press_in_words(each.guide), system))
    told = lambda text: wording.told(text, system)
    targets = [(MEASURES[key], told(target_words(target)), target.origin) for key, target in each.targets.items()]
    targets.append(("Seat contact, place", "an unbroken ring on the middle third of the face", "common practice"))
    seat, guide = each.metals
    return SideView(
        name=each.side.value, metals=f"{seat} seats, {guide} guides, {each.head_metal} head", angle=angle_words(each.angle, told=each.angle_told), fits=fits,
        targets=targets, troubles=[told(said) for said in each.troubles],
        fields=field_views(f"fit-{row.pk}", Owner.FIT, _FIT, row.figures, completed, system, wrong),
        facts=engine_facts(build, (f"seats_{each.side}", f"guides_{each.side}")),
    )  # fmt: skip


def _state(order: ShopOrder | None) -> str:
    if order is None:
        return "none"
    return "closed" if order.closed_at else "back" if order.back_at else "sent" if order.sent_at else "written"


def _headline(order: ShopOrder | None, judged: list[Judged]) -> str:
    state = _state(order)
    if order is None:
        return "Nothing has been to the machine shop yet."
    shop = order.shop or "the machine shop"
    if state == "written":
        return f"The order for {shop} is being written: measure each valve before it goes."
    if state == "sent":
        assert order.sent_at
        wanted = f", wanted on {order.wanted:%d %b %Y}" if order.wanted else ""
        return f"At {shop} since {localtime(order.sent_at):%d %b}{wanted}."
    bad = sum(each.verdict == "short" for each in judged)
    checked = f"{bad} of {len(judged)} measures outside what was asked" if bad else f"{len(judged)} measures, all as asked"
    return (
        f"{'Closed' if state == 'closed' else 'Back'}: {checked}."
        if judged
        else f"Back from {shop}: check every valve against what was asked."
    )


class _Grid:
    """Cells of the readings."""

    def __init__(self, readings: Readings, fits: dict[int, float], system: UnitSystem, wrong: Wrong | None) -> None:
        self.readings, self.fits, self.system, self.wrong = readings, fits, system, wrong

    def value(self, number: int | None, measure: str, stage: str) -> float | None:
        """A reading; protrusion of before is the one measured on Springs where none was typed here."""
        row = self.readings.get((number, measure, stage))
        if row:
            return row.value
        return self.fits.get(number or 0) if (measure, stage) == ("protrusion", "before") else None

    def cell(self, name: str, number: int | None, measure: str, stage: str) -> Cell:
        """One field."""
        row, valve = self.readings.get((number, measure, stage)), "head" if number is None else str(number)
        wrong = self.wrong if self.wrong and (self.wrong.valve, self.wrong.measure, self.wrong.stage) == (valve, measure, stage) else None
        usual = self.value(number, measure, stage)
        words = (MEASURES | HEAD_MEASURES)[measure].lower()
        return Cell(
            id=f"m-{valve}-{measure}-{stage}", valve=valve, measure=measure, stage=stage, label=f"{name}, {words}, {stage}",
            value=wrong.text if wrong else plain(row.value, LENGTH, self.system) if row else "",
            ghost=plain(usual, LENGTH, self.system) if usual is not None and not row else "", seen=seen_of(row), error=wrong.sentence if wrong else "",
        )  # fmt: skip


def _judged(each: ShopSide, place: Position, grid: _Grid, ratio: float, system: UnitSystem) -> list[Judged]:
    found = []
    for measure in MEASURES:
        now = grid.value(place.pk, measure, "back")
        if now is None:
            continue
        done = returned(each, place.name, measure, grid.value(place.pk, measure, "before"), now, blade_ratio=ratio)
        before = f", before {quantity(done.before, LENGTH, system)}" if done.before is not None else ""
        asked = wording.told(target_words(done.target), system)
        found.append(
            Judged(
                verdict="holds" if done.holds else "short", word="as asked" if done.holds else "not as asked", name=f"{place.name}, {MEASURES[measure].lower()}",
                figures=f"{quantity(now, LENGTH, system)}{before}; asked {asked} ({done.target.origin})", follows=wording.told(done.follows, system),
            )
        )  # fmt: skip
    return found


def _head_judged(grid: _Grid, system: UnitSystem) -> list[Judged]:
    found = []
    flat = grid.value(None, "flatness", "back")
    if flat is not None:
        target = Target(0.0, FLAT, "common practice")
        holds = target.holds(flat)
        follows = "" if holds else "The gasket will weep: surface it again."
        figures = f"{quantity(flat, LENGTH, system)}; asked {wording.told(target_words(target), system)}"
        found.append(
            Judged(
                verdict="holds" if holds else "short",
                word="as asked" if holds else "not as asked",
                name="Head, flatness",
                figures=figures,
                follows=follows,
            )
        )
    taken = grid.value(None, "face_off", "back")
    if taken is not None:
        follows = "Type it on Room, Measure as taken off the head's face: ratio, piston gap and cam timing follow from it."
        found.append(
            Judged(verdict="slim", word="look", name="Head, taken off its face", figures=quantity(taken, LENGTH, system), follows=follows)
        )
    return found


def shop_page(
    answer: BuildResult, build: Build, order: ShopOrder | None, readings: Readings, fits: dict[int, float], system: UnitSystem, trouble: FieldError | None,
    wrong: Wrong | None = None,
) -> ShopPage:  # fmt: skip
    """View-model of the page; `fits` are protrusions measured on Springs, by valve."""
    empty = ShopPage(
        headline="", state=_state(order), works=[], order_seen="", sides=[], surface=[], heads=[], rows=[], head_cells=[], judged=[], fine=[], open_measures=0,
        trouble=wording.told(answer.contradiction, system),
    )  # fmt: skip
    if answer.review is None:
        return empty
    done = answer.review.completed
    sides = shop_sides(answer)
    grid = _Grid(readings, fits, system, wrong)
    stages = ("before",) if order is None or not order.sent_at else ("before", "back")
    shown = [key for key in MEASURES if key != "guide_height" or any("guide_height" in each.targets for each in sides.values())]
    places = list(build.engine.positions.all())
    rows = [
        ValveRow(name=place.name, cells=[grid.cell(place.name, place.pk, measure, stage) for measure in shown for stage in stages])
        for place in places
    ]
    judged = _head_judged(grid, system)
    for place in places:
        judged += _judged(sides[Side(place.side)], place, grid, done.blade_ratio, system)
    judged.sort(key=lambda each: ("short", "slim", "holds").index(each.verdict))
    missing = sum(grid.value(place.pk, "protrusion", stages[-1]) is None for place in places)
    change = head_change(answer.record.kind, done.engine)
    return ShopPage(
        headline=_headline(order, judged), state=_state(order), works=[WORKS[key] for key in order.works if key in WORKS] if order else [],
        order_seen=order_fingerprint(order) if order else "", sides=[_side(each, answer, build, system, trouble, order.works if order else []) for each in sides.values()],
        surface=[wording.told(said, system) for said in head_words(change)] if change else [],
        heads=[(MEASURES[measure], stage) for measure in shown for stage in stages], unit=unit_symbol(LENGTH, system), rows=rows,
        head_cells=[grid.cell("Head", None, measure, "back") for measure in HEAD_MEASURES if "back" in stages], judged=[each for each in judged if each.verdict != "holds"], fine=[each for each in judged if each.verdict == "holds"], open_measures=missing,
    )  # fmt: skip
