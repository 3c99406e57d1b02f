"""The board and its ways to a new build."""

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from rocklash.answers.results import result_of
from rocklash.commands.base import BEFORE, require_change
from rocklash.desk.access import in_shop
from rocklash.records.models import Membership
from rocklash.records.selectors.builds import board_builds, newest_session, with_parts
from rocklash.stations.board.commands import ImportBuild, StartBuild
from rocklash.stations.board.forms import GOES_WITH, ImportForm, NewBuildForm
from rocklash.stations.board.pages.board import board_row
from valvetrain.units import UnitSystem, told

_PER_PAGE = 12


@in_shop
def board(request: HttpRequest, member: Membership) -> HttpResponse:
    """Every build with its verdict and next step, last touched first."""
    pages = Paginator(board_builds(member.workshop), _PER_PAGE)
    page = pages.get_page(request.GET.get("page"))
    system = UnitSystem(member.user.unit_system)
    rows = [
        board_row(build, result_of(build), newest_session(build), len(build.engine.positions.all()), system) for build in with_parts(page)
    ]
    context = {"heading": member.workshop.name, "subheading": f"{pages.count} builds", "member": member, "rows": rows, "page": page}
    return render(request, "board/board.html", context)


def _new_page(request: HttpRequest, member: Membership, form: NewBuildForm | None = None, file: ImportForm | None = None) -> HttpResponse:
    """The two ways to a new engine side by side; the one that was sent holds its errors."""
    context = {
        "heading": "New engine", "subheading": "", "member": member, "goes_with": GOES_WITH, "import_form": file or ImportForm(),
        "form": form or NewBuildForm(system=UnitSystem(member.user.unit_system)),
    }  # fmt: skip
    wrong = (form and form.errors) or (file and file.errors)
    return render(request, "board/new.html", context, status=422 if wrong else 200)


@in_shop
def new_build(request: HttpRequest, member: Membership) -> HttpResponse:
    """A new engine by its kind."""
    require_change(member)
    system = UnitSystem(member.user.unit_system)
    form = NewBuildForm(request.POST or None, system=system)
    if request.method == "POST" and form.is_valid():
        outcome = StartBuild(member, None, form.cleaned_data | {"once": request.POST.get("once", "")}).run()
        if outcome.state == BEFORE:
            return redirect("board", member.workshop.slug)
        if not outcome.refused:
            return redirect("lash" if form.clearances_only else "overview", member.workshop.slug, outcome.made.pk)
        form.add_error(None, told(outcome.sentence, system))
    return _new_page(request, member, form)


@in_shop
def import_build(request: HttpRequest, member: Membership) -> HttpResponse:
    """A build from a build file."""
    require_change(member)
    form = ImportForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        outcome = ImportBuild(member, None, {"once": request.POST.get("once", "")}, files=form.cleaned_data).run()
        if outcome.state == BEFORE:
            return redirect("board", member.workshop.slug)
        if not outcome.refused:
            return redirect("overview", member.workshop.slug, outcome.made.pk)
        form.add_error("file", told(outcome.sentence, UnitSystem(member.user.unit_system)))
    return _new_page(request, member, file=form)
