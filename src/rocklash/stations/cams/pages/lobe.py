"""One cam and how it is known, as view-models: card, degree wheel, caliper, file, its follower, and what follows."""

import math
from dataclasses import dataclass

import numpy as np
from django.utils.timezone import localtime

from rocklash.answers.cams import Contender, cam_in_place, figures_of_part
from rocklash.answers.instruments import RunState
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import side_rows
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_view, field_views
from rocklash.desk.words import FactView, fact_views
from rocklash.records.models import Build, CamLog, Part, SetupRole
from rocklash.stations.cams.pages.cams import trust_of
from rocklash.stations.cams.pages.plots import section_of
from rocklash.ui.drawings import curves
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from rocklash.ui.drawings.lobe_section import Section
from valvetrain.formats.lobe_log import LobeLog
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Follower, Gear, Side
from valvetrain.studies.cams.caliper import compare
from valvetrain.studies.cams.degree_wheel import DegreeWheelFit
from valvetrain.units import QuantityKind, UnitSystem, quantity, show
from valvetrain.wording import told as in_units

_CARD = [
    "lift", "height_1", "duration_1", "height_2", "duration_2", "height_3", "duration_3", "height_4", "duration_4", "lobe_centre",
    "opens_1", "shuts_1", "card_clearance", "ramp_height", "ramp_velocity",
]  # fmt: skip
_CALIPER = ["lobe_height", "base_diameter", "lobe_width"]
_FOLLOWER = ["face_radius", "face_diameter"]
_ARMS = ["pivot", "arm", "valve_arm"]


@dataclass(frozen=True, kw_only=True)
class LobePage:
    """Everything the page of one cam prints."""

    name: str
    part: int
    side: str
    way: str
    trust: int
    words: str
    trouble: str
    refusals: tuple[str, ...]
    doubts: tuple[str, ...]
    points: bool
    facts: list[FactView]
    card: list[FieldView]
    caliper: list[FieldView]
    caliper_words: str
    follower_name: str
    follower_facts: list[FactView]
    follower: list[FieldView]
    drive_words: str
    log_words: list[str]
    log_plots: Plots | None
    section: Section | None
    outcome: list[tuple[str, str]]


@dataclass(frozen=True, kw_only=True)
class WheelView:
    """The simulated wheel: its readings so far."""

    run: RunState
    tilt: str
    last: str
    plots: Plots | None


def _log_plots(log: LobeLog, fit: DegreeWheelFit, system: UnitSystem) -> Plots:
    """The readings on the fitted lift, and what each lies off it."""
    factor = 1e3 if system is UnitSystem.METRIC else 1 / 0.0254
    unit = "mm" if system is UnitSystem.METRIC else "in"
    dropped, angles = set(fit.dropped), np.degrees(log.angle - fit.nose)
    dots = tuple((float(angle), float(lift) * factor, n in dropped) for n, (angle, lift) in enumerate(zip(angles, log.lift, strict=True)))
    kept = np.array([n not in dropped for n in range(len(angles))])
    most = 4.0 * fit.noise * factor
    off = tuple(
        (float(angle), float(np.clip(rest * factor, -most, most)), n in dropped)
        for n, (angle, rest) in enumerate(zip(angles, fit.residuals, strict=True))
    )
    curve = Curve(tuple(np.degrees(fit.angle[::4])), tuple(fit.lift[::4] * factor), "p-proposed")
    low, high = float(angles[kept].min()), float(angles[kept].max())
    ticks = [(float(angle), f"{angle}".replace("-", "\N{MINUS SIGN}")) for angle in range(math.ceil(low / 30) * 30, int(high) + 1, 30)]
    flat = Curve((low, high), (0.0, 0.0), "p-stock")
    data = [PlotData("Readings and fitted lift", unit, (curve,), dots, 120.0), PlotData("Reading less fit", unit, (flat,), off, 54.0)]
    return curves.draw(data, low, high, ticks)


