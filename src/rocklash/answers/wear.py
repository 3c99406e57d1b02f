"""Clearances over the hours and over temperature: what the valves did, what warming does."""

from dataclasses import dataclass

from rocklash.answers.clearances import counting_figures, feel_of, found_of, limits_of
from rocklash.answers.own_priors import own_pace
from rocklash.answers.results import BuildResult
from rocklash.answers.rows import kind_of, side_rows
from rocklash.records.models import Build, ClearanceSession, SetupRole
from valvetrain.errors import ValveTrainError
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure
from valvetrain.studies.clearance.clearance_trend import SheetReading, Trend, trend
from valvetrain.studies.clearance.warm_clearance import USUAL_BASE, WarmHint, at_blade, reads_larger, usual_case, warm_hint
from valvetrain.studies.train.estimates import blade_ratio


def _left(session: ClearanceSession, position: int, method: str) -> tuple[float, float] | None:
    """What a sheet left at a valve, m: its re-check, else what was found."""
    readings = {reading.recheck: reading for reading in session.readings.all() if reading.position_id == position}
    last = readings.get(True) or readings.get(False)
    if last is None:
        return None
    found = found_of(last, method, feel_of(session))
    return found.middle, (found.high - found.low) / 2.0


def trends_of(build: Build, answer: BuildResult, sheets: list[ClearanceSession]) -> list[tuple[str, str, Trend | None, str]]:
    """Name, side and trend of each valve (or why there is none), exhaust first."""
    figures = counting_figures(build, answer)
    interval = answer.review.completed.goal_figures["interval"].value / 3600.0 if answer.review else None
    rows = side_rows(build)
    listed: list[tuple[str, str, Trend | None, str]] = []
    for place in sorted(build.engine.positions.all(), key=lambda row: (row.side != "exhaust", row.place)):
        valve = rows[SetupRole.PROPOSED, place.side].valve
        titanium = bool(valve and "titanium" in str(valve.facts.get("material", "")))
        readings = []
        for sheet in sheets:
            first = next((each for each in sheet.readings.all() if each.position_id == place.pk and not each.recheck), None)
            left = _left(sheet, place.pk, sheet.method)
            if first is None or left is None or sheet.hours is None:
                continue
            found = found_of(first, sheet.method, feel_of(sheet))
            new = any(each.renewed for each in sheet.readings.all() if each.position_id == place.pk)
            readings.append(SheetReading(sheet.hours, found.middle, left[0], (found.high - found.low) / 2.0, new))
        try:
            listed.append(
                (
                    place.name,
                    place.side,
                    trend(
                        place.name,
                        readings,
                        limits_of(figures, place.side),
                        titanium=titanium,
                        interval=interval,
                        ratio=blade_ratio(kind_of(build.engine), figures).value,
                        pace=own_pace(build),
                    ),
                    "",
                )
            )
        except ValveTrainError as error:
            listed.append((place.name, place.side, None, error.sentence))
    return listed


@dataclass(frozen=True)
class WarmSide:
    """The hint of one side with what it rests on."""

    side: str
    cold: float
    hint: WarmHint
    material: str
    titanium: WarmHint


def warm_of(answer: BuildResult) -> list[WarmSide]:
    """What warming does to each side's clearance; empty for engines whose cam is not in the head."""
    if answer.review is None or answer.record.kind.gear not in ("dohc", "ohc"):
        return []
    done, listed = answer.review.completed, []
    known = done.engine.get("seat_to_cam")
    for side in Side:
        cold = done.proposed.sides[side].clearance
        cam = done.proposed_sides[side].parts[Owner.CAM]
        base = cam["base_diameter"].value / 2.0 if "base_diameter" in cam else USUAL_BASE
        part = answer.record.proposed[side].parts.get(Owner.VALVE)
        material = part.facts.get("material", "") if part else ""
        ratio = blade_ratio(answer.record.kind, done.engine).value  # the loop is along the valve; the blade reads less of it
        case = usual_case(side, Figure(cold.value, cold.spread, cold.basis), base, known.value if known else None, material)
        other = usual_case(side, Figure(cold.value, cold.spread, cold.basis), base, known.value if known else None, "titanium 6-4")
        listed.append(
            WarmSide(
                side.value, cold.value / ratio, at_blade(warm_hint(case), ratio), case.valve_material, at_blade(warm_hint(other), ratio)
            )
        )
    return listed


def too_warm(answer: BuildResult, temperature: float) -> float:
    """How much larger this engine reads at a temperature (K) than cold, m."""
    known = answer.review.completed.engine.get("seat_to_cam") if answer.review else None
    return reads_larger(known.value if known else 92e-3, temperature)
