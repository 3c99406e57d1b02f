"""The Springs & masses station as view-models."""

from dataclasses import dataclass, field

from rocklash.answers.motion import motion_forces
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import PART_OWNERS, keyhole_of, side_rows
from rocklash.answers.side_numbers import PackNumbers, completed_side, pack_numbers, stack_data, valve_places
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.desk.sharing import sharing_of
from rocklash.desk.words import SLOT_WORDS, FactView, fact_views
from rocklash.records.figure_column import side_fingerprint
from rocklash.records.models import Build, Part, SetupRole, SetupSide
from rocklash.stations.springs.pages.plots import force_plots, readouts
from rocklash.ui.drawings import stack
from rocklash.ui.drawings.curves import Plots
from rocklash.ui.drawings.stack import Stack
from rocklash.ui.presenting import RemedyRow, check_row, remedy_rows
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis, FigureMap
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.check import Check, CheckCode
from valvetrain.studies.motion.at_goal import contact_at, nearest_surge
from valvetrain.studies.motion.review import MotionReview
from valvetrain.studies.springs.catalogue_line import catalogue_line, force_at
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, unit_symbol
from valvetrain.wording import told
from valvetrain.wording.inputs import basis_words

_FIELDS = {
    Owner.SPRING: [
        "seat_load",
        "rate",
        "load",
        "load_height",
        "solid_height",
        "mass",
        "wire_diameter",
        "mean_diameter",
        "total_coils",
        "free_length",
    ],
    Owner.CAM: ["lift", "height_1", "duration_1", "height_2", "duration_2", "lobe_centre", "ramp_velocity"],
    Owner.VALVE: ["mass", "head_diameter", "seat_width", "stem_diameter"],
}


@dataclass(frozen=True, kw_only=True)
class SlotView:
    """A place for a part: what is in, what could be, and the figures of what is in."""

    slot: str
    label: str
    row: int
    seen: str
    stock: str
    options: list[tuple[str, str, bool]]
    fields: list[FieldView]
    open: bool
    changed: bool
    facts: list[FactView] = field(default_factory=list)
    shared: str = ""
    spring_page: str = ""


@dataclass(frozen=True, kw_only=True)
class LedgerRow:
    """One line of mass ledger or spring pack: stock, proposed, unit, and where it is from."""

    name: str
    stock: str
    proposed: str
    unit: str
    source: str
    strong: bool = False
    number: int | None = None


@dataclass(frozen=True, kw_only=True)
class Readout:
    """One large figure of the head: title, verdict or none, figure with unit, a line below."""

    title: str
    verdict: str
    figure: str
    unit: str
    below: str


@dataclass(frozen=True, kw_only=True)
class SpringsPage:
    """Everything the station prints."""

    side: str
    row: int
    other_seen: str
    valve: str
    valves: list[tuple[str, bool]]
    readouts: list[Readout]
    stack: Stack
    slots: list[SlotView]
    fit: list[FieldView]
    ledger: list[LedgerRow]
    pack: list[LedgerRow]
    remedies: list[RemedyRow]
    spoken: str
    goal: str
    plots: Plots
    data: dict[str, object]
    cannot: str
    pending: bool
    cam_notes: list[str]
    catalogue: "CatalogueTable"


def side_and_valve(answer: BuildResult, side: str, valve: str) -> tuple[str, str]:
    """The side and valve to show: those asked for, else the worst check's side and its worst valve."""
    if answer.review is None:
        return Side.EXHAUST.value, ""
    if side not in set(Side):
        worst = next((check for check in answer.review.proposed.checks if check.side), None)
        side = worst.side.value if worst and worst.side else Side.EXHAUST.value
    names = [place.name for place in valve_places(answer, Side(side))]
    return side, valve if valve in names else names[0]


def _part_figures(owner: Owner, done: FigureMap, part: Part | None, system: UnitSystem, trouble: FieldError | None) -> list[FieldView]:
    keys = _FIELDS.get(owner, ["mass"])
    return field_views(f"part-{part.pk}", owner, keys, part.figures, done, system, trouble) if part else []


