"""The Cams station as view-models: one side's cams laid side by side."""

import math
from dataclasses import dataclass

from rocklash.answers.cams import CamAnswer, Contender, fitted_log
from rocklash.answers.gaps import gap_words
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import side_rows
from rocklash.records.models import Build, CamCandidate, CamLog, Part, SetupRole
from rocklash.stations.cams.pages.plots import linked_plots, readouts, section_of
from rocklash.ui.drawings import timing_dial
from rocklash.ui.drawings.curves import Plots
from rocklash.ui.drawings.lobe_section import Section
from rocklash.ui.drawings.timing_dial import Dial, Open
from valvetrain.errors import QuantityError, ValveTrainError
from valvetrain.parts.cam_card import CamCard
from valvetrain.parts.engine import Side
from valvetrain.parts.lobe import Origin
from valvetrain.quantities import parse
from valvetrain.studies.cams.cam_events import HEIGHT, Difference, Quantity, SideEvents, events_at
from valvetrain.studies.train.lobe_bands import WHEEL_PEAK
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, unit_symbol
from valvetrain.wording import told as in_units
from valvetrain.wording import verdict_word

_TIMING = {
    Quantity.DURATION,
    Quantity.MEAN_LIFT,
    Quantity.LIFT_AT_TDC,
    Quantity.OPENS,
    Quantity.SHUTS,
    Quantity.AREA,
    Quantity.OVERLAP,
    Quantity.OVERLAP_AREA,
    Quantity.TRAPPED,
}
# and these on where the lobe centre stands
_PLACED = {
    Quantity.OPENS, Quantity.SHUTS, Quantity.CENTRE, Quantity.SEPARATION, Quantity.LIFT_AT_TDC, Quantity.OVERLAP, Quantity.OVERLAP_AREA,
    Quantity.TRAPPED,
}  # fmt: skip
_SHAPE = {Quantity.ACCELERATION, Quantity.INERTIA, Quantity.SEATING}
_ROLES = {"S": "stock", "A": "proposed", "B": "b", "C": "c"}
# A cam's letter on the page: stock in one tone, candidates in others, told apart by letter and line as well
CARD_TRUST = {0: (1, "poor: durations estimated"), 1: (2, "fair: one height, shape assumed"), 2: (3, "good: two heights")}


@dataclass(frozen=True, kw_only=True)
class CamRow:
    """A cam in the list of how each is known. `seen` is its number, `pick` whether it may be exchanged here."""

    letter: str
    role: str
    seen: str
    name: str
    way: str
    trust: int
    words: str
    spread: str
    trouble: str
    refusals: tuple[str, ...]
    options: list[tuple[str, str, bool]]


@dataclass(frozen=True, kw_only=True)
class Cell:
    """One figure of the difference list; `unproven` shows the mark of what cannot be known yet."""

    text: str
    spread: str
    unproven: bool


@dataclass(frozen=True, kw_only=True)
class DifferenceRow:
    """A line of the difference list: the figure of every cam, and what the proposed one changes."""

    name: str
    about: str
    cells: list[Cell]
    change: str


@dataclass(frozen=True, kw_only=True)
class CamsPage:
    """Everything the station prints."""

    side: str
    other: str
    sentence: str
    further: list[str]
    dial: Dial
    plots: Plots
    section: Section | None
    section_words: list[tuple[str, str]]
    cams: list[CamRow]
    letters: list[tuple[str, str]]
    rows: list[DifferenceRow]
    height: str
    height_unit: str
    height_trouble: str
    goal: str
    row: int
    free_letter: str
    data: dict[str, object]


def _event(angle: float, before: str, after: str) -> str:
    """`23° before`: the trade's way of telling an event that may lie on either side."""
    degrees = round(math.degrees(angle))
    return f"{abs(degrees)}° {before if degrees >= 0 else after}"


def _open(events: SideEvents, role: str, phaser: tuple[float, float]) -> Open:
    opens, shuts = math.degrees(events.opens), math.degrees(events.shuts)
    advance, retard = (math.degrees(angle) for angle in phaser)
    if events.side is Side.INTAKE:
        texts = (
            f"intake opens|{_event(events.opens, 'before', 'after')}",
            f"intake closes (IVC)|{_event(events.shuts, 'after', 'before')}",
        )
        return Open(role, "intake", -opens, 180.0 + shuts, *texts, advance, retard)
    texts = (f"exhaust opens|{_event(events.opens, 'before', 'after')}", f"exhaust closes (EVC)|{_event(events.shuts, 'after', 'before')}")
    return Open(role, "exhaust", -180.0 - opens, shuts, *texts, advance, retard)


