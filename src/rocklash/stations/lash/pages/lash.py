"""The Lash station as view-models."""

from collections import Counter
from dataclasses import dataclass, field

from django.utils.timezone import localtime

from rocklash.answers.clearances import (
    ValveStatus,
    clearance_keys,
    engine_figures,
    feel_words,
    next_unread,
    statuses,
    takes_shims,
    told_of_sheet,
)
from rocklash.answers.results import BuildResult
from rocklash.answers.shim_plan import swaps_of
from rocklash.answers.stops import stops_of, unread_at
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.records.models import Build, ClearanceSession, Membership, ShimStock
from rocklash.stations.lash.forms import Sent
from rocklash.stations.lash.pages.notes import Printer, notes_of
from rocklash.stations.lash.pages.plan import PlanView, StopView, moves_of, passes_words, plan_view, stop_view
from rocklash.stations.lash.pages.recheck import RecheckRow, recheck_row, shim_moved, waiting
from rocklash.ui.drawings import head_map
from rocklash.ui.drawings.head_map import Bar, HeadMap, ValveData
from valvetrain import wording
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis
from valvetrain.quantities import plain
from valvetrain.studies.clearance.measuring_plan import MeasuringPlan
from valvetrain.studies.clearance.shim_plan import Act
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, unit_symbol


@dataclass(frozen=True, kw_only=True)
class Refusal:
    """Sentences by field, with everything that was sent, so that nothing typed is lost."""

    sent: Sent
    sentences: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class PlanRow:
    """One line of the plan: what is done at which valve and what it will be."""

    valve: str
    read: str
    old: str
    source: str
    do: str
    after: str
    verdict: str
    why: str


@dataclass(frozen=True, kw_only=True)
class Panel:
    """The valve being read: its fields with what stands in them, limits and sentences."""

    pk: int
    tag: str
    name: str
    place: str
    goes: str
    stops: str
    shim: str
    source: str
    label: str
    renewed: bool
    seen: int
    limits: str
    aim: str
    other: str
    errors: dict[str, str]
    shims: bool
    blade: bool
    result: list[tuple[str, str]]
    big: tuple[str, str]
    note: str
    bar: Bar
    blades: list[tuple[str, str]]


@dataclass(frozen=True, kw_only=True)
class LashPage:
    """Everything the station prints."""

    map: HeadMap
    phone: HeadMap
    panel: Panel | None
    rows: list[PlanRow]
    again: list[RecheckRow]
    read: int
    total: int
    counts: list[tuple[str, int]]
    rechecking: bool
    signed: str
    method: str
    feel: str
    aim: str
    buy: str
    out: str
    unit: str
    ready_to_recheck: bool
    ready_to_sign: bool
    hydraulic: str
    shims: bool
    then: str
    notes: list[str] = field(default_factory=list)
    plan: PlanView | None = None
    plan_waits: bool = False
    stop: StopView | None = None
    hours: str = ""
    temperature: str = ""
    was: tuple[tuple[str, str], ...] = ()
    reason: str = ""
    own: tuple[tuple[str, str], ...] = ()
    screw: bool = False
    piece: str = "shim"
    undo: tuple[str, str] | None = None


# Of a valve that this stop serves: its cylinder need not stand on its own TDC, and of push-rods nobody sees the lobe
_FIRST_NOTE = "At this stop this valve is on its base circle: lobe away from it, or rocker or tappet free to move. Engine cold."


def _words(row: ValveStatus, printer: Printer) -> tuple[str, str]:
    """Word below the bar and the line of shims."""
    plan, reading = row.plan, row.again or row.first
    shim = printer.shim(reading.shim) if reading and reading.shim else ""
    if plan is None:
        return "unread", shim
    word = plan.state.value if plan.off_by < 5e-7 else f"{plan.state.value} by {printer.gap(plan.off_by)}"
    if plan.act is Act.SHIM and plan.amount:
        return word, f"{shim} → {printer.shim(plan.amount)}"
    if plan.act is Act.TURN and plan.amount:
        return word, wording.turn(plan.amount)
    if plan.act is Act.GRIND and plan.amount:
        return word, f"grind {printer.gap(plan.amount)}"
    if plan.act is Act.STAYS:
        return word, f"{shim} stays".strip()
    return word, plan.act.value


