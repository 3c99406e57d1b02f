"""Clearances: read, plan, re-check, sign."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from rocklash.bridge.bench import surroundings
from rocklash.bridge.doors import on_build
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.builds import build_or_404, last_session
from rocklash.stations.lash import services
from rocklash.stations.lash.presenters import lash_page
from rocklash.stations.lash.services import Refusal, Sent


def _sent(request: HttpRequest) -> Sent:
    post = request.POST
    return Sent(*(post.get(name, "")[:60] for name in ("valve", "goes", "stops", "shim", "source", "seen")))


def _act(request: HttpRequest, member: Membership, build: Build) -> tuple[Refusal | None, str, int | None]:
    """Do what was asked; returns refusal, a sentence for the page, and the valve to go on from."""
    match request.POST.get("act", ""):
        case "read":
            sent = _sent(request)
            refusal = services.keep_reading(member, build, sent)
            return refusal, "", int(sent.valve)
        case "take back":
            return None, "", services.take_back(member, build)
        case "manner":
            return None, services.set_manner(member, build, request.POST.get("method", ""), request.POST.get("aim", "")), None
        case "recheck":
            return None, services.begin_recheck(member, build), None
        case "sign":
            return None, services.sign_off(member, build, request.POST.get("note", "")), None
        case "again":
            services.begin_again(member, build)
            return None, "", None
    return None, "There is nothing of that name to do here.", None


@on_build
def lash(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Show the station; what was asked is done first."""
    refusal, sentence, after = None, "", None
    if request.method == "POST":
        refusal, sentence, after = _act(request, member, build)
        build = build_or_404(member.workshop, build.pk)
    stay = after if refusal or request.POST.get("act") == "take back" else None
    asked = request.GET.get("valve", "") if request.method == "GET" else ""
    context = surroundings(member, build, "lash", fold=True)
    page = lash_page(
        context["answer"], build, member, last_session(build), asked=int(asked) if asked.isdigit() else stay, after=after, refusal=refusal
    )
    context |= {"heading": build.name, "subheading": build.engine.description, "station_name": "Lash", "page": page, "sentence": sentence}
    context["action"] = request.path
    status = 409 if refusal and refusal.conflict else 422 if refusal or sentence else 200
    return render(request, "lash/lash.html", context, status=status)
