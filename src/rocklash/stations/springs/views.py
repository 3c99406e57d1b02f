"""Springs, masses and what they do: live on each change."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from rocklash.answers.calibration import begin_learning, learning_of
from rocklash.answers.forces import force_answer
from rocklash.answers.results import answer_for
from rocklash.answers.tester import place_of, tester_state, told_of
from rocklash.answers.valves import valves_answer
from rocklash.commands.facts import keep_fact
from rocklash.commands.figures import FieldError
from rocklash.desk.access import on_build
from rocklash.desk.frame import asked_side, choose_or_keep, surroundings
from rocklash.records.models import Build, Membership, Part
from rocklash.records.selectors.builds import build_or_404, parts_that_fit
from rocklash.records.selectors.springs import (
    newest_spring_logs,
    newest_test,
    observation_in_use,
    observations_of,
    spring_or_404,
    valve_fits_of,
    weighings_of,
)
from rocklash.stations.springs.commands import springs as services
from rocklash.stations.springs.commands import valves as valve_services
from rocklash.stations.springs.pages.forces import force_page
from rocklash.stations.springs.pages.speed import speed_page
from rocklash.stations.springs.pages.springs import side_and_valve, springs_page
from rocklash.stations.springs.pages.tester import spring_page, tester_view
from rocklash.stations.springs.pages.valves import planned_shims, valves_page
from valvetrain.errors import QuantityError
from valvetrain.quantities import parse
from valvetrain.units import QuantityKind, UnitSystem


@on_build
def springs(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Show the station; a chosen part or a sent field is kept first."""
    trouble, refused, status = None, "", 200
    if request.method == "POST":
        trouble, refused, status = choose_or_keep(request, member, build)
        build = build_or_404(member.workshop, build.pk)
    context = surroundings(member, build, "springs")
    side, valve = side_and_valve(context["answer"], request.GET.get("side", ""), request.GET.get("valve", ""))
    action = f"{request.path}?side={side}&valve={valve}"
    page = springs_page(context["answer"], build, list(parts_that_fit(build)), UnitSystem(member.user.unit_system), side, valve, trouble)
    context |= {"page": page, "action": action, "refused": refused, "side": side}
    return render(request, "springs/springs.html", context, status=status)


def _around(request: HttpRequest, member: Membership, build: Build) -> dict[str, Any]:
    context = surroundings(member, build, "springs", fold=False)
    return context | {"action": request.get_full_path(), "side": asked_side(request).value}


def _sent_speed(request: HttpRequest, member: Membership, build: Build) -> tuple[FieldError | None, str, int]:
    post, act = request.POST, request.POST.get("act", "")
    if act in ("seen", "use"):
        refused = (services.keep_observation if act == "seen" else services.use_observation)(member, build, post)
        return None, refused, 422 if refused else 200
    return choose_or_keep(request, member, build)


def _speed_asked(request: HttpRequest, usual: float) -> float:
    try:
        return parse(request.GET.get("rpm", ""), QuantityKind.SPEED).value or usual
    except QuantityError:
        return usual