def _valve_data(
    row: ValveStatus, session: ClearanceSession | None, printer: Printer, current: int | None, lit: frozenset[str], fitting: str
) -> ValveData:
    """A valve for the map. In the second round a valve that was not read again is unread, with what it should be."""
    waits = session if session and session.rechecking and row.again is None else None
    found, plan = None if waits else row.found_again or row.found, row.plan
    word, line = ("read again", shim_moved(row, waits, printer)) if waits else _words(row, printer)
    after = row.expected if waits else (plan.low_after, plan.high_after) if plan else None
    low_after, high_after = after or (None, None)
    return ValveData(
        pk=row.position.pk,
        name=row.position.name,
        side=row.position.side,
        cylinder=row.position.cylinder,
        state="unread" if waits else row.state,
        figure=printer.gap(found.middle) if found else "",
        interval=printer.interval(found.low, found.high) if found and found.high > found.low else "",
        low=found.low if found else None,
        high=found.high if found else None,
        low_after=low_after,
        high_after=high_after,
        least=row.limits.least,
        most=row.limits.most,
        aim=row.aim,
        shim_line=fitting or line,
        word=word,
        url=f"?valve={row.position.pk}",
        current=row.position.pk == current,
        lit=row.position.name in lit,
    )


def _plan_row(row: ValveStatus, printer: Printer) -> PlanRow | None:
    plan, reading, found = row.plan, row.first, row.found
    if plan is None or reading is None or found is None:
        return None
    _, line = _words(row, printer)
    after = printer.interval(plan.low_after, plan.high_after) if plan.low_after is not None and plan.high_after is not None else ""
    verdict = (
        {True: "in range", None: "undecided", False: "loose"}[plan.sure] if plan.act not in (Act.IMPOSSIBLE, Act.NEED_SHIM) else "undecided"
    )
    do = (
        f"fit {printer.shim(plan.amount)}"
        if plan.act is Act.SHIM and plan.amount
        else line.replace(printer.shim(reading.shim), "").strip()
        if reading.shim
        else line
    )
    return PlanRow(
        valve=row.position.name, read=printer.interval(found.low, found.high), old=printer.shim(reading.shim) if reading.shim else "not known",
        source=reading.shim_source or "", do=do, after=after, verdict=verdict, why=wording.told(plan.why, printer.system),
    )  # fmt: skip


def _panel(
    row: ValveStatus, session: ClearanceSession | None, printer: Printer, build: Build, refusal: Refusal | None, place: str, bar: Bar
) -> Panel:
    recheck = bool(session and session.rechecking)
    reading = row.again if recheck else row.first
    unit = unit_symbol(QuantityKind.LENGTH, printer.system)
    mine = refusal if refusal and refusal.sent.valve == str(row.position.pk) else None

    def typed(value: float | None) -> str:
        return plain(value, QuantityKind.LENGTH, printer.system) if value is not None else ""

    shim, source = (reading.shim, reading.shim_source) if reading else (None, "")
    if recheck and reading is None and row.first:
        plan = row.plan
        kept = session.planned.get(row.position.pk) if session else None
        shim = kept.size if kept else plan.amount if plan and plan.act is Act.SHIM else row.first.shim
        source = row.first.shim_source
    result, big = _result(row, printer)
    note = passes_words(row, printer.system) or (wording.told(row.plan.why, printer.system) if row.plan else _FIRST_NOTE)
    if session and recheck and row.again is None:
        result, big, note = waiting(row, session, printer)
    other = f"{printer.other(row.limits.least)} to {printer.other(row.limits.most)}"
    return Panel(
        pk=row.position.pk,
        tag=f"{row.position.pk}{'r' if recheck else ''}",
        name=row.position.name,
        place=place,
        goes=mine.sent.goes if mine else typed(reading.goes if reading else None),
        stops=mine.sent.stops if mine else typed(reading.stops if reading else None),
        shim=mine.sent.shim if mine else typed(shim),
        source=mine.sent.source if mine else source or "micrometer",
        label=mine.sent.label if mine else typed(reading.label if reading else None),
        renewed=mine.sent.renewed == "yes" if mine else bool(reading and reading.renewed),
        seen=reading.revision if reading else 0,
        limits=f"{printer.gap(row.limits.least)}–{printer.gap(row.limits.most)} {unit}",
        aim=printer.gap(row.aim),
        other=other,
        errors=mine.sentences if mine else {},
        shims=takes_shims(build),
        blade=bool(session and session.method == "blade"),
        result=result,
        big=big,
        note=note,
        bar=bar,
        blades=_blades(row, printer),
    )


def _blades(row: ValveStatus, printer: Printer) -> list[tuple[str, str]]:
    """Twelve feeler blades round the limits, as an own system's set has them: 0.02 mm or .001 in apart."""
    step = 0.02e-3 if printer.system is UnitSystem.METRIC else 0.0254e-3
    start = max(round(row.limits.least / step) - 5, 1)
    values = [step * (start + n) for n in range(12)]
    return [
        (show(value, QuantityKind.LENGTH, printer.system, 2 if printer.system is UnitSystem.METRIC else 3), printer.other(value))
        for value in values
    ]


