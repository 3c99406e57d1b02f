"""Timing the cams, as view-models: degreeing in, what a tooth or a slot moves, chain pins, phaser, clearance, the low lobe."""

import math
from dataclasses import dataclass

from django.utils.timezone import localtime

from rocklash.answers.cams import phaser_range
from rocklash.answers.clearances import counting_figures
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import side_rows
from rocklash.answers.side_numbers import completed_side
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_view, field_views
from rocklash.records.models import Build, CamTiming, Part, SetupRole
from valvetrain.errors import ValveTrainError
from valvetrain.formulas.cam_timing import ramp_shift
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import FigureMap
from valvetrain.studies.cams.cam_events import clearance_effects
from valvetrain.studies.cams.degreed_in import Correction, correction, steps_of
from valvetrain.units import QuantityKind, UnitSystem, quantity

_DRIVE = ["chain_pins", "sprocket_teeth", "sprocket_holes", "flange_holes"]


@dataclass(frozen=True, kw_only=True)
class TimingRow:
    """A cam degreed in, with its error against what is wanted and what would correct it."""

    when: str
    readings: str
    centre: str
    error: str
    verdict: str
    words: str


@dataclass(frozen=True)
class ClearanceRow:
    """What one clearance does."""

    name: str
    clearance: str
    duration: str
    overlap: str


@dataclass(frozen=True, kw_only=True)
class TimingPage:
    """Everything the page prints."""

    side: str
    other: str
    row: int
    wanted: str
    expected: str
    rows: list[TimingRow]
    drive: list[FieldView]
    steps: list[str]
    phaser: list[FieldView]
    phaser_words: str
    clearances: list[ClearanceRow]
    ramp_words: str
    adopt: FieldView | None
    low_seen: str
    low_options: list[tuple[str, str, bool]]
    low_fields: list[FieldView]


def _correction(found: Correction) -> str:
    """What to do about an error of the lobe centre."""
    if not found.way:
        return "within a degree: as good as a wheel reads"
    said = f"{found.way} it by {abs(math.degrees(found.error)):.1f}°"
    if found.count:
        plural = {"tooth": "teeth", "slot": "slots"}[found.name] if found.count > 1 else found.name
        moved, left = math.degrees(found.moved), math.degrees(found.left)
        return f"{said}: {found.count} {plural} {'move' if found.count > 1 else 'moves'} {moved:.1f}°, {left:.1f}° stay"
    return f"{said}: less than half a step of what can be moved" if found.steps else said


def _timing_rows(timings: list[CamTiming], side: Side, engine: FigureMap) -> list[TimingRow]:
    rows = []
    for each in timings:
        if each.setup_side.side != side.value:
            continue
        found = correction(each.centre - each.wanted, side, engine)
        who = f" by {each.by}" if each.by else ""
        rows.append(
            TimingRow(
                when=f"{localtime(each.at):%d %b %H:%M}{who}",
                readings=f"{math.degrees(each.first):.1f}° and {math.degrees(each.second):.1f}°".replace("-", "\N{MINUS SIGN}"),
                centre=f"{math.degrees(each.centre):.1f}°",
                error=f"{math.degrees(each.centre - each.wanted):+.1f}°".replace("-", "\N{MINUS SIGN}"),
                verdict=found.verdict.value,
                words=_correction(found),
            )
        )
    return rows


def _clearances(answer: BuildResult, build: Build, side: Side, system: UnitSystem) -> list[ClearanceRow]:
    assert answer.review
    done = answer.review.completed
    inlet, outlet = done.proposed.sides[Side.INTAKE], done.proposed.sides[Side.EXHAUST]
    ratio = done.blade_ratio  # limits are told as a blade reads them, the lobe is known at the valve
    counting = counting_figures(build, answer)
    ends = [tuple(ratio * counting[f"clearance_{each}_{end}"].value for each in Side) for end in ("least", "most")]
    settings = [
        ("least allowed", (ends[0][0], ends[0][1])),
        ("as set", (inlet.clearance.value, outlet.clearance.value)),
        ("most allowed", (ends[1][0], ends[1][1])),
    ]
    rows = []
    for name, pair in settings:
        try:
            found = clearance_effects(inlet, outlet, [pair], side)[0]
            texts = f"{math.degrees(found.duration):.0f}°", f"{math.degrees(found.overlap):.0f}°"
        except ValveTrainError:
            texts = "not known", "not known"
        own = (pair[0] if side is Side.INTAKE else pair[1]) / ratio
        rows.append(ClearanceRow(name, quantity(own, QuantityKind.LENGTH, system), *texts))
    return rows