def _log_words(log: CamLog, system: UnitSystem) -> list[str]:
    noise = quantity(log.noise, QuantityKind.LENGTH, system, 4 if system is UnitSystem.METRIC else 5)
    who = f" by {log.by}" if log.by else ""
    said = [f"Log of {localtime(log.at):%d %b %Y}{who}: {log.readings} readings, {log.dropped} left out as slips, noise {noise} a reading."]
    share = log.acceleration_spread / log.acceleration if log.acceleration else 0.0
    said.append(f"Largest acceleration {log.acceleration * 1e3:.1f} ±{log.acceleration_spread * 1e3:.1f} mm/rad² (±{share:.0%}).")
    if log.coarse:
        said.append("The log is too coarse for acceleration: read every two crank degrees or closer, with 0.01 mm on the indicator.")
    if log.mirrored:
        said.append("One flank was logged; the other is taken as its mirror image until it is read too.")
    if log.tilt:
        said.append(f"The indicator stood {math.degrees(log.tilt):.1f}° off the valve's axis; that was taken out.")
    return said


def _drive_words(each: Contender, follower: str) -> str:
    if each.train is None:
        return ""
    source = each.train.cam
    if source.drive.path.value == "pivoted" and each.lobe:
        lever = each.lobe.shape.lever
        return f"Ratio of valve to contact {lever.min():.3f} to {lever.max():.3f} through the lift, from the arms."
    if follower in (Follower.FINGER, Follower.ROCKER):
        return f"The arms are not known: a constant ratio of {source.drive.ratio:.2f} stands for them. Measure all three for the true path."
    return "" if source.exact else "Base circle or face are not measured: curvature, travel and stress rest on estimates."


def _outcome(each: Contender, system: UnitSystem) -> list[tuple[str, str]]:
    lobe = each.lobe
    if lobe is None or each.train is None:
        return []

    def length(value: float) -> str:
        return quantity(value, QuantityKind.LENGTH, system)

    def force(value: float) -> str:
        return quantity(value, QuantityKind.FORCE, system)

    said = [
        ("Full lift at the valve", length(each.train.curve.full)),
        ("Nose radius", length(lobe.nose_radius)),
        ("Radius where it opens hardest", "nearly flat" if abs(lobe.flank_radius) > 0.25 else length(lobe.flank_radius)),
        ("Smallest radius", length(lobe.least_radius)),
        (
            "Concave (inverted) flank",
            f"radius {length(lobe.hollow)}: grinding wheel up to ⌀ {length(lobe.wheel or 0.0)}" if lobe.hollow else "none",
        ),
        ("Contact travel", f"{length(lobe.travel[0])} opening, {length(lobe.travel[1])} shutting"),
        ("Largest pressure angle", f"{math.degrees(lobe.pressure):.1f}°"),
    ]
    if lobe.face_needed:
        said.append(("Face needed", length(lobe.face_needed) + (f", it has {length(lobe.face_has)}" if lobe.face_has else "")))
    for name, push, stress in (
        ("Nose, cranking", lobe.force_cranking, lobe.stress_cranking),
        ("Nose, at the goal", lobe.force_goal, lobe.stress_goal),
    ):
        said.append(
            (name, f"{force(push)}, {quantity(stress, QuantityKind.STRESS, system)}" if stress else f"{force(push)}: nothing presses")
        )
    if lobe.stress_band:
        low, high = (quantity(end, QuantityKind.STRESS, system) for end in lobe.stress_band)
        said.append(("At the goal, over every lobe that meets the card", f"{low} to {high}"))
    if lobe.half_width and lobe.shear_depth:
        said.append(
            ("Contact at the nose", f"{length(2.0 * lobe.half_width)} wide, greatest shear {length(lobe.shear_depth)} below the surface")
        )
    limit = quantity(lobe.stress_limit, QuantityKind.STRESS, system)
    said.append(("Usual limit of stress", f"{limit} (common practice)" + ("" if lobe.width_known else "; lobe width taken as 10 mm")))
    return said


