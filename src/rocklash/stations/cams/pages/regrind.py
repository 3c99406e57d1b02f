"""The regrind as view-models: what is asked, what comes of it, what holds it."""

import math
from dataclasses import dataclass

import numpy as np

from rocklash.answers.regrind import regrind_of
from rocklash.answers.results import BuildResult
from rocklash.stations.cams.forms import RegrindForm
from rocklash.ui.drawings import curves
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from rocklash.ui.drawings.two_lobes import TwoLobes, two_lobes
from valvetrain import wording
from valvetrain.parts.cam_drive import Contact, lobe_from_valve
from valvetrain.parts.engine import Side
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.quantities import in_unit, plain
from valvetrain.studies.regrind.from_build import GrindWish, Regrind
from valvetrain.studies.regrind.programme import limit_words
from valvetrain.units import LENGTH, QuantityKind, UnitSystem, quantity, shown_unit
from valvetrain.wording.regrind import LAW, regrind_headline, regrind_words

_DEGREE = math.radians(1.0)


@dataclass(frozen=True, kw_only=True)
class LimitRow:
    """One limit: what it is, its figure, where it comes from, whether the lobe touches it, what 1 % of it is worth."""

    name: str
    figure: str
    origin: str
    touched: bool
    worth: str


@dataclass(frozen=True, kw_only=True)
class RegrindPage:
    """Everything the page prints; `trouble` where no lobe can be ground."""

    trouble: str = ""
    headline: str = ""
    gains: bool = False
    words: list[str]
    doubts: list[str]
    worse: list[tuple[str, str]]
    limits: list[LimitRow]
    figures: list[tuple[str, str, str]]
    plots: Plots | None = None
    lobes: TwoLobes | None = None
    law: str = LAW


def wish_of(form: RegrindForm, answer: BuildResult, side: Side) -> GrindWish:
    """What the form asks; what is left open is the build's. Expects a valid form."""
    told = form.cleaned_data if form.is_bound else {}

    def number(key: str, usual: float | None = None) -> float | None:
        return told[key].value if told.get(key) else usual

    assert answer.review
    done = answer.review.completed
    stock = told.get("start", "stock") == "stock"
    old = (done.stock if stock else done.proposed).sides[side].curve
    plain_wish = GrindWish(stock=stock)
    shares = {key: number(key) for key in ("acceleration", "jerk")}
    wheel = number("wheel")
    return GrindWish(
        speed=number("speed"),
        lift=number("lift"),
        wider=number("wider", 0.0) or 0.0,
        acceleration=None if shares["acceleration"] is None else shares["acceleration"] / 100.0 * float(old.acceleration.max()),
        jerk=None if shares["jerk"] is None else shares["jerk"] / 100.0 * float(np.abs(old.jerk).max()),
        radius=number("radius", plain_wish.radius) or plain_wish.radius,
        clean=told["skim"].value if told.get("skim") else plain_wish.clean,
        off=number("off", plain_wish.off) or plain_wish.off,
        wheel=wheel / 2.0 if wheel else plain_wish.wheel,
        cautious=told.get("ends", "worst") == "worst",
        stock=stock,
    )


