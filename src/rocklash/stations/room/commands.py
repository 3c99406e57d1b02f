"""Mutations of the Room station: gaps read at the bench, what the rods are of, over-revs and what was found after them."""

import math
import re

from django.db import transaction
from django.http import QueryDict
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.answers.gaps import rest_from
from rocklash.answers.over_rev import reached_of
from rocklash.answers.results import answer_for
from rocklash.answers.rows import kind_of, positions_of
from rocklash.commands.base import journal, require_change
from rocklash.commands.facts import keep_engine_fact, note_kept
from rocklash.records.models import Build, GapReading, InspectionFinding, Membership, OverRevCase, Position
from valvetrain.errors import QuantityError, ValveTrainError
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.gaps import WAY_SPREAD, GapKind, Way, check_reading
from valvetrain.quantities import parse
from valvetrain.studies.running.inspection import inspection, outcome
from valvetrain.units import QuantityKind, UnitSystem, show

_MOST_LINES = 40
_SPLIT = re.compile(r"\s*[;,\t]\s*|\s{1,}(?=[\d.−-])")


def _pairs(text: str, system: UnitSystem) -> list[tuple[float | None, float, str]]:
    """Lines of `angle gap`, or single gaps: crank rad or None, m, as typed. Raises QuantityError naming the line."""
    found: list[tuple[float | None, float, str]] = []
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if not lines:
        raise QuantityError("Nothing is typed. Write a gap, or a crank angle and a gap on each line.")
    if len(lines) > _MOST_LINES:
        raise QuantityError(f"{len(lines)} lines are too many: {_MOST_LINES} at most.")
    for number, line in enumerate(lines, start=1):
        parts = [part for part in _SPLIT.split(line.replace("\N{MINUS SIGN}", "-"), maxsplit=1) if part]
        try:
            if len(parts) == 1:
                found.append((None, parse(parts[0], QuantityKind.LENGTH, system).value, line))
            else:
                angle = parse(parts[0], QuantityKind.ANGLE, system).value
                found.append((angle, parse(parts[1], QuantityKind.LENGTH, system).value, line))
        except QuantityError as error:
            raise QuantityError(f"Line {number}, “{line}”: {error}") from error
    return found


