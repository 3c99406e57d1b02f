"""Room: every gap, how it is known, over-revs with their inspection, and gearing."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from rocklash.answers.gaps import room_answer, room_map
from rocklash.answers.over_rev import judged, reached_of, trouble_of
from rocklash.answers.results import answer_for
from rocklash.commands.figures import FieldError
from rocklash.desk.access import on_build
from rocklash.desk.frame import asked_side, choose_or_keep, surroundings
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.builds import build_or_404
from rocklash.records.selectors.room import gap_readings_of, over_revs_of
from rocklash.stations.room import commands as services
from rocklash.stations.room.pages.gaps import room_page
from rocklash.stations.room.pages.gearing import gearing_page
from rocklash.stations.room.pages.measure import measure_page
from rocklash.stations.room.pages.over_rev import over_rev_page
from valvetrain.units import UnitSystem


def _around(request: HttpRequest, member: Membership, build: Build, reached: tuple[float, float] | None = None) -> dict[str, Any]:
    context = surroundings(member, build, "room", fold=reached is None, reached=reached)
    return context | {"action": request.get_full_path()}


@on_build
def room(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Section, gap curves, phaser map, every gap against its limit, and what would free room."""
    context, side = _around(request, member, build), asked_side(request)
    where = "rest" if request.GET.get("phaser") == "rest" else "worst"
    what = "valve" if request.GET.get("map") == "valve" else "piston"
    found = room_answer(context["answer"], where)
    mapped = room_map(context["answer"], side, what)
    system = UnitSystem(member.user.unit_system)
    context |= {"page": room_page(found, mapped, gap_readings_of(build), system) if found else None}
    context |= {"side": side.value, "where": where, "what": what, "tab": "gaps"}
    return render(request, "room/room.html", context)


def _sent_measure(request: HttpRequest, member: Membership, build: Build) -> tuple[FieldError | None, str, int]:
    act = request.POST.get("act", "")
    acts = {"read": services.keep_readings, "drop": services.drop_reading, "rods": services.keep_rods}
    if act in acts:
        refused = acts[act](member, build, request.POST)
        return None, refused, 422 if refused else 200
    return choose_or_keep(request, member, build)


@on_build
def measure(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """What the gaps follow from, and gaps as read at the bench; what was sent is kept first."""
    trouble, refused, status = None, "", 200
    if request.method == "POST":
        trouble, refused, status = _sent_measure(request, member, build)
        build = build_or_404(member.workshop, build.pk)
    context = _around(request, member, build)
    page = measure_page(context["answer"], build, gap_readings_of(build), UnitSystem(member.user.unit_system), trouble)
    context |= {"page": page, "refused": refused, "typed": request.POST if refused else {}, "tab": "measure"}
    return render(request, "room/measure.html", context, status=status)


@on_build
def over_rev(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """An over-rev: how far it went, what that means, and the inspection; what was sent is kept first."""
    refused = ""
    if request.method == "POST":
        refused = services.over_rev_act(member, build, request.POST)
        build = build_or_404(member.workshop, build.pk)
    cases = over_revs_of(build)
    wanted = request.GET.get("case", "")
    case = next((each for each in cases if str(each.pk) == wanted), cases[0] if cases else None)
    answer = answer_for(build)
    cannot = trouble_of(answer, case) if case else ""  # a sprocket may have been cleared since
    judgement = judged(answer, case, compute="motions" in request.GET) if case and not cannot else None
    reached = reached_of(answer, case) if case and not cannot else None
    context = _around(request, member, build, (reached.low * 60, reached.high * 60) if reached else None)
    page = over_rev_page(context["answer"], build, case, cases, judgement, UnitSystem(member.user.unit_system))
    context |= {"page": page, "refused": refused or cannot, "typed": request.POST if refused else {}, "tab": "over-rev"}
    return render(request, "room/over_rev.html", context, status=422 if refused else 200)


@on_build
def gearing(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Speed from gearing, and whether a sprocket is the cheaper speed; what was sent is kept first."""
    trouble, refused, status = None, "", 200
    if request.method == "POST":
        trouble, refused, status = choose_or_keep(request, member, build)
        build = build_or_404(member.workshop, build.pk)
    context = _around(request, member, build)
    context |= {"page": gearing_page(context["answer"], build, UnitSystem(member.user.unit_system), trouble), "refused": refused}
    return render(request, "room/gearing.html", context | {"tab": "gearing"}, status=status)