def _dial(found: CamAnswer) -> Dial:
    valves, pairs = [], {each.letter: each.pair for each in found.contenders if each.pair}
    for letter, pair in pairs.items():
        for events in (pair.intake, pair.exhaust):
            if letter in "SA" or events.side is found.side:
                phaser = found.phaser if letter == "A" and events.side is found.side else (0.0, 0.0)
                valves.append(_open(events, _ROLES[letter], phaser))
    return timing_dial.draw(valves, math.degrees(pairs["A"].overlap), math.degrees(pairs["S"].overlap))


def _texts(row: Difference, goal_speed: float, system: UnitSystem) -> tuple[str, str, str, str]:
    """Value, spread, change and unit of one figure as read."""
    metric = system is UnitSystem.METRIC
    factor, decimals, unit = 1.0, 1, ""
    if row.what in (Quantity.AREA, Quantity.OVERLAP_AREA):
        factor, decimals, unit = (1e3 * 180 / math.pi, 0, "mm·deg") if metric else (180 / math.pi / 0.0254, 2, "in·deg")
    elif row.what is Quantity.ACCELERATION:
        speed = (math.pi * goal_speed) ** 2
        factor, decimals, unit = (speed / 1e3, 1, "km/s²") if metric else (speed / 9.80665, 0, "g")
    if row.kind is QuantityKind.NUMBER:
        texts = [f"{value * factor:.{decimals}f}" for value in (row.proposed, row.spread, row.change)]
    else:
        places = {QuantityKind.ANGLE: 0, QuantityKind.VELOCITY: 2}.get(row.kind)
        texts = [show(row.proposed, row.kind, system, places, difference=True)]
        texts += [show(row.spread, row.kind, system, 1 if row.kind is QuantityKind.ANGLE else places, difference=True)]
        texts += [show(row.change, row.kind, system, places, difference=True)]
        unit = unit_symbol(row.kind, system)
    change = texts[2].replace("-", "\N{MINUS SIGN}")
    nothing = not change.strip("+\N{MINUS SIGN}0.")
    signed = "0" if nothing else change if change.startswith("\N{MINUS SIGN}") else f"+{change}"
    return texts[0], f"±{texts[1]}" if row.spread else "", signed, unit


def _cell(each: Contender, row: Difference, goal: float, system: UnitSystem) -> Cell:
    text, spread, _, _ = _texts(row, goal, system)
    unknown = not each.timing_known and row.what in _TIMING | _SHAPE
    unknown = unknown or (not each.centre_known and row.what in _PLACED)
    return Cell(text=text, spread=spread if each.letter != "S" else "", unproven=unknown)


def _rows(found: CamAnswer, goal: float, system: UnitSystem) -> list[DifferenceRow]:
    shown, rows = [each for each in found.contenders if each.rows], []
    for place, first in enumerate(shown[0].rows):
        _, _, change, unit = _texts(shown[1].rows[place], goal, system)
        name = first.what.value[0].upper() + first.what.value[1:]
        about = f"{unit}" if first.side else f"{unit} both".strip()
        rows.append(
            DifferenceRow(name=name, about=about, cells=[_cell(each, each.rows[place], goal, system) for each in shown], change=change)
        )
    return rows + _lobe_rows(shown, system)


def _lobe_rows(shown: list[Contender], system: UnitSystem) -> list[DifferenceRow]:
    """What the follower feels: stress, grinding wheel, float with the springs as fitted."""
    rows = []

    def add(name: str, about: str, values: list[float | None], kind: QuantityKind, decimals: int | None = None) -> None:
        cells = []
        for each, value in zip(shown, values, strict=True):
            doubtful = not each.timing_known or each.lobe is None or not each.lobe.exact
            cells.append(Cell(text="none" if value is None else show(value, kind, system, decimals), spread="", unproven=doubtful))
        first, second = values[0], values[1]
        change = "" if first is None or second is None else show(second - first, kind, system, decimals, difference=True)
        signed = change if not change or change[0] in "-\N{MINUS SIGN}+" or not change.strip("0.,") else f"+{change}"
        rows.append(DifferenceRow(name=name, about=about, cells=cells, change=signed.replace("-", "\N{MINUS SIGN}")))

    lobes = [each.lobe for each in shown]
    stress, length, speed = (
        unit_symbol(QuantityKind.STRESS, system),
        unit_symbol(QuantityKind.LENGTH, system),
        unit_symbol(QuantityKind.SPEED, system),
    )
    add("Nose radius", length, [lobe.nose_radius if lobe else None for lobe in lobes], QuantityKind.LENGTH)
    add(
        "Contact stress", f"{stress} at the nose, cranking", [lobe.stress_cranking if lobe else None for lobe in lobes], QuantityKind.STRESS
    )
    if any(lobe and lobe.wheel for lobe in lobes):
        add("Grinding wheel", f"{length}, largest that fits", [lobe.wheel if lobe else None for lobe in lobes], QuantityKind.LENGTH, 0)
    add("Float, springs as fitted", speed, [each.float_speed for each in shown], QuantityKind.SPEED)
    return rows