def keep_readings(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep one gap, or the points of a drop test, read on one valve; returns a sentence when not kept. All lines or none."""
    require_change(member)
    system = UnitSystem(member.user.unit_system)
    asked, how = post.get("gap", ""), post.get("way", "")
    if asked not in set(GapKind) or how not in set(Way):
        return "Say which gap it is and how it was read."
    gap, way = GapKind(asked), Way(how)
    place = get_object_or_404(Position, engine=build.engine, pk=_number(post.get("valve", "")))
    answer, side = answer_for(build), Side(place.side)
    try:
        pairs = _pairs(post.get("readings", ""), system)
        rows = []
        for angle, value, typed in pairs:
            check_reading(gap, value, angle)
            if gap is GapKind.PISTON_VALVE and (angle is None) != (way is Way.CLAY):
                need = "one thickness, without an angle" if way is Way.CLAY else "a crank angle before each gap, for example −10 1.84"
                return f"{place}: {way.value} needs {need}. Nothing was kept."
            rest = rest_from(answer, side, value, angle) if gap is GapKind.PISTON_VALVE else None
            rows.append(
                GapReading(
                    build=build, position=place, gap=gap.value, way=way.value, value=value, spread=WAY_SPREAD[way], angle=angle, rest=rest,
                    typed=typed[:80], by=member.user,
                )
            )  # fmt: skip
    except ValveTrainError as error:
        return f"{place}: {error} Nothing was kept."
    with transaction.atomic():
        # the same gap read again the same way takes the place of what was read before
        GapReading.objects.filter(build=build, position=place, gap=gap.value, way=way.value).delete()
        GapReading.objects.bulk_create(rows)
        told = ", ".join(row.typed for row in rows)
        journal(member, "gap", f"{build.name}: {place}, {gap.value.replace('_', ' ')}, {way.value}", "", told)
        return note_kept(member, build)


def drop_reading(member: Membership, build: Build, post: QueryDict) -> str:
    """Take one reading back."""
    require_change(member)
    with transaction.atomic():
        row = get_object_or_404(GapReading.objects.select_for_update(), build=build, pk=_number(post.get("reading", "")))
        journal(member, "gap", f"{build.name}: {row.position}, {row.gap.replace('_', ' ')}", row.typed, "taken back")
        row.delete()
        return note_kept(member, build)


def keep_rods(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep what the rods are of."""
    asked = post.copy()
    asked["fact"] = "rods"
    return keep_engine_fact(member, build, asked)


def _number(text: str) -> int:
    return int(text) if text.isdigit() else -1


def _speed(post: QueryDict, key: str, system: UnitSystem) -> float | None:
    text = post.get(key, "").strip()
    if not text:
        return None
    value = parse(text, QuantityKind.SPEED, system).value
    FIGURES[Owner.GOAL, "over_rev"].check(value, system)
    return value


def _ratio(post: QueryDict, key: str, system: UnitSystem) -> float | None:
    text = post.get(key, "").strip()
    return parse(text, QuantityKind.NUMBER, system).value if text else None


def begin_case(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep an over-rev: rpm before and two gears, a road speed and the gear it went into, or a logged peak."""
    system = UnitSystem(member.user.unit_system)
    try:
        peak, before = _speed(post, "peak", system), _speed(post, "before", system)
        gear_from, gear_to = _ratio(post, "gear_from", system), _ratio(post, "gear_to", system)
        road_text = post.get("road", "").strip()
        road = parse(road_text, QuantityKind.ROAD, system).value if road_text else None
        shifted = before is not None and gear_from is not None and gear_to is not None
        if peak is None and not shifted and (road is None or gear_to is None):
            return (
                "Give the logged peak, or the speed before the shift with both gears, or the speed over the ground with the gear it went into. "
                "Nothing was kept."
            )
        case = OverRevCase(
            build=build, before=before, gear_from=gear_from, gear_to=gear_to, road=None if shifted else road, peak=peak,
            note=post.get("note", "").strip()[:200], by=member.user,
        )  # fmt: skip
        reached = reached_of(answer_for(build), case)
    except ValveTrainError as error:
        return f"{error} Nothing was kept."
    if not math.isfinite(reached.high) or reached.high * 60 > 40000:
        return f"These gears would drag it to {reached.high * 60:,.0f} rpm. Are the ratios right? Nothing was kept."
    case.save()
    journal(member, "over-rev", build.name, "", f"up to {show(reached.high, QuantityKind.SPEED)} rpm")
    return ""


def keep_finding(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep what was found at one step; an empty finding takes it back. A step somebody else filled meanwhile is not overwritten."""
    case = get_object_or_404(OverRevCase.objects.select_for_update(), build=build, pk=_number(post.get("case", "")))
    if case.closed_at:
        return "This inspection is signed; begin a new one to look again."
    steps = {step.key: step for step in inspection(kind_of(build.engine), positions_of(build.engine))}
    step = steps.get(post.get("step", ""))
    finding = post.get("finding", "")
    if step is None or (finding and finding not in {each.key for each in step.findings}):
        return "There is no such step or finding."
    now = InspectionFinding.objects.filter(case=case, step=step.key).first()
    if (now.finding if now else "") == finding:
        return ""
    if post.get("seen", "") != (now.finding if now else ""):
        return f"{step.place}, {step.title.lower()}: meanwhile somebody else found “{now.finding if now else 'nothing yet'}”. Choose again."
    if finding:
        InspectionFinding.objects.update_or_create(case=case, step=step.key, defaults={"finding": finding, "by": member.user})
    else:
        InspectionFinding.objects.filter(case=case, step=step.key).delete()
    journal(member, "inspection", f"{build.name}: {step.place}, {step.title.lower()}", now.finding if now else "", finding)
    return ""


def close_case(member: Membership, build: Build, post: QueryDict) -> str:
    """Sign an inspection in which every step was looked at."""
    case = get_object_or_404(OverRevCase.objects.select_for_update(), build=build, pk=_number(post.get("case", "")))
    steps = inspection(kind_of(build.engine), positions_of(build.engine))
    state, words = outcome(steps, {row.step: row.finding for row in case.findings.all()})
    if state == "open":
        return f"{words} Nothing was signed."
    case.closed_at, case.closed_by = timezone.now(), member.user
    case.save(update_fields=["closed_at", "closed_by"])
    journal(member, "inspection", build.name, "", f"signed: {state}")
    return ""


def over_rev_act(member: Membership, build: Build, post: QueryDict) -> str:
    """One mutation of the over-rev page; a sentence when it was refused."""
    require_change(member)
    acts = {"begin": begin_case, "found": keep_finding, "close": close_case}
    act = acts.get(post.get("act", ""))
    if act is None:
        return "There is nothing of that kind to do here."
    with transaction.atomic():
        return act(member, build, post)