@on_build
def speed(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """What the valves do at speed, and what the engine was seen to do; what was sent is kept first."""
    trouble, refused, status = None, "", 200
    if request.method == "POST":
        trouble, refused, status = _sent_speed(request, member, build)
        build = build_or_404(member.workshop, build.pk)
    context, side = _around(request, member, build), asked_side(request)
    answer, used = context["answer"], observation_in_use(build, side.value)
    learning = learning_of(answer, used)
    goal = answer.review.completed.goal.goal_rpm if answer.review else 0.0
    rpm = _speed_asked(request, goal)
    page = speed_page(answer, build, side, rpm, UnitSystem(member.user.unit_system), trouble, observations_of(build, side.value), learning)
    context |= {"page": page, "refused": refused, "typed": request.POST if refused else {}, "used": used, "learning": learning}
    return render(request, "springs/speed.html", context, status=status)


@on_build
def learn(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """How far the calibration is; begins it where it was not begun. Once done, the page that shows it is asked for."""
    answer, used = answer_for(build), observation_in_use(build, asked_side(request).value)
    learning = begin_learning(answer, used) if used and answer.review else None
    context = {"learning": learning, "used": used, "member": member, "build": build, "side": asked_side(request).value}
    return render(request, "springs/learning.html", context)


def _sent_spring(request: HttpRequest, member: Membership, build: Build, part: Part) -> tuple[FieldError | None, str, int]:
    post, act = request.POST, request.POST.get("act", "")
    if act == "log":
        raw = request.FILES["file"].read(services.LARGEST + 1) if "file" in request.FILES else post.get("text", "").encode()  # type: ignore[union-attr]
        refused = services.keep_spring_log(member, build, part, raw, post)
    elif act == "claim":
        refused = services.keep_claim(member, build, part, post)
    elif act == "fact":
        refused = keep_fact(member, build, part, post)
    else:
        return choose_or_keep(request, member, build)
    return None, refused, 422 if refused else 200


@on_build
def spring(request: HttpRequest, member: Membership, build: Build, part: int) -> HttpResponse:
    """How one spring is known, and what makes it better known; what was sent is kept first."""
    trouble, refused, status = None, "", 200
    if request.method == "POST":
        trouble, refused, status = _sent_spring(request, member, build, spring_or_404(build, part))
        build = build_or_404(member.workshop, build.pk)
    one, context = spring_or_404(build, part), _around(request, member, build)
    answer, system = context["answer"], UnitSystem(member.user.unit_system)
    place, (log, new), run = place_of(answer, build, one, asked_side(request)), newest_spring_logs(one), newest_test(one)
    told = told_of(log, place, new, one.claim, system) if log else None
    context |= {"page": spring_page(answer, one, place, told, system, trouble), "log": log, "spring": one, "refused": refused}
    context |= {"typed": request.POST if refused else {}, "tester": tester_view(tester_state(run) if run else None)}
    return render(request, "springs/spring.html", context, status=status)


@on_build
def tester(request: HttpRequest, member: Membership, build: Build, part: int) -> HttpResponse:
    """The simulated spring tester: begin or stop a set, and show what was read until now."""
    one = spring_or_404(build, part)
    run = newest_test(one)
    if request.method == "POST":
        if request.POST.get("act") == "begin":
            run = services.begin_test(member, build, one)
        elif run:
            services.end_test(member, run)
    page = tester_view(tester_state(run) if run else None)
    return render(
        request, "springs/tester.html", {"tester": page, "member": member, "build": build, "spring": one, "side": asked_side(request).value}
    )


def _wanted(request: HttpRequest, system: UnitSystem) -> float | None:
    try:
        return parse(request.GET.get("wanted", ""), QuantityKind.FORCE, system).value or None
    except QuantityError:
        return None


_VALVE_ACTS = {"stand": valve_services.keep_stand, "weigh": valve_services.weigh, "swing": valve_services.keep_swing}


@on_build
def valves(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """One side valve by valve: heights, shims, weighings; what was sent is kept first."""
    refused, status, side, system = "", 200, asked_side(request), UnitSystem(member.user.unit_system)
    act = request.POST.get("act", "") if request.method == "POST" else ""
    if act == "lay":
        plan = valves_answer(answer_for(build), side, _wanted(request, system))
        refused = valve_services.lay_shims(member, build, request.POST, planned_shims(build, plan) if plan else {})
    elif act in _VALVE_ACTS:
        refused = _VALVE_ACTS[act](member, build, request.POST)
    if request.method == "POST":
        status = 422 if refused else 200
        build = build_or_404(member.workshop, build.pk)
    context = _around(request, member, build)
    found = valves_answer(context["answer"], side, _wanted(request, system))
    fits, weighings = valve_fits_of(build, side.value), weighings_of(build, side.value)
    page = valves_page(context["answer"], build, side, found, fits, weighings, system)
    context |= {"page": page, "refused": refused, "typed": request.POST if refused else {}}
    return render(request, "springs/valves.html", context, status=status)


@on_build
def force(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """What the goal asks of the springs, whether gas lets the valve shut, and what force costs."""
    context = _around(request, member, build)
    found = force_answer(context["answer"], build, asked_side(request))
    context |= {"page": force_page(found, UnitSystem(member.user.unit_system)) if found else None}
    return render(request, "springs/force.html", context)