def _slots(
    build: Build,
    row: SetupSide,
    stock_row: SetupSide,
    answer: BuildResult,
    parts: list[Part],
    system: UnitSystem,
    trouble: FieldError | None,
) -> list[SlotView]:
    done = completed_side(answer, "proposed", Side(row.side))
    slots = []
    shared = sharing_of(build, [part for slot in SLOT_WORDS if (part := getattr(row, slot))], other_side=True)
    for slot, label in SLOT_WORDS.items():
        owner, part = PART_OWNERS[slot], getattr(row, slot)
        if part is None and not (slot == "inner_spring" or (slot == "shim" and answer.record.kind.caps)):
            continue
        if slot == "keepers" and keyhole_of(row):
            continue
        fitting = [each for each in parts if each.kind == owner.value and each.side in ("", row.side)]
        options = [(str(each.pk), each.name, part is not None and each.pk == part.pk) for each in fitting]
        if slot == "inner_spring" or part is None:
            options.insert(0, ("", "none", part is None))
        if owner is Owner.SPRING:
            number = 0 if slot == "outer_spring" else 1
            figures: FigureMap = done.springs[number] if part and number < len(done.springs) else {}
        else:
            figures = done.parts.get(owner, {})
        stock_part = getattr(stock_row, slot)
        fields = _part_figures(owner, figures, part, system, trouble)
        wrong = any(each.error for each in fields)
        slots.append(
            SlotView(
                slot=slot,
                label=label,
                row=row.pk,
                seen=str(part.pk) if part else "",
                stock=stock_part.name if stock_part else "none",
                options=options,
                fields=fields,
                open=wrong,
                changed=stock_part != part,
                facts=fact_views(part, owner, ("held_by",)) if part and owner is Owner.RETAINER else [],
                shared=shared[part.pk] if part else "",
                spring_page=f"part/{part.pk}/?side={row.side}" if part and owner is Owner.SPRING else "",
            )
        )
    return slots


def _ledger(stock: PackNumbers, proposed: PackNumbers, system: UnitSystem) -> list[LedgerRow]:
    unit, rows = unit_symbol(QuantityKind.MASS, system), []
    olds, news = dict(stock.shares), dict(proposed.shares)
    if "spring, ⅓" in olds and "outer spring, ⅓" in news:
        olds["outer spring, ⅓"] = olds.pop("spring, ⅓")
    for name in list(dict.fromkeys([*news, *olds])):
        old, new = olds.get(name), news.get(name)
        known = new or old
        texts = [show(figure.value, QuantityKind.MASS, system) if figure else "none" for figure in (old, new)]
        rows.append(
            LedgerRow(
                name=name.capitalize(),
                stock=texts[0],
                proposed=texts[1],
                unit=unit,
                source=basis_words(known.basis) if known else "",
                number=stack.LEDGER_NUMBERS.get(name),
            )
        )
    spread = show(proposed.mass.spread, QuantityKind.MASS, system)
    rows.append(
        LedgerRow(
            name="Moving mass",
            stock=show(stock.mass.value, QuantityKind.MASS, system),
            proposed=show(proposed.mass.value, QuantityKind.MASS, system),
            unit=unit,
            source=f"±{spread}",
            strong=True,
        )
    )
    return rows


def _pack(stock: PackNumbers, proposed: PackNumbers, system: UnitSystem) -> list[LedgerRow]:
    def row(name: str, kind: QuantityKind, old: float, new: float, source: str) -> LedgerRow:
        return LedgerRow(
            name=name, stock=show(old, kind, system), proposed=show(new, kind, system), unit=unit_symbol(kind, system), source=source
        )

    return [
        row("Rate, whole pack", QuantityKind.RATE, stock.rate, proposed.rate, ""),
        row(
            "Seat force",
            QuantityKind.FORCE,
            stock.seat.value,
            proposed.seat.value,
            f"±{show(proposed.seat.spread, QuantityKind.FORCE, system)}",
        ),
        row(
            "Open force",
            QuantityKind.FORCE,
            stock.opened.value,
            proposed.opened.value,
            f"±{show(proposed.opened.spread, QuantityKind.FORCE, system)}",
        ),
    ]


