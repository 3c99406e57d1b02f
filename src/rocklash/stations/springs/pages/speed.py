"""The page At speed as view-models: sweep map, where each trouble begins, the train with the forces of an instant, what was seen."""

import math
from dataclasses import dataclass

import numpy as np
from django.utils.timezone import localtime

from rocklash.answers.calibration import CalibrationJob
from rocklash.answers.motion import motion_forces
from rocklash.answers.results import BuildResult
from rocklash.answers.sections import section_of_train
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.records.models import Build, Observation
from rocklash.stations.springs.pages.plots import force_plots, readouts
from rocklash.ui.drawings import rev_map
from rocklash.ui.drawings.curves import Plots
from rocklash.ui.drawings.instant import Instant
from rocklash.ui.drawings.lobe_section import Section
from rocklash.ui.drawings.rev_map import RevMap, RevMapData, Strip
from valvetrain import wording
from valvetrain.kernels import valve_motion as kernel
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.quantities import in_unit
from valvetrain.studies.motion.review import BOUNCE, HARD_SEATING, MotionReview, Onset
from valvetrain.studies.motion.sweep import LOSS
from valvetrain.studies.review.with_motion import check_motion, motion_limit
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, shown_unit, unit_symbol

_SHAKES = ["train_stiffness", "train_damping", "spring_damping", "seat_stiffness", "seat_damping", "clash"]
_TRAVEL = 26.0  # pixels of the drawn valve at full lift
_CELL = 5  # samples of half a cam degree in one cell of the map


@dataclass(frozen=True, kw_only=True)
class OnsetRow:
    """One trouble: what, from which speed on with its interval, and a sentence."""

    name: str
    figure: str
    between: str
    words: str
    verdict: str = ""


@dataclass(frozen=True, kw_only=True)
class SeenRow:
    """An observation kept."""

    number: int
    words: str
    by: str
    in_use: bool


@dataclass(frozen=True, kw_only=True)
class SpeedPage:
    """Everything the page prints."""

    side: str
    valve: str
    rpm: str
    sentence: str
    cannot: str
    pending: bool
    map: RevMap | None
    spoken: str
    onsets: list[OnsetRow]
    surges: list[OnsetRow]
    plots: Plots
    data: dict[str, object]
    section: Section | None
    instant: Instant
    shakes: list[FieldView]
    decides: list[tuple[str, str, str]]
    seen: list[SeenRow]
    learning: list[str]
    learning_fits: str


def _rpm(value: float) -> str:
    return show(value, QuantityKind.SPEED)


def _onset_row(name: str, onset: Onset | None, words: str, top: float, verdict: str = "") -> OnsetRow:
    if onset is None:
        return OnsetRow(name=name, figure="none", between=f"up to {_rpm(top)}", words=words, verdict=verdict)
    between = f"{_rpm(onset.low)}\N{EN DASH}{_rpm(onset.high)}"
    return OnsetRow(name=name, figure=f"{_rpm(onset.value)}{'+' if onset.beyond else ''}", between=between, words=words, verdict=verdict)


def _onsets(found: MotionReview, verdict: str, system: UnitSystem) -> list[OnsetRow]:
    assert found.sweep
    top = float(found.sweep.speed[-1])
    bounce = quantity(BOUNCE, QuantityKind.LENGTH, system)
    hard = quantity(HARD_SEATING, QuantityKind.VELOCITY, system)
    return [
        _onset_row("Lost for good at", found.sustained, "the valve no longer follows the lobe from here on", top, verdict),
        _onset_row("First skips at", found.first, "surge may throw the valve off at one speed and hold it at the next", top),
        _onset_row(
            "Bounce", found.bounce, f"the valve comes up again by more than {bounce} after it has shut; beyond float it is chaos", top
        ),
        _onset_row(
            "Hard seating", found.seating, f"the valve meets its seat faster than {hard}, beyond what mechanical cams are made for", top
        ),
        _onset_row("Coils clash", found.clash, "somewhere in a spring coils touch while it surges: noise and wear, and damping too", top),
    ]


