"""The plan as it is carried to the bench and hung on the wall, what else to do while it is open, and pictures for a report."""

import io
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby
from typing import Any

import segno
from django.utils.safestring import SafeString, mark_safe

from rocklash.answers.job import OpenThing, done_of, facts_of_job, plan_of, things_of
from rocklash.records.models import Workshop
from rocklash.stations.job.pages.plan import JobRows, cautions_of, name_of, phase_of, span, step_at_hand, tool_of, torque_of
from valvetrain.studies.job.knowledge import again_for, offers
from valvetrain.studies.job.plan import Plan
from valvetrain.units import UnitSystem


@dataclass(frozen=True, kw_only=True)
class StepLeft:
    """A step still to be done."""

    key: str
    act: str


@dataclass(frozen=True, kw_only=True)
class BenchPage:
    """What the bench view carries along: each unit of work still to be ticked, one place at a time, as plain words; and what is counted."""

    units: list[dict[str, Any]]
    done: int
    total: int
    things: list[OpenThing]
    missing: int


@dataclass(frozen=True, kw_only=True)
class WallStep:
    """One step on the wall."""

    number: int
    act: str
    done_when: str
    tool: str
    torque: str
    times: str
    time: str
    cautions: list[str]
    two: bool
    code: SafeString


@dataclass(frozen=True, kw_only=True)
class WallPart:
    """One stretch of the way on the wall, with the code that opens it."""

    name: str
    steps: list[WallStep]
    code: SafeString


@dataclass(frozen=True, kw_only=True)
class WallPage:
    """The whole way on paper."""

    parts: list[WallPart]
    things: list[OpenThing]
    each: bool


@dataclass(frozen=True, kw_only=True)
class OfferLine:
    """What else to renew now: why, what coming back for it would take and cost, and what the part costs where the shelf tells."""

    what: str
    because: str
    again: str
    later: str
    part: str


def _plan(found: JobRows) -> Plan | None:
    plan = plan_of(found.job, found.build, found.detours)
    return None if isinstance(plan, str) else plan


def steps_left(found: JobRows, system: UnitSystem) -> list[StepLeft]:  # noqa: ARG001  (words have no unit yet)
    """Steps not wholly done, in their order."""
    plan = _plan(found)
    if plan is None:
        return []
    done = done_of(found.ticks)
    return [StepLeft(key=item.key, act=name_of(item)) for item in plan.items if done.get(item.key, 0) < item.times]


def bench_page(found: JobRows, asked: str, system: UnitSystem) -> BenchPage | None:
    """Every unit left, the asked step first in view."""
    plan = _plan(found)
    if plan is None:
        return None
    done = done_of(found.ticks)
    there = {(tick.key, tick.place) for tick in found.ticks}
    units: list[dict[str, Any]] = []
    for number, item in enumerate(plan.items):
        left = [place for place in (item.places or ("",)) if (item.key, place) not in there]
        if not left:
            continue
        step = step_at_hand(found, plan, item, done, None, system)
        shared = {
            "key": item.key, "act": step.act, "done": step.done_when, "why": step.why, "tool": step.tool, "torque": " ".join(step.torque).strip(),
            "cautions": [words for _, words in step.cautions], "slip": step.slip, "timer": step.timer, "number": number + 1, "asked": item.key == asked,
            "counts": list(item.step.counted), "reading": step.reading,
        }  # fmt: skip
        places = item.places or ("",)
        units += [shared | {"place": place, "of": f"{places.index(place) + 1} of {item.times}" if item.times > 1 else ""} for place in left]
    things = things_of(plan, done)
    return BenchPage(
        units=units,
        done=len(there),
        total=len(there) + len(units),
        things=things,
        missing=sum(not each.settled for each in things),
    )


@lru_cache(maxsize=2048)
def code_of(address: str) -> SafeString:
    """A QR code as a drawing."""
    out = io.BytesIO()
    segno.make(address, error="m", micro=False).save(
        out, kind="svg", xmldecl=False, svgns=True, nl=False, svgclass="qr", lineclass=None, omitsize=True
    )
    return mark_safe(out.getvalue().decode())  # noqa: S308  (written by the library from an address of this site)


def wall_page(found: JobRows, where: str, system: UnitSystem, *, each: bool) -> WallPage | None:
    """The way on paper; a code for each stretch, or with `each` for each step."""
    plan = _plan(found)
    if plan is None:
        return None
    done, parts, number = done_of(found.ticks), [], 0
    for name, items in groupby(plan.items, phase_of):
        lines = []
        first = ""
        for item in items:
            number += 1
            first = first or item.key
            step = item.step
            torque = torque_of(step, found.build, system, str(found.job.helper.get("stages", "")))
            lines.append(
                WallStep(
                    number=number, act=name_of(item), done_when=step.done, tool=tool_of(step), torque=" ".join(torque).strip(),
                    times=f"{item.times} times" if item.times > 1 else "", time=span(item.step.least * item.times, item.step.most * item.times),
                    cautions=[words for _, words in cautions_of(step)], two=step.two, code=code_of(f"{where}?step={item.key}") if each else SafeString(""),
                )
            )  # fmt: skip
        parts.append(WallPart(name=name, steps=lines, code=code_of(f"{where}?step={first}")))
    return WallPage(parts=parts, things=things_of(plan, done), each=each)


def offers_of(found: JobRows, shop: Workshop, prices: dict[str, float]) -> list[OfferLine]:
    """What else to renew while it is open, against coming back for it."""
    lines, places = [], found.build.engine.positions.all()
    for offer in offers(facts_of_job(found.job, found.build)):
        low, high = again_for(offer, len(places), found.build.engine.cylinders)
        later = ""
        if shop.hour_price is not None:
            later = f"{low / 3600.0 * float(shop.hour_price):,.0f} to {high / 3600.0 * float(shop.hour_price):,.0f} of work later"
        part = prices.get(offer.id)
        lines.append(
            OfferLine(
                what=offer.what,
                because=offer.because,
                again=span(low, high),
                later=later,
                part=f"from {part:,.2f} each on the shelf" if part is not None else "",
            )
        )
    return lines