def _heights(found: CamAnswer, height: float, system: UnitSystem) -> list[DifferenceRow]:
    """Duration at a height of the reader's choice, with the clearance taken off and without."""
    rows, shown = [], [each for each in found.contenders if each.train]
    for about, taken in (("clearance taken off", True), ("before clearance", False)):
        cells, values = [], []
        for each in shown:
            assert each.train
            try:
                opens, shuts = events_at(each.train, height, clearance=each.train.clearance.value if taken else 0.0)
                values.append(shuts - opens)
                cells.append(Cell(text=f"{math.degrees(shuts - opens):.1f}", spread="", unproven=not each.timing_known))
            except ValveTrainError:
                values.append(math.nan)
                cells.append(Cell(text="none", spread="", unproven=False))
        change = math.degrees(values[1] - values[0])
        told = "" if math.isnan(change) else f"{change:+.1f}".replace("-", "\N{MINUS SIGN}")
        rows.append(
            DifferenceRow(name=f"Duration at {quantity(height, QuantityKind.LENGTH, system)}", about=f"° {about}", cells=cells, change=told)
        )
    return rows


def trust_of(each: Contender, log: CamLog | None) -> tuple[str, int, str]:
    """How a cam is known: instrument, blocks of trust, and a word."""
    if each.train is None or each.done is None:
        return "card", 1, "poor: figures disagree"
    shape = each.train.cam.shape
    if not isinstance(shape, CamCard):
        if shape.origin is Origin.LOG:
            if log and log.coarse:
                return "wheel", 2, "fair: too coarse for acceleration"
            told = f", {log.dropped} left out" if log else ""
            return "wheel", 3, f"good: {log.readings if log else len(shape.lifts)} readings{told}"
        return "file", 3, "good: lift table"
    figures = each.part.figures
    if "lift" not in figures and "lobe_height" in figures:
        return "caliper", 1, "poor: heights only, durations estimated"
    count = min(sum(f"duration_{n}" in figures and f"height_{n}" in figures for n in range(1, 5)), 2)
    count = max(count, 1 if {"opens_1", "shuts_1"} <= figures.keys() else 0)
    return "card", *CARD_TRUST[count if "lift" in figures else 0]


def _acceleration_words(events: SideEvents) -> str:
    """How sure the largest acceleration is, and what would settle it."""
    if not events.by_card:
        return f"acceleration ±{events.acceleration_spread / events.acceleration:.0%}"
    low, high = (end / events.acceleration - 1.0 for end in events.acceleration_ends)
    smooth, cornered = WHEEL_PEAK
    return f"acceleration {low:+.0%} to {high:+.0%} by its card: a degree wheel settles it to ±{smooth:.0%} to ±{cornered:.0%}".replace(
        "-", "\N{MINUS SIGN}"
    )


def _cam_rows(found: CamAnswer, parts: list[Part], logs: dict[int, CamLog], system: UnitSystem) -> list[CamRow]:
    rows = []
    for each in found.contenders:
        way, trust, words = trust_of(each, logs.get(each.part.pk))
        options = [
            (str(part.pk), part.name, part.pk == each.part.pk) for part in parts if part.kind == "cam" and part.side in ("", found.side)
        ]
        spread = ""
        if each.pair:
            events = each.pair.intake if found.side is Side.INTAKE else each.pair.exhaust
            spread = f"lift ±{show(events.lift_spread, QuantityKind.LENGTH, system, difference=True)}, {_acceleration_words(events)}"
        refusals = tuple(in_units(said, system) for said in each.lobe.refusals + each.lobe.doubts) if each.lobe else ()
        rows.append(
            CamRow(
                letter=each.letter,
                role=_ROLES[each.letter],
                seen=str(each.part.pk),
                name=each.part.name,
                way=way,
                trust=trust,
                words=words,
                spread=spread,
                trouble=in_units(each.trouble, system),
                refusals=refusals,
                options=options,
            )
        )
    return rows