def _stack(answer: BuildResult, side: Side, valve: str, system: UnitSystem) -> tuple[Stack, str]:
    assert answer.review
    checks = [
        check for check in answer.review.proposed.checks if check.side is side and check.code in (GapKind.COIL_BIND, GapKind.RETAINER)
    ]
    tight = min(checks, key=lambda check: check.margin)
    other = UnitSystem.METRIC if system is UnitSystem.INCH else UnitSystem.INCH
    name = "coil bind" if tight.code is GapKind.COIL_BIND else "retainer to seal"
    words = f"{tight.about.partition(' ')[2]} {name}".strip()
    flag = (show(tight.figure, QuantityKind.LENGTH, system), quantity(tight.figure, QuantityKind.LENGTH, other), words)
    place = next(place for place in valve_places(answer, side) if place.name == valve)
    data = stack_data(answer, side, place, flag)
    outer = data.springs[0]
    mm = {"installed": outer.shut, "lift": data.lift, "open": outer.open}
    shown = {key: show(value / 1e3, QuantityKind.LENGTH, system) for key, value in mm.items()}
    others = {key: show(value / 1e3, QuantityKind.LENGTH, other) for key, value in mm.items()}
    spoken = f"{valve}, stack to scale: spring height shut {quantity(outer.shut / 1e3, QuantityKind.LENGTH, system)}, open {quantity(outer.open / 1e3, QuantityKind.LENGTH, system)}"
    return stack.draw(data, shown, others), spoken


def _from_check(check: Check, system: UnitSystem) -> Readout:
    row = check_row(check, system)
    other = f" · {row.other}" if row.other else ""
    title = "Contact lost for good at" if check.code is CheckCode.MOTION else row.title
    return Readout(
        title=title,
        verdict=row.verdict,
        figure=row.figure,
        unit=row.unit,
        below=f"{row.sense} {row.limit}, {row.margin}, {row.spread}{other}",
    )


def _readouts(answer: BuildResult, side: Side, motion: MotionReview | None, system: UnitSystem) -> list[Readout]:
    """Contact at speed or float, seat force, tightest gap, least contact at the goal, nearest surge: of one side."""
    assert answer.review
    own = [check for check in answer.review.proposed.checks if check.side is side]
    at_speed = [check for check in own if check.code is CheckCode.MOTION] or [check for check in own if check.code is CheckCode.FLOAT]
    gaps = sorted((check for check in own if check.code in (GapKind.COIL_BIND, GapKind.RETAINER)), key=lambda check: check.margin)
    seats = [check for check in own if check.code is CheckCode.SEAT]
    found = [_from_check(check, system) for check in (*at_speed[:1], *seats[:1], *gaps[:1])]
    goal = answer.review.completed.goal.goal_rpm
    if motion is None or motion.sweep is None or motion.case is None:
        why = "cannot judge, see below" if motion else "being computed"
        return [
            *found,
            Readout(title="Least contact at the goal", verdict="", figure="\N{EN DASH}", unit="", below=why),
            Readout(title="Nearest surge", verdict="", figure="\N{EN DASH}", unit="", below=why),
        ]
    contact = contact_at(motion, goal)
    below = "the goal lies in a pocket where it skips" if contact.skips else f"{contact.share:.0%} of the seat force"
    if contact.least <= 0.0 and not contact.skips:
        below = "unloaded for a moment, without a gap that counts as a skip"
    found.append(
        Readout(
            title="Least contact at the goal", verdict=contact.verdict.value, figure=show(contact.least, QuantityKind.FORCE, system),
            unit=unit_symbol(QuantityKind.FORCE, system), below=below,
        )
    )  # fmt: skip
    return [*found, _surge_readout(motion, goal, system)]


def _surge_readout(motion: MotionReview, goal: float, system: UnitSystem) -> Readout:
    near, verdict = nearest_surge(motion, goal)
    word = verdict.value if verdict else ""
    if near is None:
        return Readout(title="Nearest surge", verdict=word, figure="none", unit="", below="no order stands out in the speeds swept")
    away = near.peak - goal
    which = "" if motion.case is None or len(motion.case.springs) == 1 else (" outer", " inner")[near.spring]
    place = "at the goal" if verdict else f"{show(abs(away), QuantityKind.SPEED, system)} {'above' if away > 0 else 'below'} the goal"
    amplitude = f"{show(near.amplitude, QuantityKind.LENGTH, system)} {unit_symbol(QuantityKind.LENGTH, system)}"
    return Readout(
        title="Nearest surge",
        verdict=word,
        figure=show(near.peak, QuantityKind.SPEED, system),
        unit="rpm",
        below=f"{near.order}th{which}, {place}, {amplitude}",
    )


@dataclass(frozen=True, kw_only=True)
class CatalogueTable:
    """Stock and proposed as a catalogue tells them, and both at the same two heights, which a person may choose."""

    rows: list[tuple[str, list[str]]]
    heads: list[str]
    heights: list[str]
    unit: str