def _result(row: ValveStatus, printer: Printer) -> tuple[list[tuple[str, str]], tuple[str, str]]:
    """The sum as a column of figures, and the answer."""
    plan, reading, found = row.plan, row.again or row.first, row.found_again or row.found
    if plan is None or reading is None or found is None:
        return [], ("", "")
    if plan.act is Act.SHIM and plan.wanted and reading.shim and plan.amount:
        lines = [(f"shim now, {reading.shim_source}", printer.shim(reading.shim))]
        if abs(row.ratio - 1.0) < 1e-9:
            lines.append((f"reading, middle of {printer.interval(found.low, found.high)}", f"+ {printer.shim(found.middle)}"))
            lines.append(("aim", f"− {printer.shim(row.aim)}"))
        else:  # the blade does not stand at the valve: the difference grows by the lever before it meets the shim
            change = (found.middle - row.aim) * row.ratio
            words = f"reading {printer.shim(found.middle)} less aim {printer.shim(row.aim)}, times ratio {row.ratio:g}"
            lines.append((words, f"{'−' if change < 0 else '+'} {printer.shim(abs(change))}"))
        lines.append(("wanted shim", printer.shim(plan.wanted)))
        return lines, (f"fit {printer.shim(plan.amount)}", printer.other(plan.amount))
    _, line = _words(row, printer)
    return [], (line, "")


def _then(build: Build, count: int) -> str:
    """What follows the readings, by what sets the clearance."""
    set_by = {
        "screw": "screws set and locked", "stem_grind": "stems ground square and cleaned", "hydraulic": "",
        "lash_cap": "caps fitted, push-rods seated in tappets and rockers, rockers torqued by the manual",
        "shim_over": "shims in, each seated in its bucket",
    }  # fmt: skip
    shims = "shims in, cams back on their marks" if build.engine.gear == "dohc" or build.engine.follower == "bucket" else "shims in, seated"
    first = set_by.get(build.engine.adjuster, shims)
    return f"Then: {first}, turn the crank twice by hand in running direction, read all {count} again, sign." if first else ""


@dataclass(frozen=True, kw_only=True)
class Asked:
    """What a request brings: a valve chosen by hand, the one just read, a refusal."""

    valve: int | None = None
    after: int | None = None
    refusal: Refusal | None = None


def _next(rows: list[ValveStatus], stops: MeasuringPlan | None, after: int | None, *, recheck: bool) -> int | None:
    """The next valve to read: of the stop at hand first, then going round."""
    here = unread_at(stops, rows, recheck=recheck)
    if stops is not None and here is not None:
        at_stop = [row for row in rows if row.position.name in stops.stops[here].valves]
        found = next_unread(at_stop, after, recheck=recheck)
        if found is not None:
            return found
    return next_unread(rows, after, recheck=recheck)


def limit_fields(answer: BuildResult, build: Build, system: UnitSystem, trouble: FieldError | None) -> list[FieldView]:
    """What the manual says of clearances, as fields: the limits of both sides, and what turns a reading into a change."""
    keys = clearance_keys(build.engine.adjuster, build.engine.follower)
    return field_views("engine", Owner.ENGINE, keys, build.engine.figures, engine_figures(build, answer), system, trouble)


