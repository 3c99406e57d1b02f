"""The page of one spring as view-models: log and set, claim, geometry, strength."""

from dataclasses import dataclass

import numpy as np

from rocklash.answers.results import BuildResult
from rocklash.answers.tester import SpringLogResult, SpringPlace, strength_in
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.desk.words import FactView, fact_views
from rocklash.records.figure_column import figures_of
from rocklash.records.models import Part
from rocklash.ui.drawings import curves
from rocklash.ui.drawings.curves import Curve, PlotData, Plots
from valvetrain.formats import spring_log
from valvetrain.parts.catalogue import Owner
from valvetrain.quantities import in_unit
from valvetrain.studies.springs.spring_strength import SpringStrength, surge_words
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, shown_unit, unit_symbol
from valvetrain.wording import told as in_units

_CARD = ["seat_load", "rate", "bend", "load", "load_height", "solid_height", "mass"]
_WIRE = ["wire_diameter", "mean_diameter", "small_diameter", "taper_coils", "total_coils", "active_coils", "free_length"]


@dataclass(frozen=True, kw_only=True)
class SpringRow:
    """One spring of a set."""

    name: str
    seat: str
    opened: str
    rate: str
    free: str
    solid: str
    wrong: str


@dataclass(frozen=True, kw_only=True)
class SpringPage:
    """Everything the page of one spring prints."""

    name: str
    part: int
    claim: str
    claim_words: str
    place: str
    rows: list[SpringRow]
    units: tuple[str, str, str]
    set_words: list[str]
    trouble: str
    plots: Plots | None
    card: list[FieldView]
    wire: list[FieldView]
    facts: list[FactView]
    strength: list[tuple[str, str]]
    verdict: str
    strength_words: str


def _row(told: SpringLogResult, system: UnitSystem) -> list[SpringRow]:
    assert told.told
    rows = []
    for each in told.told.springs:
        fit = each.fit
        rise = f", rising {show(fit.bend.value, QuantityKind.STIFFENING, system)}" if fit.progressive else ""
        rows.append(
            SpringRow(
                name=fit.name,
                seat=show(each.seat.value, QuantityKind.FORCE, system),
                opened=show(each.opened.value, QuantityKind.FORCE, system) if each.opened else "solid",
                rate=show(fit.rate.value, QuantityKind.RATE, system) + rise,
                free=show(fit.free, QuantityKind.LENGTH, system),
                solid=show(fit.solid.value, QuantityKind.LENGTH, system) if fit.solid else "not reached",
                wrong=in_units("; ".join(each.wrong), system),
            )
        )
    return rows


def _words(told: SpringLogResult, place: SpringPlace | None, system: UnitSystem) -> list[str]:
    found = told.told
    assert found
    at = quantity(place.height if place else told.fits[0].height, QuantityKind.LENGTH, system)
    half = quantity(found.half_range, QuantityKind.FORCE, system)
    lines = [f"At {at} the middle of the set gives {quantity(found.seat, QuantityKind.FORCE, system)}, ±{half} from spring to spring."]
    tired = [each.fit.name for each in found.springs if each.wrong]
    if tired:
        lines.append(f"Not to be trusted as they are: {', '.join(tired)}. Put the good ones where the load is worst, or replace the set.")
    beyond = place and min(fit.low for fit in told.fits) > place.height - place.lift
    if place and beyond:
        lines.append(
            f"No reading goes down to full lift ({quantity(place.height - place.lift, QuantityKind.LENGTH, system)}): the open load is drawn on."
        )
    return lines


