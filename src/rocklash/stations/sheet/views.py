"""The build sheet: as a page to print, and as PDF."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.text import slugify

from rocklash.answers.goal_line import goal_line
from rocklash.desk.access import on_build
from rocklash.desk.frame import surroundings
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.clearances import shims_for
from rocklash.stations.sheet.pages.sheet import sheet_of
from rocklash.ui.pdf import pdf_of
from valvetrain.units import UnitSystem


def _context(member: Membership, build: Build) -> dict[str, object]:
    context = surroundings(member, build, "sheet")
    goal = goal_line(context["answer"], build, UnitSystem(member.user.unit_system)) if context["answer"].review else ""
    page = sheet_of(context["answer"], build, member, context["session"], goal, shims_for(build))
    return context | {"now": timezone.now(), "page": page}


@on_build
def sheet(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """The sheet on the screen, with the browser's own printing."""
    return render(request, "sheet/sheet.html", _context(member, build))


@on_build
def sheet_pdf(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """The sheet as PDF."""
    page = render_to_string("sheet/print.html", _context(member, build) | {"theme": "light"}, request=request)
    response = HttpResponse(pdf_of(page), content_type="application/pdf")
    response["Content-Disposition"] = f'inline; filename="{slugify(build.name) or "build"}-sheet.pdf"'
    return response
