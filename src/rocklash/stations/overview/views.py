"""The verdict sheet of a build, its open file, and the door to the motions that take a second."""

from copy import copy
from typing import Any
from urllib.parse import urlsplit

from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import Resolver404, resolve, reverse
from django.utils import timezone
from django.utils.text import slugify

from rocklash.answers.archive.writing import written
from rocklash.answers.motion import ask_motions, compute_motions
from rocklash.answers.results import build_file_of, result_of
from rocklash.answers.tasks import workers_run
from rocklash.answers.trying import fix_of, with_fix
from rocklash.commands.base import Command
from rocklash.commands.builds import CopyBuild, DeleteBuild, MakePractice, RenameBuild
from rocklash.desk.access import on_build
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.records.models import Build, Membership
from rocklash.stations.overview.commands import TakeFix
from rocklash.stations.overview.pages.overview import overview_page
from rocklash.stations.overview.pages.trial import trial_of

_TAKES: dict[str, type[Command]] = {
    "practice": MakePractice,
    "copy": CopyBuild,
    "rename": RenameBuild,
    "delete": DeleteBuild,
    "take": TakeFix,
}


def _onward(bench: Bench) -> HttpResponse | None:
    """To a copy that was just made; from a build that was deleted to the board, which offers to have it back."""
    shop = bench.member.workshop.slug
    if isinstance(bench.made, Build):
        return redirect(reverse("overview", args=[shop, bench.made.pk]))
    if bench.request.POST.get("act") == "delete" and not bench.refused:
        return redirect(f"{reverse('board', args=[shop])}?gone={bench.build.pk}")
    if bench.request.POST.get("act") == "take" and not bench.refused:
        return redirect(reverse("overview", args=[shop, bench.build.pk]))
    return None


@build_page("overview", "overview/overview.html", _TAKES, target=lambda bench, *_: bench.build, after=_onward)
def overview(bench: Bench) -> dict[str, Any]:
    """Answer first: verdict, what falls short, the checks, ways out, what to measure."""
    which = "stock" if bench.request.GET.get("setup") == "stock" else "proposed"
    page = overview_page(bench.result, which, bench.build, bench.member)
    fix = fix_of(bench.result, bench.request.GET.get("try", "")) if which == "proposed" else None
    answer = with_fix(bench.result, fix) if fix else None
    if fix is None or answer is None or answer.review is None:
        return {"which": which, "page": page}
    return {
        "which": which,
        "page": page,
        "trial": trial_of(fix, bench.result, answer, bench.system),
        "tried_on_ladder": answer.review.proposed,
    }


@on_build
def build_file(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:  # noqa: ARG001
    """The open build file."""
    response = HttpResponse(build_file_of(build), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{slugify(build.name) or "build"}.json"'
    return response


@on_build
def whole_build(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:  # noqa: ARG001
    """Everything of the build as one zip: parts, sheets, jobs, findings, pictures, tests, logbook, journal."""
    response = HttpResponse(written(member.workshop, build), content_type="application/zip")
    response["Content-Disposition"] = f'attachment; filename="{slugify(build.name) or "build"}.zip"'
    response["Cache-Control"] = "private, no-store"
    return response


def _told_in_css(words: str) -> str:
    """Words as a string of a style sheet."""
    plain = " ".join(words.split()).replace("\\", "\\\\").replace('"', '\\"')
    return f'"{plain}"'


@on_build
def paper_css(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:  # noqa: ARG001
    """What stands at the foot of every printed page of a build, and on which paper: a style sheet for print alone, since no page may carry style of its own."""
    foot = f"{build.name} · {member.workshop} · printed {timezone.localtime():%d %b %Y %H:%M}"
    paper = member.user.paper if member.user.paper in ("A4", "letter") else "A4"
    font = 'font: 9pt "Barlow SC", sans-serif'
    rules = f"@page {{ size: {paper}; @bottom-left {{ content: {_told_in_css(foot)}; {font}; }} }}\n"
    response = HttpResponse(rules, content_type="text/css; charset=utf-8")
    response["Cache-Control"] = "private, max-age=300"
    return response


def _still_computing(request: HttpRequest, member: Membership, build: Build, share: float) -> HttpResponse:
    """The share done, in place of the line under the ladder that asked; without scripts a page that says so."""
    context = {"member": member, "build": build, "share": share, "next": request.GET.get("next", "")}
    response = render(request, "overview/computing.html", context)
    response["HX-Retarget"], response["HX-Reswap"] = "#motion-pending", "outerHTML"
    return response


@on_build
def motion(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Compute the motions of this build's valves, then show the page that asked, which now finds them."""
    home = reverse("overview", args=[member.workshop.slug, build.pk])
    asked = urlsplit(request.GET.get("next", home))
    path = asked.path if asked.path.startswith(home) and asked.path != request.path else home
    try:
        match = resolve(path)
    except Resolver404:
        path, match = home, resolve(home)
    result = result_of(build)
    if workers_run():
        share = ask_motions(result)
        if share < 1.0:
            return _still_computing(request, member, build, share)
    else:
        compute_motions(result)
    page = copy(request)  # the page runs in this process, which holds what was computed
    page.path = page.path_info = path
    page.method, page.GET, page.resolver_match = "GET", QueryDict(asked.query), match
    page.META = request.META | {"PATH_INFO": path, "QUERY_STRING": asked.query}
    answer: HttpResponse = match.func(page, *match.args, **match.kwargs)
    return answer
