"""The engine's make-up, its figures and its valves."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from rocklash.commands.facts import engine_facts, keep_engine_fact
from rocklash.desk.access import on_build
from rocklash.desk.frame import keep_posted, surroundings
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.builds import build_or_404
from rocklash.stations.engine import commands as services
from rocklash.stations.engine.pages.engine import engine_page
from valvetrain.units import UnitSystem


@on_build
def engine(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Show the station; a sent field is kept first."""
    trouble, status, valve_trouble, refused = None, 200, None, ""
    if request.method == "POST" and "valve" in request.POST:
        valve_trouble = services.keep_deviation(
            member, build, request.POST["valve"], request.POST.get("text", ""), request.POST.get("seen", "")
        )
        status = 422 if valve_trouble else 200
    elif request.POST.get("act") == "fact":
        refused = keep_engine_fact(member, build, request.POST)
        status = 422 if refused else 200
    elif request.method == "POST":
        trouble, status = keep_posted(request, member, build)
    if request.method == "POST":
        build = build_or_404(member.workshop, build.pk)
    context = surroundings(member, build, "engine")
    context |= {"action": request.path, "refused": refused, "facts": engine_facts(build, ("holds_limiter_intake", "holds_limiter_exhaust"))}
    context["page"] = engine_page(context["answer"], build, UnitSystem(member.user.unit_system), trouble, valve_trouble)
    return render(request, "engine/engine.html", context, status=status)