def lash_page(
    answer: BuildResult, build: Build, member: Membership, session: ClearanceSession | None, asked: Asked, shelf: list[ShimStock], *, compute: bool
) -> LashPage:  # fmt: skip
    """View-model of the station. The swap plan is made now with `compute`, else shown if it is known."""
    system, refusal = UnitSystem(member.user.unit_system), asked.refusal
    printer = Printer(system)
    rows = statuses(build, session, answer)
    recheck = bool(session and session.rechecking)
    known = {row.position.pk for row in rows}
    stops = stops_of(answer, build) if build.engine.adjuster != "hydraulic" else None
    current = (
        asked.valve if asked.valve in known else _next(rows, stops, asked.after, recheck=recheck) or (rows[0].position.pk if rows else None)
    )
    swaps = swaps_of(rows, session, shelf, compute=compute) if takes_shims(build) and not (session and session.signed_at) else None
    fits = (
        {each.valve: f"→ {printer.shim(each.size)}" for each in swaps.plan.fittings if each.source != "stays"}
        if swaps and not recheck
        else {}
    )
    olds = {row.position.name: printer.shim(row.first.shim) for row in rows if row.first and row.first.shim}
    stop = stop_view(stops, unread_at(stops, rows, recheck=recheck), build.engine.clearance_note, build.engine.gear)
    lit = stop.valves if stop else frozenset()
    data = [
        _valve_data(
            row,
            session,
            printer,
            current,
            lit,
            f"{olds.get(row.position.name, '')} {fits[row.position.name]}" if row.position.name in fits else "",
        )
        for row in rows
    ]
    moves = moves_of(swaps, rows)
    shared = tuple(side.value for side in answer.record.kind.shared)
    picture = head_map.draw(data, moves=moves, shared=shared)
    count = [(row.again if recheck else row.first) is not None for row in rows]
    here = next((n for n, row in enumerate(rows) if row.position.pk == current), 0)
    shown = told_of_sheet(session, system)
    signed = bool(session and session.signed_at)
    panel = (
        _panel(rows[here], session, printer, build, refusal, f"{here + 1} of {len(rows)}", picture.valves[here].bar)
        if rows and not signed
        else None
    )
    states = Counter(each.state for each in data)
    lines = [line for line in (_plan_row(row, printer) for row in rows) if line] if not recheck else []
    again = [recheck_row(row, session, printer) for row in rows] if session and recheck else []
    buys = Counter(printer.shim(row.plan.amount) for row in rows if row.plan and row.plan.act is Act.SHIM and row.plan.amount)
    outs = [
        f"{printer.shim(row.first.shim)} ({row.position.name})"
        for row in rows
        if row.first and row.first.shim and row.plan and row.plan.act is Act.SHIM
    ]
    steady = all(row.state == "in range" for row in rows) and all(count)
    return LashPage(
        map=picture,
        phone=head_map.draw(data, phone=True, moves=moves, shared=shared),
        panel=panel,
        rows=lines,
        again=again,
        read=sum(count),
        total=len(rows),
        counts=[(state, states[state]) for state in ("in range", "tight", "loose", "undecided") if states[state]],
        rechecking=recheck,
        signed=f"signed by {session.signed_by} on {localtime(session.signed_at):%d %b %Y at %H:%M}"
        if session and session.signed_at
        else "",
        method=session.method if session else "go_no_go",
        feel=feel_words(session, system),
        aim=session.aim if session else "middle",
        buy=", ".join(f"{number} × {size}" if number > 1 else size for size, number in sorted(buys.items())),
        out=", ".join(outs),
        unit=unit_symbol(QuantityKind.LENGTH, system),
        ready_to_recheck=all(count) and not recheck and not signed,
        ready_to_sign=recheck and steady and not signed,
        hydraulic=_hydraulic(answer, build, system),
        shims=takes_shims(build),
        then=_then(build, len(rows)),
        notes=notes_of(rows, build, session, answer, printer),
        plan=plan_view(swaps, rows, session, _price(build), system) if swaps and session and not recheck else None,
        plan_waits=takes_shims(build) and all(count) and not recheck and not signed and swaps is None and bool(rows),
        stop=stop,
        hours=shown["hours"],
        temperature=shown["temperature"],
        was=tuple(shown.items()),
        reason=session.reason if session else "",
        own=tuple(
            (side, plain(session.aims[side], QuantityKind.LENGTH, system) if session and side in session.aims else "")
            for side in ("exhaust", "intake")
        ),
        screw=build.engine.adjuster == "screw",
        piece={"graded_bucket": "bucket", "lash_cap": "lash cap"}.get(build.engine.adjuster, "shim"),
        undo=_undo(rows, member, recheck=recheck),
    )


def _hydraulic(answer: BuildResult, build: Build, system: UnitSystem) -> str:
    """What hydraulic elements are good to and how they are set; empty where there are none."""
    if build.engine.adjuster != "hydraulic":
        return ""
    figures = engine_figures(build, answer)
    speed, preload = figures["hydraulic_limit"], figures["hydraulic_preload"]
    guess = " (estimates until the maker's are typed on Engine)" if speed.basis is Basis.ESTIMATE else ""
    return (
        f"Good to {quantity(speed.value, QuantityKind.SPEED, system)}; preload {quantity(preload.value, QuantityKind.LENGTH, system)} with the valve "
        f"shut{guess}. Beyond that speed they pump up and hold valves open: the Overview holds it against the goal."
    )


def _undo(rows: list[ValveStatus], member: Membership, *, recheck: bool) -> tuple[str, str] | None:
    """The newest reading of this round that the person took: which (`number:revision`), and its valve."""
    own = [(each, row.position.name) for row in rows if (each := row.again if recheck else row.first) and each.by_id == member.user_id]
    if not own:
        return None
    newest, valve = max(own, key=lambda item: item[0].at)
    return f"{newest.pk}:{newest.revision}", valve


def _price(build: Build) -> float | None:
    kept = build.engine.figures.get("shim_price")
    return float(kept["value"]) if kept else None
