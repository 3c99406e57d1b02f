"""The board and its ways to a new build."""

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from rocklash.answers.results import answer_for
from rocklash.commands.base import require_change
from rocklash.desk.access import in_shop
from rocklash.records.models import Membership
from rocklash.records.selectors.builds import board_builds, newest_session, with_parts
from rocklash.stations.board.commands import FieldTroubles, import_file, start_build
from rocklash.stations.board.forms import GOES_WITH, ImportForm, NewBuildForm
from rocklash.stations.board.pages.board import board_row
from valvetrain.errors import BuildFileError
from valvetrain.units import UnitSystem

_PER_PAGE = 12


@in_shop
def board(request: HttpRequest, member: Membership) -> HttpResponse:
    """Every build with its verdict and next step, last touched first."""
    pages = Paginator(board_builds(member.workshop), _PER_PAGE)
    page = pages.get_page(request.GET.get("page"))
    system = UnitSystem(member.user.unit_system)
    rows = [
        board_row(build, answer_for(build), newest_session(build), len(build.engine.positions.all()), system) for build in with_parts(page)
    ]
    context = {"heading": member.workshop.name, "subheading": f"{pages.count} builds", "member": member, "rows": rows, "page": page}
    return render(request, "board/board.html", context)


@in_shop
def new_build(request: HttpRequest, member: Membership) -> HttpResponse:
    """A new engine by its kind."""
    require_change(member)
    form = NewBuildForm(request.POST or None, system=UnitSystem(member.user.unit_system))
    if request.method == "POST" and form.is_valid():
        try:
            build = start_build(member, form.cleaned_data)
        except FieldTroubles as troubles:
            for name, sentence in troubles.sentences.items():
                form.add_error(name, sentence)
        else:
            return redirect("lash" if form.clearances_only else "overview", member.workshop.slug, build.pk)
    context = {
        "heading": "New engine",
        "subheading": "",
        "member": member,
        "form": form,
        "goes_with": GOES_WITH,
        "import_form": ImportForm(),
    }
    return render(request, "board/new.html", context, status=422 if form.errors else 200)


@in_shop
def import_build(request: HttpRequest, member: Membership) -> HttpResponse:
    """A build from a build file."""
    require_change(member)
    form = ImportForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        try:
            build = import_file(member, form.cleaned_data["file"].read(2_000_001))
        except BuildFileError as error:
            form.add_error("file", str(error))
        else:
            return redirect("overview", member.workshop.slug, build.pk)
    context = {
        "heading": "New engine",
        "subheading": "",
        "member": member,
        "form": NewBuildForm(system=UnitSystem(member.user.unit_system)),
        "goes_with": GOES_WITH,
        "import_form": form,
    }
    return render(request, "board/new.html", context, status=422 if form.errors else 200)