def _plots(told: SpringLogResult, system: UnitSystem) -> Plots | None:
    """Readings and fitted lines over the height, tallest on the left."""
    if not told.fits:
        return None
    length, force = (shown_unit(kind, system) for kind in (QuantityKind.LENGTH, QuantityKind.FORCE))
    factor = in_unit(1.0, QuantityKind.LENGTH, length)
    lines, dots = [], []
    readings = {one.name: one for one in spring_log.read(told.log.text, system=UnitSystem(told.log.system))}
    for number, fit in enumerate(told.fits):
        heights = np.linspace(fit.height, fit.low, 40)
        loads = [in_unit(fit.load_at(float(height)).value, QuantityKind.FORCE, force) for height in heights]
        css = ("p-proposed", "p-ink", "p-b", "p-c")[number % 4]
        lines.append(Curve(tuple((-heights * factor).tolist()), tuple(loads), css, fit.name if number == 0 else ""))
        one = readings[fit.name]
        order = np.argsort(-one.height, kind="stable")
        h, f = one.height[order], one.load[order]
        h, f = h[f > 0.0], f[f > 0.0]
        dots += [
            (float(-height * factor), in_unit(float(load), QuantityKind.FORCE, force), bool(bound))
            for height, load, bound in zip(h, f, fit.bound, strict=True)
        ]
    low, high = min(x for x, _, _ in dots), max(x for x, _, _ in dots)
    pad = (high - low) * 0.04
    steps = np.linspace(low, high, 6)
    decimals = 1 if system is UnitSystem.METRIC else 3
    ticks = [(float(x), f"{-x:.{decimals}f}") for x in steps]
    return curves.draw(
        [PlotData(f"Load over height ({length})", force, tuple(lines), tuple(dots), 190.0)], low - pad, high + pad, ticks, width=460.0
    )


def _strength(found: SpringStrength, system: UnitSystem) -> list[tuple[str, str]]:
    stress = [
        ("Stress, shut", quantity(found.shut, QuantityKind.STRESS, system)),
        (
            "Stress, full lift",
            f"{quantity(found.open, QuantityKind.STRESS, system)} of {quantity(found.yields, QuantityKind.STRESS, system)} that set it",
        ),
    ]
    if found.moving:
        stress.append(("Stress at the goal, surging", quantity(found.moving, QuantityKind.STRESS, system)))
    fatigue = f"{found.fatigue:.2f}" + (f", surging {found.fatigue_moving:.2f}" if found.fatigue_moving else "")
    gap = f"{quantity(found.gap, QuantityKind.LENGTH, system)}; the standard asks {quantity(found.gap_wanted, QuantityKind.LENGTH, system)} of moving springs"
    return [
        *stress,
        ("Factor against fatigue", fatigue),
        ("First surge", surge_words(found)),
        ("Turns of the cam planned", f"{found.turns / 1e6:.1f} million"),
        ("Gap to solid at full lift", gap),
        ("Wire", f"{found.wire.value}, textbook strength; valve-spring wire may take a tenth more"),
    ]


def spring_page(
    answer: BuildResult, part: Part, place: SpringPlace | None, told: SpringLogResult | None, system: UnitSystem, trouble: FieldError | None
) -> SpringPage:
    """View-model of one spring's page."""
    done = place.done.springs[place.number] if place else figures_of(part.figures, Owner.SPRING)
    strength = strength_in(answer, part, place) if place else None
    where = ""
    if place:
        pack = "" if len(place.train.springs) == 1 else (", outer", ", inner")[place.number]
        where = (
            f"{place.side.value}{pack}: {quantity(place.height, QuantityKind.LENGTH, system)} shut on the weakest valve, "
            f"{quantity(place.height - place.lift, QuantityKind.LENGTH, system)} open"
        )
    good = told and told.told
    holder = f"part-{part.pk}"
    units = tuple(unit_symbol(kind, system) for kind in (QuantityKind.FORCE, QuantityKind.RATE, QuantityKind.LENGTH))
    return SpringPage(
        name=part.name,
        part=part.pk,
        claim=part.claim,
        claim_words=told.claim if told else "",
        place=where,
        rows=_row(told, system) if told and good else [],
        units=(units[0], units[1], units[2]),
        set_words=_words(told, place, system) if told and good else [],
        trouble=in_units(told.trouble, system) if told else "",
        plots=_plots(told, system) if told and good else None,
        card=field_views(holder, Owner.SPRING, _CARD, part.figures, done, system, trouble),
        wire=field_views(holder, Owner.SPRING, _WIRE, part.figures, done, system, trouble),
        facts=fact_views(part, Owner.SPRING),
        strength=_strength(strength, system) if strength else [],
        verdict=strength.verdict.value if strength else "",
        strength_words=in_units(strength.words, system) if strength else "",
    )