def _ramp_words(cam: FigureMap, system: UnitSystem) -> str:
    """What a twentieth of a millimetre does while the valve is met on a straight ramp."""
    step = 0.05e-3 if system is UnitSystem.METRIC else 0.002 * 0.0254
    moved = math.degrees(ramp_shift(step, cam["ramp_velocity"].value))
    return (
        f"On a straight ramp of this velocity {quantity(step, QuantityKind.LENGTH, system)} moves each event by {moved:.0f}° of the crank."
    )


def _phaser_words(centre: float, advance: float, retard: float, side: Side) -> str:
    """Where the lobe centre runs, degrees: advancing brings an intake's nearer to overlap TDC and takes an exhaust's away from it."""
    if not (advance or retard):
        return ""
    nearer, farther = (advance, retard) if side is Side.INTAKE else (retard, advance)
    where = "after" if side is Side.INTAKE else "before"
    return f"The lobe centre runs from {centre - nearer:.0f}° to {centre + farther:.0f}° {where} overlap TDC."


def _one_camshaft(answer: BuildResult) -> list[str]:
    """What it means that one camshaft carries the lobes of both sides."""
    if not answer.record.kind.one_camshaft:
        return []
    return [
        "One camshaft carries the lobes of both sides: whatever moves this cam moves the other side's by as much, and the overlap stays as it is ground."
    ]


def timing_page(
    answer: BuildResult,
    build: Build,
    side: Side,
    parts: list[Part],
    timings: list[CamTiming],
    system: UnitSystem,
    trouble: FieldError | None,
) -> TimingPage | None:
    """View-model of the timing page; None when the figures contradict one another."""
    if answer.review is None:
        return None
    done = answer.review.completed
    engine, train = done.engine, done.proposed.sides[side]
    row = side_rows(build)[SetupRole.PROPOSED, side.value]
    # where the card wants it, whatever a surfaced head left of that
    centre = math.degrees(done.proposed_sides[side].cam.figures["lobe_centre"].value) * (1 if side is Side.INTAKE else -1)
    advance, retard = (math.degrees(angle) for angle in phaser_range(engine, side))
    half = math.degrees(train.curve.duration_at(train.curve.full * 0.8)) / 2.0
    keys = [f"phaser_{side}_advance", f"phaser_{side}_retard"]
    cam = row.cam
    cams = [part for part in parts if part.kind == "cam" and part.side in ("", side.value) and part != cam]
    fit = completed_side(answer, "proposed", side).fit
    low_keys = ["switch_speed", "low_follower_mass"]
    adopt = (
        field_view(
            f"part-{cam.pk}",
            FIGURES[Owner.CAM, "lobe_centre"],
            cam.figures,
            done.proposed_sides[side].cam.figures.get("lobe_centre"),
            system,
            trouble,
        )
        if cam
        else None
    )
    minus = "\N{MINUS SIGN}"
    return TimingPage(
        side=side.value,
        other="exhaust" if side is Side.INTAKE else "intake",
        row=row.pk,
        wanted=f"{abs(centre):.1f}° {'after' if centre >= 0 else 'before'} overlap TDC",
        expected=f"{centre - half:.0f}° and {centre + half:.0f}°".replace("-", minus),
        rows=_timing_rows(timings, side, engine),
        drive=field_views("engine", Owner.ENGINE, _DRIVE, build.engine.figures, engine, system, trouble),
        steps=[
            *_one_camshaft(answer),
            *[f"One {name} moves the cam by {math.degrees(step):.1f}° of the crank." for name, step in steps_of(engine)],
        ],
        phaser=field_views("engine", Owner.ENGINE, keys, build.engine.figures, engine, system, trouble),
        phaser_words=_phaser_words(abs(centre), advance, retard, side),
        clearances=_clearances(answer, build, side, system),
        ramp_words=_ramp_words(done.proposed_sides[side].cam.figures, system),
        adopt=adopt,
        low_seen=str(row.low_cam_id or ""),
        low_options=[
            ("", "none: one profile", row.low_cam_id is None),
            *((str(part.pk), part.name, part.pk == row.low_cam_id) for part in cams),
        ],
        low_fields=field_views(f"fit-{row.pk}", Owner.FIT, low_keys, row.figures, fit, system, trouble) if row.low_cam_id else [],
    )
