"""The verdict sheet of a build, and its open file."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.text import slugify

from rocklash.bridge.bench import surroundings
from rocklash.bridge.doors import on_build
from rocklash.bridge.results import build_file_of
from rocklash.records.models import Build, Membership
from rocklash.stations.overview.presenters import overview_page


@on_build
def overview(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Answer first: verdict, what falls short, the checks, ways out, what to measure."""
    context = surroundings(member, build, "overview")
    which = "stock" if request.GET.get("setup") == "stock" else "proposed"
    context |= {"heading": build.name, "subheading": build.engine.description, "station_name": "Overview", "which": which}
    context["page"] = overview_page(context["answer"], which, build, member)
    return render(request, "overview/overview.html", context)


@on_build
def build_file(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:  # noqa: ARG001
    """The open build file."""
    response = HttpResponse(build_file_of(build), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{slugify(build.name) or "build"}.json"'
    return response
