"""What the cams do, and what a change of cams trades."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from rocklash.bridge.bench import choose_or_keep, surroundings
from rocklash.bridge.doors import on_build
from rocklash.bridge.fields import BASES
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.builds import build_or_404, newest_logs, parts_that_fit
from rocklash.stations.cams import services
from rocklash.stations.cams.presenters import cams_page
from valvetrain.quantities import System


@on_build
def cams(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Show the station; a chosen cam or a sent field is kept first."""
    trouble, refused, status, post = None, "", 200, request.POST
    if request.method == "POST":
        if "log" in request.FILES:
            raw = request.FILES["log"].read(1_000_001)  # type: ignore[union-attr]
            refused = services.keep_log(member, build, post.get("row", ""), raw, crank=post.get("angles") != "cam")
            status = 422 if refused else 200
        else:
            trouble, refused, status = choose_or_keep(request, member, build)
        build = build_or_404(member.workshop, build.pk)
    context = surroundings(member, build, "cams", fold=True)
    parts, logs = list(parts_that_fit(build)), newest_logs(build)
    page = cams_page(context["answer"], build, parts, logs, System(member.user.unit_system), trouble)
    context |= {"heading": build.name, "subheading": build.engine.description, "station_name": "Cams", "bases": BASES}
    context |= {"page": page, "action": request.path, "refused": refused}
    return render(request, "cams/cams.html", context, status=status)
