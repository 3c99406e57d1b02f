"""Mutations of how a sheet is kept: manner, aims, hours, pins of the plan, firing order, and the simulated feeler."""

import secrets

from django.db import transaction
from django.http import QueryDict
from django.shortcuts import get_object_or_404

from rocklash.answers.clearances import limits_of, statuses
from rocklash.answers.results import answer_for
from rocklash.answers.stops import firing_of
from rocklash.commands.base import journal, require_change
from rocklash.records.models import Build, ClearanceSession, Engine, Membership, Position
from rocklash.stations.lash.commands.readings import Refusal, Sent, read_into, session_of
from valvetrain.errors import QuantityError, ValveTrainError
from valvetrain.parts.engine import SHIMMED, Side
from valvetrain.quantities import parse, plain
from valvetrain.simulators.feeler import FeelerReading, read_again, read_valve
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol

_MOST_HOURS, _COLDEST, _HOTTEST = 100_000.0, 233.15, 473.15


@transaction.atomic
def set_manner(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep how readings are taken, where to aim, hours and temperature; the method stays once there are readings."""
    require_change(member)
    session, system = session_of(member, build), UnitSystem(member.user.unit_system)
    aim, method, before = post.get("aim", ""), post.get("method", ""), _manner_words(session, system)
    if method in {"go_no_go", "blade"} and method != session.method:
        if session.readings.exists():
            return "The way of reading stays as it is on a begun sheet: intervals and single blades do not mix."
        session.method = method
    try:
        if aim in {"middle", "loose end", "own"}:
            session.aim = aim
            session.aims = _own_aims(build, post, system) if aim == "own" else {}
        if "hours" in post:
            session.hours = _hours(post.get("hours", ""))
        if "temperature" in post:
            session.temperature = _temperature(post.get("temperature", ""), system)
    except ValveTrainError as error:
        return f"{error} Nothing was kept."
    if "reason" in post:
        session.reason = post.get("reason", "").strip()[:200]
    session.save(update_fields=["aim", "aims", "method", "hours", "temperature", "reason"])
    after = _manner_words(session, system)
    if after != before:
        journal(member, "sheet", f"{build.name}: how it is read", before, after)
    return ""


def _manner_words(session: ClearanceSession, system: UnitSystem) -> str:
    """Method, aim, hours and temperature of a sheet, as the journal tells them."""
    own = "".join(f", {side} {plain(value, QuantityKind.LENGTH, system)}" for side, value in sorted(session.aims.items()))
    hours = "" if session.hours is None else f", {session.hours:g} h"
    warm = (
        ""
        if session.temperature is None
        else f", {show(session.temperature, QuantityKind.TEMPERATURE, system)} {unit_symbol(QuantityKind.TEMPERATURE, system)}"
    )
    return f"{session.method}, {session.aim}{own}{hours}{warm}{', ' + session.reason if session.reason else ''}"


def _number(text: str) -> int:
    return int(text) if text.isdigit() else -1


def _own_aims(build: Build, post: QueryDict, system: UnitSystem) -> dict[str, float]:
    found = {}
    answer = answer_for(build)
    for side in Side:
        text = post.get(f"own_{side}", "").strip()
        if not text:
            continue
        value = parse(text, QuantityKind.LENGTH, system).value
        limits = limits_of(answer.review.completed.engine, side.value) if answer.review else None
        if limits and not limits.least <= value <= limits.most:
            raise QuantityError(
                f"An aim of {value * 1e3:.3f} mm lies outside the {side} limits of {limits.least * 1e3:.2f} to {limits.most * 1e3:.2f} mm."
            )
        found[side.value] = value
    return found


def _hours(text: str) -> float | None:
    if not text.strip():
        return None
    value = parse(text, QuantityKind.DURATION).value / 3600.0
    if not 0.0 <= value <= _MOST_HOURS:
        raise QuantityError(f"{value:,.0f} h cannot be: engine hours lie between 0 and {_MOST_HOURS:,.0f}.")
    return value


def _temperature(text: str, system: UnitSystem) -> float | None:
    if not text.strip():
        return None
    value = parse(text, QuantityKind.TEMPERATURE, system).value
    if not _COLDEST <= value <= _HOTTEST:
        raise QuantityError(f"{value - 273.15:.0f} °C cannot be the temperature of an engine that is read.")
    return value


@transaction.atomic
def set_pin(member: Membership, build: Build, post: QueryDict) -> str:
    """Pin or forbid a shim of the plan at one valve, or take that back."""
    require_change(member)
    session = session_of(member, build)
    position = get_object_or_404(Position, engine=build.engine, pk=_number(post.get("valve", "")))
    pins, key, how = dict(session.pins), post.get("key", "")[:80], post.get("how", "")
    mine = dict(pins.get(str(position.pk), {}))
    if how == "stays":
        mine = {"stays": True}
    elif how == "only" and key:
        mine = {"only": key}
    elif how == "never" and key:
        mine = {"never": [*mine.get("never", []), key]}
    elif how == "free":
        mine = {}
    else:
        return "Choose what to pin or to forbid."
    pins.pop(str(position.pk), None)
    if mine:
        pins[str(position.pk)] = mine
    session.pins = pins
    session.save(update_fields=["pins"])
    journal(member, "shim plan", f"{build.name}: {position}", "", how)
    return ""


@transaction.atomic
def set_firing(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep the firing order and the manual's own note on measuring."""
    require_change(member)
    text = post.get("firing", "").strip()[:60]
    try:
        if text:
            firing_of(text, build)
    except ValveTrainError as error:
        return f"{error} Nothing was kept."
    engine = Engine.objects.select_for_update().get(pk=build.engine_id)
    before = str(engine.facts.get("firing", ""))
    engine.facts = engine.facts | {"firing": text, "lash_note": post.get("lash_note", "").strip()[:300]}
    engine.save(update_fields=["facts"])
    journal(member, "firing order", build.name, before, text)
    return ""


@transaction.atomic
def read_by_instrument(member: Membership, build: Build, valve: str, seen: str) -> Refusal | None:
    """One valve read by the simulated feeler and micrometer, kept like any other reading."""
    require_change(member)
    session, system = session_of(member, build), UnitSystem(member.user.unit_system)
    if not session.seed:
        session.seed = secrets.randbelow(1_000_000) + 1
        session.save(update_fields=["seed"])
    found = _instrument(build, session, valve)
    shimmed = build.engine.adjuster in SHIMMED

    def text(value: float) -> str:
        return plain(value, QuantityKind.LENGTH, system)

    sent = Sent(
        valve, text(found.goes), text(found.stops), text(found.shim) if shimmed else "", "micrometer", seen, text(found.label) if shimmed else ""
    )  # fmt: skip
    return read_into(session, member, build, sent)


def _instrument(build: Build, session: ClearanceSession, valve: str) -> FeelerReading:
    rows = statuses(build, session, answer_for(build))
    position = get_object_or_404(Position, engine=build.engine, pk=_number(valve))
    row = next(each for each in rows if each.position.pk == position.pk)
    middle = (row.limits.thinnest + row.limits.thickest) / 2.0
    hidden = read_valve(session.seed, position.name, row.limits.least, row.limits.most, middle)
    if not session.rechecking or row.first is None:
        return hidden
    before = FeelerReading(row.first.goes, row.first.stops, row.first.shim or middle, row.first.label or middle)
    fitted = session.plan.get(str(position.pk), {}).get("size", before.shim)
    if build.engine.adjuster not in SHIMMED:  # a screw or a stem was set to the aim
        fitted = before.shim - (row.aim - row.found.middle) * row.ratio if row.found else before.shim
    return read_again(session.seed, position.name, before, float(fitted), row.ratio)