def _surges(found: MotionReview, system: UnitSystem) -> list[OnsetRow]:
    assert found.case
    names = ["spring"] if len(found.case.springs) == 1 else ["outer spring", "inner spring"]
    rows = []
    for zone in sorted(found.surge, key=lambda zone: zone.peak):
        own = found.case.springs[zone.spring].own / (2.0 * math.pi)
        swings = quantity(zone.amplitude, QuantityKind.LENGTH, system)
        rows.append(
            OnsetRow(
                name=f"{zone.order}th, {names[zone.spring]}", figure=_rpm(zone.peak), between=f"{_rpm(zone.low)}\N{EN DASH}{_rpm(zone.high)}",
                words=f"{zone.order} turns of its own {own:.0f} Hz in one of the cam: swings {swings}",
            )
        )  # fmt: skip
    return rows


def _levels(found: MotionReview) -> tuple[tuple[float, ...], tuple[tuple[int, ...], ...]]:
    """Edges in cam degrees and the level of each cell, -1 where the valve sits."""
    assert found.sweep
    assert found.case
    trace = found.sweep.trace
    count = trace.shape[1] // _CELL
    contact = trace[kernel.CONTACT, : count * _CELL].reshape(count, _CELL, -1).min(axis=1)
    lift = trace[kernel.LIFT, : count * _CELL].reshape(count, _CELL, -1)
    degrees = np.linspace(-180.0, 180.0, count + 1)
    angle = np.radians((degrees[:-1] + degrees[1:]) / 2.0)
    lobe = found.case.lobe_at(angle)
    seat = sum(spring.preload for spring in found.case.springs)
    level = np.digitize(contact / seat, [0.25, 1.0, 3.0]) + 1
    # lost is away from the lobe; where the valve has just left its seat or is about to sit there is no force to lose yet
    level[(lift.max(axis=1) - np.maximum(lobe, 0.0)[:, None] > LOSS) & (contact <= 0.0)] = 0
    level[lift.max(axis=1) < LOSS] = -1
    up = np.abs(degrees[:-1] + 1.25) < 100.0
    keep = np.flatnonzero(up)
    edges = tuple(float(value) for value in degrees[keep[0] : keep[-1] + 2])
    return edges, tuple(tuple(int(cell) for cell in level[keep, n]) for n in range(level.shape[1]))


def _map(found: MotionReview, goal: float, over: float, system: UnitSystem) -> RevMap:
    assert found.sweep
    assert found.sustained
    length, velocity = (1.0 / _one(kind, system) for kind in (QuantityKind.LENGTH, QuantityKind.VELOCITY))
    # past float everything grows out of bounds: the strips show what can be read
    calm = found.sweep.speed <= max(found.sustained.value, over)
    seating = np.minimum(found.sweep.seating, max(2.0, float(found.sweep.seating[calm].max())) * 1.2)
    surge = tuple(tuple((row * length).tolist()) for row in found.sweep.surge)
    decimals = 1 if system is UnitSystem.METRIC else 3
    strips = (
        Strip("Surge", shown_unit(QuantityKind.LENGTH, system), surge, decimals=decimals),
        Strip("Seating", shown_unit(QuantityKind.VELOCITY, system), (tuple((seating * velocity).tolist()),), HARD_SEATING * velocity),
    )
    edges, levels = _levels(found)
    marks = [(goal * 60, "r-goal", "goal"), (over * 60, "r-over", "over-rev"), (found.sustained.value * 60, "r-gone", "lost for good")]
    return rev_map.draw(
        RevMapData(
            edges, tuple(float(speed) * 60 for speed in found.sweep.speed), levels, strips, tuple(marks),
            (found.sustained.low * 60, found.sustained.high * 60),
        )
    )  # fmt: skip


def _one(kind: QuantityKind, system: UnitSystem) -> float:
    """SI value of one shown unit."""
    return 1.0 / in_unit(1.0, kind, shown_unit(kind, system))


def _sentence(found: MotionReview, limit: float) -> str:
    assert found.sustained
    assert found.first
    onset = found.sustained
    if onset.beyond:
        return f"{found.place.name} keeps its contact through {_rpm(onset.value)} rpm, the highest speed tried."
    rigid = (found.rigid - onset.value) / found.rigid
    more = f"{abs(rigid):.0%} {'below' if rigid > 0 else 'above'} the {_rpm(found.rigid)} rpm of a rigid train"
    fit = "above" if onset.value >= limit else "below"
    return f"{found.place.name} loses the lobe for good from {_rpm(onset.value)} rpm, {more}; {fit} the {_rpm(limit)} rpm it must survive."