def _catalogue(answer: BuildResult, side: Side, asked: tuple[float | None, float | None], system: UnitSystem) -> CatalogueTable:
    assert answer.review
    trains = [("stock", answer.review.completed.stock.sides[side]), ("proposed", answer.review.completed.proposed.sides[side])]
    lines = [(name, train, catalogue_line(train)) for name, train in trains]
    heights = [asked[0] or lines[0][2].shut, asked[1] or lines[0][2].open]

    def length(value: float) -> str:
        return show(value, QuantityKind.LENGTH, system)

    def force(value: float) -> str:
        return show(value, QuantityKind.FORCE, system)

    rows = [
        (
            name,
            [
                f"{force(line.seat)} at {length(line.shut)}", f"{force(line.opened)} at {length(line.open)}",
                show(line.rate, QuantityKind.RATE, system), length(line.bind), *(force(force_at(train, height)) for height in heights),
            ],
        )
        for name, train, line in lines
    ]  # fmt: skip
    units = [unit_symbol(kind, system) for kind in (QuantityKind.FORCE, QuantityKind.RATE, QuantityKind.LENGTH)]
    heads = [
        f"shut, {units[0]}",
        f"open, {units[0]}",
        f"rate, {units[1]}",
        f"binds at, {units[2]}",
        *(f"{units[0]} at {length(each)}" for each in heights),
    ]
    return CatalogueTable(rows=rows, heads=heads, heights=[length(each) for each in heights], unit=units[2])


def _cam_notes(answer: BuildResult, row: SetupSide, side: Side, system: UnitSystem) -> list[str]:
    """What the choice of springs rests on of the cam: nothing known of it, or the spring that its card names."""
    lift, notes = completed_side(answer, "proposed", side).parts[Owner.CAM]["lift"], []
    if lift.basis is Basis.ESTIMATE:
        low, high = (quantity(lift.value + sign * lift.spread, QuantityKind.LENGTH, system) for sign in (-1, 1))
        notes.append(
            f"Nothing is known of the {side} cam: these springs rest on a lobe that engines of this kind usually have, lift {low} to {high}. Cam first, then "
            "springs: its card names the clearance and the spring."
        )
    if row.cam and row.cam.claim:
        notes.append(f"The card of {row.cam} names this spring: {row.cam.claim}. Proposed is {row.outer_spring}.")
    return notes


def springs_page(
    answer: BuildResult,
    build: Build,
    parts: list[Part],
    system: UnitSystem,
    side: str,
    valve: str,
    trouble: FieldError | None,
    heights: tuple[float | None, float | None] = (None, None),
) -> SpringsPage | None:
    """View-model of the station; None when the figures contradict one another."""
    if answer.review is None:
        return None
    rows, where = side_rows(build), Side(side)
    row = rows[SetupRole.PROPOSED, side]
    done = completed_side(answer, "proposed", where)
    fit_keys = ["installed_height", "spring_shim", "retainer_to_seal", "clearance"]
    if row.inner_spring:
        fit_keys.insert(1, "inner_step")
    old, new = pack_numbers(answer, "stock", where), pack_numbers(answer, "proposed", where)
    drawing, spoken = _stack(answer, where, valve, system)
    goal, motion = answer.review.completed.goal.goal_rpm, answer.motions.get(("proposed", where))
    lines = motion_forces(answer, where, goal)
    plots = force_plots(lines.own, lines.stock, lines.moving, lines.before, system)
    return SpringsPage(
        side=side,
        row=row.pk,
        other_seen=side_fingerprint(rows[SetupRole.PROPOSED, "exhaust" if side == "intake" else "intake"]),
        cam_notes=_cam_notes(answer, row, where, system),
        catalogue=_catalogue(answer, where, heights, system),
        valve=valve,
        valves=[(place.name, place.name == valve) for place in valve_places(answer, where)],
        readouts=_readouts(answer, where, motion, system),
        stack=drawing,
        slots=_slots(build, row, rows[SetupRole.STOCK, side], answer, parts, system, trouble),
        fit=field_views(f"fit-{row.pk}", Owner.FIT, fit_keys, row.figures, done.fit, system, trouble),
        ledger=_ledger(old, new, system),
        pack=_pack(old, new, system),
        remedies=[remedy for remedy in remedy_rows(answer.review.proposed, system, 40) if remedy.about.lower().startswith(side)][:3],
        spoken=spoken,
        goal=quantity(goal, QuantityKind.SPEED, system),
        plots=plots,
        data=readouts(lines.own, lines.stock, lines.moving, system, plots, None),
        cannot=told(motion.cannot, system) if motion else "",
        pending=motion is None,
    )
