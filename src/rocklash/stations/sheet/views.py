"""The build sheet: as a page to print, and as PDF."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.text import slugify

from rocklash.answers.documents import ask_pdf, pdf_by_key, wait_for_pdf
from rocklash.answers.goal_line import goal_line
from rocklash.answers.job import sheet_notes
from rocklash.answers.tasks import Ready, Running, workers_run
from rocklash.desk.access import on_build
from rocklash.desk.bench import Bench
from rocklash.desk.frame import frame
from rocklash.desk.page import build_page
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.clearances import shims_for
from rocklash.stations.sheet.pages.sheet import sheet_of


def _shown(bench: Bench) -> dict[str, Any]:
    goal = goal_line(bench.result, bench.build, bench.system) if bench.result.review else ""
    page = sheet_of(bench.result, bench.build, bench.member, bench.session, goal, shims_for(bench.build))
    return {"now": timezone.now(), "page": page, "job_notes": sheet_notes(bench.build)}


@build_page("sheet", "sheet/sheet.html")
def sheet(bench: Bench) -> dict[str, Any]:
    """The sheet on the screen, with the browser's own printing."""
    return _shown(bench)


@on_build
def sheet_pdf(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """The sheet as PDF; while a worker lays it out, a page with its progress that asks again."""
    bench, key = Bench(request, member, build), request.GET.get("key", "")
    asked = pdf_by_key(build.pk, key) if key else None
    if asked is None:
        context = frame(bench, "sheet") | _shown(bench) | {"theme": "light"}
        key, asked = ask_pdf(build.pk, render_to_string("sheet/print.html", context, request=request))
    if isinstance(asked, Running) and not workers_run():
        asked = wait_for_pdf(build.pk, key)
    if isinstance(asked, Ready):
        response = HttpResponse(asked.value, content_type="application/pdf")
        response["Content-Disposition"] = f'inline; filename="{slugify(build.name) or "build"}-sheet.pdf"'
        return response
    share = asked.share if isinstance(asked, Running) else 0.0
    return render(request, "sheet/making.html", {"key": key, "share": share, "member": member, "build": build, "heading": build.name})