def _instant(most: float, lift: float, system: UnitSystem) -> Instant:
    """Bars scaled to twice the open load: an impact goes off the top, and its figure tells."""
    return Instant(
        bars=(("spring", "b-spring"), ("inertia", "b-inertia"), ("contact", "b-contact")),
        most=in_unit(2.0 * most, QuantityKind.FORCE, shown_unit(QuantityKind.FORCE, system)),
        unit=unit_symbol(QuantityKind.FORCE, system),
        travel=_TRAVEL / in_unit(lift, QuantityKind.LENGTH, shown_unit(QuantityKind.LENGTH, system)),
    )


def _seen(observations: list[Observation]) -> list[SeenRow]:
    return [
        SeenRow(
            number=each.pk,
            words=f"{each.get_role_display()} {each.side}: gave up at {_rpm(each.speed)} ±{_rpm(each.spread)} rpm"
            f"{' with ' + each.parts if each.parts else ''}{'. ' + each.note if each.note else ''}",
            by=f"{each.by or 'somebody'}, {localtime(each.at):%d %b %Y}",
            in_use=each.in_use,
        )
        for each in observations
    ]


def _learning(found: CalibrationJob | None, limit: float) -> list[str]:
    if found is None or found.result is None:
        return []
    result = found.result
    was, now = result.before, result.after
    if result.fits == "early":
        return [
            (
                f"It does not fit: with the springs that were in, the valves should follow to {_rpm(result.observed.low)} rpm at least. "
                "Look at ignition, fuel and exhaust, the limiter, and the tachometer, before any spring is bought for it."
            ),
        ]
    if result.fits == "late":
        return [
            (
                f"It does not fit: by these figures the valves would have let go by {_rpm(result.observed.high)} rpm at most. "
                "A mass, a load or the cam is not what is written here: weigh and press before anything is bought."
            ),
        ]
    lines = [
        (
            f"Anchored on what was seen, the next springs lose contact from {_rpm(now.value)} rpm, between {_rpm(now.low)} and {_rpm(now.high)}; "
            f"before it was {_rpm(was.low)} to {_rpm(was.high)}."
        ),
        f"That is {'above' if now.low >= limit else 'below' if now.high < limit else 'about'} the {_rpm(limit)} rpm it must survive.",
    ]
    if result.decides:
        what = wording.input_name(result.decides[0][0])
        lines.append(f"What decides now is {what} ({wording.how_to_measure(result.decides[0][0])}).")
    return lines


def speed_page(
    answer: BuildResult, build: Build, side: Side, rpm: float, system: UnitSystem, trouble: FieldError | None, observations: list[Observation],
    learning: CalibrationJob | None,
) -> SpeedPage | None:  # fmt: skip
    """View-model of the page; `rpm` in rev/s picks the speed of the plots. None when the figures contradict one another."""
    if answer.review is None:
        return None
    done = answer.review.completed
    goal, limit = done.goal.goal_rpm, motion_limit(done.goal)
    found = answer.motions.get(("proposed", side))
    lines = motion_forces(answer, side, rpm)
    plots = force_plots(lines.own, lines.stock, lines.moving, lines.before, system)
    section = section_of_train(done.proposed.sides[side])
    judged = check_motion(side, found, done.goal) if found else None
    swept = found is not None and found.sweep is not None
    assert not swept or found
    share = sum(part for _, part in found.decides) if found else 0.0
    return SpeedPage(
        side=side.value,
        valve=found.place.name if found else "",
        rpm=_rpm(lines.moving.speed if lines.moving else rpm),
        sentence=_sentence(found, limit) if found and swept else "",
        cannot=wording.told(found.cannot, system) if found else "",
        pending=found is None,
        map=_map(found, goal, done.goal.over_rev, system) if found and swept else None,
        spoken="Contact force over cam angle and engine speed",
        onsets=_onsets(found, judged.verdict.value if judged else "", system) if found and swept else [],
        surges=_surges(found, system) if found and swept else [],
        plots=plots,
        data=readouts(lines.own, lines.stock, lines.moving, system, plots, section.turn if section else None),
        section=section,
        instant=_instant(float(lines.own.spring.max()), float(lines.own.lift.max()), system),
        shakes=field_views("engine", Owner.ENGINE, _SHAKES, build.engine.figures, done.engine, system, trouble),
        decides=[
            (wording.input_name(name).capitalize(), f"{part / max(share, 1.0):.0%}", wording.how_to_measure(name))
            for name, part in (found.decides if found else ())
        ],
        seen=_seen(observations),
        learning=_learning(learning, limit),
        learning_fits=learning.result.fits if learning and learning.result else "",
    )