def lobe_page(
    answer: BuildResult, build: Build, cam: Part, side: Side, system: UnitSystem, trouble: FieldError | None, log: CamLog | None,
    fitted: tuple[LobeLog, DegreeWheelFit] | None,
) -> LobePage:  # fmt: skip
    """View-model of one cam on one side of a build."""
    each = cam_in_place(answer, build, cam, side)
    row, stock = side_rows(build)[SetupRole.PROPOSED, side.value], side_rows(build)[SetupRole.STOCK, side.value]
    figures = each.done.cam.figures if each.done else {}
    holder = f"part-{cam.pk}"
    kind, follower = build.engine, row.follower
    levers = kind.follower in (Follower.FINGER, Follower.ROCKER)
    arms = (_ARMS[1:] if kind.gear == Gear.PUSH_ROD else _ARMS) if levers else []
    engine = answer.review.completed.engine if answer.review else {}
    fields = []
    if follower:
        known = each.done.parts[Owner.FOLLOWER] if each.done else {}
        keys = _FOLLOWER + arms
        fields = field_views(f"part-{follower.pk}", Owner.FOLLOWER, keys, follower.figures, known, system, trouble)
    if kind.follower != Follower.BUCKET:
        ratio = FIGURES[Owner.ENGINE, "lift_ratio"]
        fields.append(field_view("engine", ratio, kind.figures, engine.get("lift_ratio"), system, trouble))
    told = (
        compare(figures_of_part(stock.cam), figures_of_part(cam), engine["lift_ratio"].value)
        if stock.cam and stock.cam != cam and engine
        else None
    )
    way, trust, words = trust_of(each, log)
    return LobePage(
        name=cam.name,
        part=cam.pk,
        side=side.value,
        way=way,
        trust=trust,
        words=words,
        trouble=in_units(each.trouble, system),
        refusals=tuple(in_units(said, system) for said in each.lobe.refusals) if each.lobe else (),
        doubts=tuple(in_units(said, system) for said in each.lobe.doubts) if each.lobe else (),
        points=bool(cam.lobe),
        facts=fact_views(cam, Owner.CAM),
        card=field_views(holder, Owner.CAM, _CARD, cam.figures, figures, system, trouble),
        caliper=field_views(holder, Owner.CAM, _CALIPER, cam.figures, figures, system, trouble),
        caliper_words=f"Against the stock cam. {told.sentence(system)}" if told else "",
        follower_name=follower.name if follower else "",
        follower_facts=fact_views(follower, Owner.FOLLOWER) if follower else [],
        follower=fields,
        drive_words=_drive_words(each, kind.follower),
        log_words=_log_words(log, system) if log else [],
        log_plots=_log_plots(*fitted, system) if fitted else None,
        section=section_of(each),
        outcome=_outcome(each, system),
    )


def wheel_view(state: RunState | None, system: UnitSystem) -> WheelView | None:
    """View-model of the simulated wheel; None before its first pass."""
    if state is None:
        return None
    plots = None
    factor, unit = (1e3, "mm") if system is UnitSystem.METRIC else (1 / 0.0254, "in")
    if len(state.points) > 3:
        dots = tuple((math.degrees(angle), lift * factor, False) for angle, lift in state.points)
        low, high = dots[0][0], max(dots[-1][0], dots[0][0] + 60.0)
        ticks = [(float(angle), f"{angle}".replace("-", "\N{MINUS SIGN}")) for angle in range(math.ceil(low / 60) * 60, int(high) + 1, 60)]
        plots = curves.draw([PlotData("Readings as they arrive", unit, (), dots, 110.0)], low, high, ticks)
    last = "".join(f" · {math.degrees(angle):.1f}° {show(lift, QuantityKind.LENGTH, system)}" for angle, lift in state.points[-3:])
    tilt = f"{math.degrees(state.tilt):.0f}"
    return WheelView(run=state, tilt=tilt, last=last, plots=plots)