def _section_words(each: Contender, system: UnitSystem) -> list[tuple[str, str]]:
    lobe = each.lobe
    if lobe is None:
        return []
    said = [("works", f"{each.train.on_a_lobe} valves")] if each.train and each.train.on_a_lobe > 1 else []
    said += [("nose radius", quantity(lobe.nose_radius, QuantityKind.LENGTH, system))]
    said.append(
        (
            "flank radius",
            quantity(lobe.flank_radius, QuantityKind.LENGTH, system)
            if 0 < lobe.flank_radius < 0.25
            else "hollow"
            if lobe.flank_radius < 0
            else "flat",
        )
    )
    if lobe.wheel:
        said.append(("wheel up to", f"⌀ {quantity(lobe.wheel, QuantityKind.LENGTH, system)}"))
    said.append(("contact travels", quantity(max(lobe.travel), QuantityKind.LENGTH, system)))
    if lobe.face_needed:
        has = f" of {quantity(lobe.face_has, QuantityKind.LENGTH, system)}" if lobe.face_has else ""
        said.append(("face needed", f"{quantity(lobe.face_needed, QuantityKind.LENGTH, system)}{has}"))
    else:
        said.append(("pressure angle", f"{math.degrees(lobe.pressure):.0f}°"))
    for name, stress in (("cranking", lobe.stress_cranking), ("at the goal", lobe.stress_goal)):
        said.append((f"stress {name}", quantity(stress, QuantityKind.STRESS, system) if stress else "unloaded"))
    said.append(("usual limit", quantity(lobe.stress_limit, QuantityKind.STRESS, system)))
    return said


FIFTY = 1.27e-3  # .050 in, the other height that cards name


def _asked_height(text: str, system: UnitSystem) -> tuple[float, str]:
    """The height typed, or 1 mm; and why it was not taken."""
    if not text.strip():
        return HEIGHT, ""
    try:
        return parse(text, QuantityKind.LENGTH, system).value, ""
    except QuantityError as error:
        return HEIGHT, in_units(str(error), system)


def _further(found: CamAnswer, system: UnitSystem) -> list[str]:
    said = [f"{letter}: {told.sentence(system)}" for letter, told in found.caliper]
    if found.overlaps:
        low, high = (math.degrees(angle) for angle in found.overlaps)
        said.append(
            f"Over the phasers' range the overlap runs from {low:.0f}° to {high:.0f}°; check the room between the valves at both ends."
        )
    if found.low:
        check = found.low.check
        said.append(
            f"Low lobe: lift {quantity(found.low.profile.train.curve.full, QuantityKind.LENGTH, system)}, floats at "
            f"{quantity(check.figure, QuantityKind.SPEED, system)} ±{show(check.spread, QuantityKind.SPEED, system, difference=True)} against "
            f"{quantity(check.limit, QuantityKind.SPEED, system)} at the change-over: {verdict_word(check.verdict)}."
        )
    return said


def cams_page(
    answer: BuildResult, build: Build, found: CamAnswer | None, parts: list[Part], logs: dict[int, CamLog],
    candidates: list[CamCandidate], system: UnitSystem, asked: str,
) -> CamsPage | None:  # fmt: skip
    """View-model of the station; None when the figures contradict one another."""
    if answer.review is None or found is None:
        return None
    goal, first = answer.review.completed.goal.goal_rpm, found.contenders[1]
    height, height_trouble = _asked_height(asked, system)
    log = logs.get(first.part.pk) if first.train and not isinstance(first.train.cam.shape, CamCard) else None
    fitted = fitted_log(log) if log else None
    section = section_of(first)
    taken = {each.letter for each in candidates if each.setup_side.side == found.side.value}
    plots = linked_plots(found, goal, system, fitted)
    return CamsPage(
        side=found.side.value,
        other="exhaust" if found.side is Side.INTAKE else "intake",
        sentence=found.sentence,
        further=[*_further(found, system), *gap_words(answer, found.side, system)],
        dial=_dial(found),
        plots=plots,
        section=section,
        section_words=_section_words(first, system),
        cams=_cam_rows(found, parts, logs, system),
        letters=[(each.letter, _ROLES[each.letter]) for each in found.contenders if each.rows],
        rows=_rows(found, goal, system)
        + _heights(found, height, system)
        + (_heights(found, FIFTY, system) if abs(height - FIFTY) > 1e-5 else []),
        height=asked or show(height, QuantityKind.LENGTH, system),
        height_unit=unit_symbol(QuantityKind.LENGTH, system),
        height_trouble=height_trouble,
        goal=quantity(goal, QuantityKind.SPEED, system),
        row=side_rows(build)[SetupRole.PROPOSED, found.side.value].pk,
        free_letter=next((letter for letter in "BC" if letter not in taken), ""),
        data=readouts(found, goal, system, plots, section),
    )