def _curve(name: str, found: LiftCurve, values: np.ndarray, factor: float, css: str) -> Curve:
    keep = slice(None, None, max(len(found.angle) // 240, 1))
    return Curve(tuple(np.round(np.degrees(found.angle[keep]), 2).tolist()), tuple(np.round(values[keep] * factor, 5).tolist()), css, name)


def _plots(found: Regrind, system: UnitSystem) -> Plots:
    unit = shown_unit(LENGTH, system)
    length = in_unit(1.0, LENGTH, unit)
    data = [
        PlotData(
            "Valve lift before clearance", unit,
            (_curve("", found.old, found.old.lift, length, "p-stock"), _curve("", found.curve, found.curve.lift, length, "p-proposed")), height=110.0,
        ),
        PlotData(
            "Acceleration", f"{unit}/°²",
            (
                _curve("", found.old, found.old.acceleration, length * _DEGREE**2, "p-stock"),
                _curve("", found.curve, found.curve.acceleration, length * _DEGREE**2, "p-proposed"),
            ), height=130.0,
        ),
    ]  # fmt: skip
    far = 10.0 * math.ceil(
        math.degrees(max(abs(found.old.angle[0]), found.old.angle[-1], abs(found.curve.angle[0]), found.curve.angle[-1])) / 10.0
    )
    ticks = [(float(at), f"{at:.0f}°") for at in np.arange(-60, 61, 30) if abs(at) <= far]
    return curves.draw(data, -far, far, ticks, width=400.0)


def _lobes(found: Regrind) -> TwoLobes:
    drive = found.case.drive
    outlines = [
        lobe_from_valve(drive, base, curve).outline for base, curve in ((found.case.old_base, found.old), (found.base, found.curve))
    ]
    points = [[(float(p.real) * 1e3, float(p.imag) * 1e3) for p in outline[::2]] for outline in outlines]
    return two_lobes(
        points[0], points[1], (found.case.old_base * 1e3, found.base * 1e3), "The ground lobe inside the present one, to scale."
    )


def _limits(found: Regrind, system: UnitSystem) -> list[LimitRow]:
    case, limits, origins = found.case, found.case.limits, found.origins
    size = lambda value, places=2: quantity(value, LENGTH, system, places if system is UnitSystem.METRIC else places + 2)
    bend = lambda value: f"{in_unit(value, LENGTH, shown_unit(LENGTH, system)) * _DEGREE**2:.4f} {shown_unit(LENGTH, system)}/°²"
    rows = [
        ("spring", quantity(found.asked, QuantityKind.SPEED, system), f"{origins['speed']}; {origins['spring']}"),
        ("lift", size(limits.lift), origins["lift"]),
        ("acceleration", bend(limits.acceleration), origins["acceleration"]),
        ("jerk", f"{limits.jerk / float(np.abs(found.old.jerk).max()):.0%} of the old lobe's", origins["jerk"]),
        ("curvature", size(limits.radius), "of the nose, convex"),
        ("metal", size(limits.clean), "ground clean all round"),
    ]
    if case.drive.contact is Contact.FLAT:
        rows.append(("face", size(limits.reach), origins["face"]))
    else:
        rows.append(("wheel", size(2.0 * found.wheel, 0), "diameter, for hollow flanks"))
        rows.append(("pressure angle", f"{math.degrees(limits.pressure):.0f}°", "35°, or what it is now"))
    rows += [
        (why, f"at {sum(each.why == why for each in limits.heights)} angles", "Room")
        for why in dict.fromkeys(h.why for h in limits.heights)
    ]
    ground = found.ground
    return [
        LimitRow(
            name=limit_words(key) if key not in ("the piston", "the valve across") else key, figure=figure, origin=origin, touched=key in ground.binding,
            worth=f"{100 * ground.worth[key]:+.2f} %" if key in ground.worth else "",
        )
        for key, figure, origin in rows
    ]  # fmt: skip


def _figures(found: Regrind, system: UnitSystem) -> list[tuple[str, str, str]]:
    """What, of the old lobe, of the ground one."""
    size = lambda value, places=2: quantity(value, LENGTH, system, places if system is UnitSystem.METRIC else places + 2)
    unit = shown_unit(LENGTH, system)
    spread_out = lambda area: f"{in_unit(area, LENGTH, unit):.{2 if system is UnitSystem.METRIC else 4}f} {unit} rad"
    shapes = [
        lobe_from_valve(found.case.drive, base, curve) for base, curve in ((found.case.old_base, found.old), (found.base, found.curve))
    ]
    nose = [float(shape.radius[len(shape.radius) // 2]) for shape in shapes]
    hollow = [min((-float(r) for r in shape.radius if r < 0.0), default=0.0) for shape in shapes]
    rows = [
        ("Base circle diameter", size(2.0 * found.case.old_base), size(2.0 * found.base, 3)),
        ("Full lift at the valve", size(found.old.full), size(found.curve.full, 3)),
        ("Lift area", spread_out(found.old_area), spread_out(found.area)),
        ("Nose radius", size(nose[0]), size(nose[1])),
    ]
    if any(hollow):
        rows.append(("Sharpest hollow, radius", *(size(each, 0) if each else "none" for each in hollow)))  # type: ignore[arg-type]  # two cells
    return rows


def regrind_page(answer: BuildResult, side: Side, form: RegrindForm, system: UnitSystem) -> tuple[RegrindPage, Regrind | None]:
    """View-model of the page, and the lobe it shows."""
    blank: dict[str, list[object]] = {"words": [], "doubts": [], "worse": [], "limits": [], "figures": []}
    if answer.review is None:
        return RegrindPage(trouble=wording.told(answer.contradiction, system), **blank), None  # type: ignore[arg-type]  # empty lists
    if form.is_bound and not form.is_valid():
        return RegrindPage(trouble="Some of what you ask cannot be read: see beside its field.", **blank), None  # type: ignore[arg-type]
    found = regrind_of(answer, side, wish_of(form, answer, side))
    if isinstance(found, str):
        return RegrindPage(trouble=wording.told(found, system), **blank), None  # type: ignore[arg-type]
    told = lambda text: wording.told(text, system)
    page = RegrindPage(
        headline=told(regrind_headline(found)), gains=found.gain > 0.002, words=[told(each) for each in regrind_words(found)], doubts=[told(each) for each in found.doubts],
        worse=[(check.verdict.value, wording.title(check)) for check in found.worse], limits=_limits(found, system), figures=_figures(found, system),
        plots=_plots(found, system), lobes=_lobes(found),
    )  # fmt: skip
    return page, found


def usual_words(answer: BuildResult, side: Side, system: UnitSystem) -> dict[str, str]:
    """What stands in the form's fields while nobody typed: the build's own figures."""
    if answer.review is None:
        return {}
    usual = GrindWish()
    found = regrind_of(answer, side, usual)
    size = lambda value: plain(value, LENGTH, system)
    words = {
        "acceleration": "100", "jerk": "100", "wider": "0", "radius": size(usual.radius), "skim": size(usual.clean), "off": size(usual.off),
        "wheel": size(2.0 * usual.wheel),
    }  # fmt: skip
    if not isinstance(found, str):
        words |= {"lift": size(found.case.limits.lift), "speed": f"{found.asked * 60.0:.0f}"}
    return words
