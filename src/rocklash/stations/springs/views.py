"""Springs, masses and what they do: live on each change."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from rocklash.bridge.bench import choose_or_keep, surroundings
from rocklash.bridge.doors import on_build
from rocklash.bridge.fields import BASES
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.builds import build_or_404, parts_that_fit
from rocklash.stations.springs.presenters import side_and_valve, springs_page
from valvetrain.quantities import System


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
    context |= {"heading": build.name, "subheading": build.engine.description, "station_name": "Springs & masses", "bases": BASES}
    page = springs_page(context["answer"], build, list(parts_that_fit(build)), System(member.user.unit_system), side, valve, trouble)
    context |= {"page": page, "action": action, "refused": refused, "side": side}
    return render(request, "springs/springs.html", context, status=status)
