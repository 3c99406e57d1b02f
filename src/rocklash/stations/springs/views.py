"""Springs, masses and what they do: live on each change."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from rocklash.answers.calibration import begin_learning, learning_of
from rocklash.answers.forces import force_answer
from rocklash.answers.instruments import newest_state
from rocklash.answers.rows import changes_of, side_rows
from rocklash.answers.stale import stale_notes
from rocklash.answers.tester import place_of, told_of
from rocklash.answers.valves import length_asked, load_asked, valves_answer
from rocklash.commands.base import number_of
from rocklash.commands.facts import KeepWord
from rocklash.commands.parts import KeepClaim
from rocklash.desk.access import on_build
from rocklash.desk.bench import Bench
from rocklash.desk.instruments import instrument_round
from rocklash.desk.page import build_page
from rocklash.desk.sharing import sharing_of
from rocklash.desk.words import SLOT_WORDS
from rocklash.records.models import Build, Membership, Part, SetupRole
from rocklash.records.selectors.builds import parts_that_fit, parts_to_choose
from rocklash.records.selectors.springs import (
    newest_spring_logs,
    observation_in_use,
    observations_of,
    spring_or_404,
    valve_fits_of,
    weighings_of,
)
from rocklash.stations.springs.commands import parts as part_commands
from rocklash.stations.springs.commands import springs as commands
from rocklash.stations.springs.commands import valves as valve_commands
from rocklash.stations.springs.pages.forces import force_page
from rocklash.stations.springs.pages.parts import new_part_page
from rocklash.stations.springs.pages.speed import speed_page
from rocklash.stations.springs.pages.springs import side_and_valve, springs_page
from rocklash.stations.springs.pages.tester import spring_page
from rocklash.stations.springs.pages.valves import valves_page
from valvetrain.errors import QuantityError
from valvetrain.parts.stale import Subject
from valvetrain.quantities import parse
from valvetrain.units import QuantityKind

_SPEED = {"seen": commands.KeepObservation, "use": commands.UseObservation}
_SPRING = {"log": commands.KeepSpringLog, "claim": KeepClaim, "fact": KeepWord}
_VALVES = {
    "lay": valve_commands.LayShims,
    "stand": valve_commands.KeepStand,
    "weigh": valve_commands.Weigh,
    "swing": valve_commands.KeepSwing,
}


def _of_slot(bench: Bench, act: str, _: dict[str, Any]) -> Part | None:
    """The part that a word is of."""
    return get_object_or_404(parts_that_fit(bench.build), pk=number_of(bench.request.POST.get("part", ""))) if act == "fact" else None


@build_page("springs", "springs/springs.html", {"fact": KeepWord, "same": part_commands.SameOnOther}, target=_of_slot)
def springs(bench: Bench) -> dict[str, Any]:
    """Parts of one side, its stack, and what they do."""
    asked = bench.request.GET
    side, valve = side_and_valve(bench.result, asked.get("side", ""), asked.get("valve", ""))
    parts = parts_to_choose(bench.build)
    heights = (length_asked(asked.get("h1", ""), bench.system), length_asked(asked.get("h2", ""), bench.system))
    page = springs_page(bench.result, bench.build, parts, bench.system, side, valve, bench.field_error, heights)
    return {"page": page, "action": f"{bench.request.path}?side={side}&valve={valve}", "side": side}


def _to_the_stack(bench: Bench) -> HttpResponse | None:
    """Back to the stack, where the part that was made stands in its place."""
    if not bench.made:
        return None
    return redirect(f"{reverse('springs', args=[bench.member.workshop.slug, bench.build.pk])}?side={bench.side}")


@build_page("springs", "springs/new.html", {"new": part_commands.NewPart, "copy": part_commands.CopyPart}, after=_to_the_stack)
def new_part(bench: Bench, slot: str) -> dict[str, Any]:
    """A part for one place of the proposed set-up: by hand, or a copy of what is there."""
    if slot not in SLOT_WORDS:
        raise Http404
    page = new_part_page(bench.build, bench.side, slot)
    form = bench.form(part_commands.NewPart, row=page.row, slot=slot, seen=page.seen)
    return {"page": page, "new": form, "side": bench.side.value}


def _speed_asked(request: HttpRequest, usual: float) -> float:
    try:
        return parse(request.GET.get("rpm", ""), QuantityKind.SPEED).value or usual
    except QuantityError:
        return usual


@build_page("springs", "springs/speed.html", _SPEED)
def speed(bench: Bench) -> dict[str, Any]:
    """What the valves do at speed, and what the engine was seen to do."""
    result, side = bench.result, bench.side
    used = observation_in_use(bench.build, side.value)
    learning = learning_of(result, used)
    goal = result.review.completed.goal.goal_rpm if result.review else 0.0
    rpm = _speed_asked(bench.request, goal)
    seen = observations_of(bench.build, side.value)
    page = speed_page(result, bench.build, side, rpm, bench.system, bench.field_error, seen, learning)
    return {"page": page, "used": used, "learning": learning, "form": bench.form(commands.KeepObservation, side=side.value)}


@on_build
def learn(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """How far the calibration is; begins it where it was not begun. Once done, the page that shows it is asked for."""
    bench = Bench(request, member, build)
    used = observation_in_use(build, bench.side.value)
    learning = begin_learning(bench.result, used) if used and bench.result.review else None
    context = {"learning": learning, "used": used, "member": member, "build": build, "side": bench.side.value}
    return render(request, "springs/learning.html", context)


def _one_spring(bench: Bench, _: str, place: dict[str, Any]) -> Part:
    return spring_or_404(bench.build, place["part"])


@build_page("springs", "springs/spring.html", _SPRING, target=_one_spring)
def spring(bench: Bench, part: int) -> dict[str, Any]:
    """How one spring is known, and what makes it better known."""
    one, result, system = spring_or_404(bench.build, part), bench.result, bench.system
    place, (log, new) = place_of(result, bench.build, one, bench.side), newest_spring_logs(one)
    found = told_of(log, place, new, one.claim, system) if log else None
    page = spring_page(result, one, place, found, system, bench.field_error)
    return {
        "page": page,
        "log": log,
        "spring": one,
        "shared": sharing_of(bench.build, [one])[one.pk],
        "tester": newest_state(one),
        "log_form": bench.form(commands.KeepSpringLog, side=bench.side.value),
    }


@on_build
def tester(request: HttpRequest, member: Membership, build: Build, part: int) -> HttpResponse:
    """The simulated spring tester: begin or stop a set, and show what was read until now."""
    one, bench = spring_or_404(build, part), Bench(request, member, build)
    context = {"tester": instrument_round(request, bench, one), "member": member, "build": build, "spring": one, "side": bench.side.value}
    return render(request, "springs/tester.html", context)


@build_page("springs", "springs/valves.html", _VALVES)
def valves(bench: Bench) -> dict[str, Any]:
    """One side valve by valve: heights, shims, weighings."""
    build, side = bench.build, bench.side
    found = valves_answer(bench.result, side, load_asked(bench.request.GET.get("wanted", ""), bench.system))
    fits, weighings = valve_fits_of(build, side.value), weighings_of(build, side.value)
    page = valves_page(bench.result, build, side, found, fits, weighings, bench.system)
    heights = [(f"Height of {fit.position}", fit.at) for fit in fits]
    row = side_rows(build)[SetupRole.PROPOSED, side.value]
    weighed = [part for slot in ("valve", "retainer", "keepers", "follower", "shim") if (part := getattr(row, slot))]
    whose: dict[str, list[str]] = {}
    for part, said in zip(weighed, sharing_of(build, weighed).values(), strict=True):
        whose.setdefault(said, []).append(str(part))
    shared = [f"{', '.join(names)}: {said[0].lower()}{said[1:]}" for said, names in whose.items() if said]
    stale = stale_notes(changes_of(build), heights, side.value, Subject.HEIGHT)
    return {"page": page, "stale": stale, "shared": shared, "swing": bench.form(valve_commands.KeepSwing)}


@build_page("springs", "springs/force.html", reads=True)
def force(bench: Bench) -> dict[str, Any]:
    """What the goal asks of the springs, whether gas lets the valve shut, and what force costs."""
    found = force_answer(bench.result, bench.build, bench.side)
    return {"page": force_page(found, bench.system) if found else None}
