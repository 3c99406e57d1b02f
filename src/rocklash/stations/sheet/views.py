"""The build sheet: as a page to print, and as PDF."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django.utils import timezone

from rocklash.answers.goal_line import goal_line
from rocklash.answers.job import sheet_notes
from rocklash.desk.access import on_build
from rocklash.desk.bench import Bench
from rocklash.desk.frame import frame
from rocklash.desk.page import build_page
from rocklash.desk.papers import paper
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

    def lay_out() -> str:
        bench = Bench(request, member, build)
        return render_to_string("sheet/print.html", frame(bench, "sheet") | _shown(bench) | {"theme": "light"}, request=request)

    return paper(request, member, build, lay_out, name="sheet", making="sheet/making.html")
