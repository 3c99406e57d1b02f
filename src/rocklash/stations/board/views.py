"""The board and its ways to a new build."""

from collections.abc import Iterable

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.http import urlencode

from rocklash.answers.archive.writing import written
from rocklash.answers.due import refresh
from rocklash.answers.results import results_by_rows
from rocklash.commands.base import BEFORE, Command, number_of, require_change, require_owner
from rocklash.desk.access import in_shop
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.board import SHOWN, Asked, board_query, laid_out, numbers_as_asked, page_of, what_bears
from rocklash.records.selectors.builds import build_or_404, build_row_or_404, deleted_builds, newest_sessions, with_parts
from rocklash.records.selectors.due import due_states, open_reminders
from rocklash.records.selectors.search import search
from rocklash.stations.board.commands import Archive, HaveBack, ImportBuild, ImportWhole, Restore, StartBuild
from rocklash.stations.board.forms import GOES_WITH, ImportForm, NewBuildForm
from rocklash.stations.board.pages.board import BESIDE, BoardRow, board_row, due_beside
from rocklash.stations.board.pages.doors import DOORS, door_of, fills, uses_told
from rocklash.stations.board.pages.search import found_groups
from rocklash.ui.choices import USES
from valvetrain.units import UnitSystem, told

_PER_PAGE = 10
_LISTED = 12  # builds to choose from on New engine; more are found from the board


def _asked(request: HttpRequest) -> Asked:
    get = request.GET
    show, use = get.get("show", ""), get.get("use", "")
    return Asked(
        show=show if show in SHOWN else "board",
        words=get.get("q", "").replace("\x00", "")[:80].strip(),
        use=use if use in dict(USES) else "",
    )


def _counted(asked: Asked, count: int) -> str:
    """How many builds stand below, and which."""
    which = "" if asked.show == "board" else f", {SHOWN[asked.show]}"
    return f"{count} {'engine' if count == 1 else 'engines'}{which}"


_COMMANDS: dict[str, type[Command]] = {"archive": Archive, "restore": Restore, "have-back": HaveBack}


def _sent(request: HttpRequest, member: Membership) -> None:
    require_change(member)
    command = _COMMANDS.get(request.POST.get("act", ""))
    if command:
        number, shop = number_of(request.POST.get("build", "")), member.workshop
        build = get_object_or_404(deleted_builds(shop), pk=number) if command is HaveBack else build_row_or_404(shop, number)
        command(member, build, request.POST).run()


def _rows(member: Membership, page: Iterable[Build]) -> list[BoardRow]:
    builds = list(page)
    refresh(member.workshop, timezone.localdate(), only=[build.pk for build in builds])
    bears = what_bears(builds)
    judged = results_by_rows(builds, {number: name for number, (_, name) in bears.items()}, with_parts)
    told_of, sessions, system = laid_out(builds), newest_sessions(builds), UnitSystem(member.user.unit_system)
    return [
        board_row(build, judged[build.pk], sessions.get(build.pk), bears[build.pk][0], system, told_of.get(build.pk, {}))
        for build in builds
    ]


@in_shop
def board(request: HttpRequest, member: Membership) -> HttpResponse:
    """Every build with its verdict, what it waits for and its next act: open engines first, then those touched last. What is asked for stands in the address."""
    if request.method == "POST":
        _sent(request, member)
        return redirect(request.get_full_path())
    asked = _asked(request)
    pages = Paginator(numbers_as_asked(member.workshop, asked), _PER_PAGE)
    page = pages.get_page(request.GET.get("page"))
    kept = urlencode(
        [(key, value) for key, value in (("show", asked.show), ("q", asked.words), ("use", asked.use)) if value and value != "board"]
    )
    context = {
        "heading": member.workshop.name, "subheading": "", "counted": _counted(asked, pages.count), "member": member, "rows": _rows(member, page_of(member.workshop, list(page))), "page": page, "asked": asked,
        "doors": list(DOORS.values()), "beside": due_beside(due_states(member.workshop, 1, BESIDE)),
        "gone": deleted_builds(member.workshop).filter(pk=number_of(request.GET["gone"])).first() if "gone" in request.GET else None, "kept": kept, "shown": list(SHOWN.items()), "uses": USES, "reminders": len(open_reminders(member.workshop)), "narrowed": bool(kept),
    }  # fmt: skip
    return render(request, "board/board.html", context)


@in_shop
def search_all(request: HttpRequest, member: Membership) -> HttpResponse:
    """Everything the workshop keeps, by words."""
    text = request.GET.get("q", "").replace("\x00", "")[:120].strip()
    hits, nearly = search(member.workshop, text)
    context = {
        "heading": "Search",
        "subheading": member.workshop.name,
        "member": member,
        "q": text,
        "groups": found_groups(hits, member),
        "nearly": nearly,
    }
    return render(request, "board/search.html", context)


def _new_page(request: HttpRequest, member: Membership, form: NewBuildForm | None = None, file: ImportForm | None = None) -> HttpResponse:
    """The ways to a new engine, and for what brings it here to one that stands on the board; the form that was sent holds its errors."""
    system = UnitSystem(member.user.unit_system)
    door = door_of(form.door if form is not None else request.GET.get("why", ""))
    context = {
        "heading": "New engine", "subheading": "", "member": member, "goes_with": GOES_WITH, "import_form": file or ImportForm(),
        "form": form or NewBuildForm(system=system, initial={"why": door.key}), "doors": list(DOORS.values()), "door": door,
        "fills": fills(system), "uses": uses_told(dict(USES), system), "standing": board_query(member.workshop, Asked())[:_LISTED],
    }  # fmt: skip
    wrong = (form and form.errors) or (file and file.errors)
    return render(request, "board/new.html", context, status=422 if wrong else 200)


@in_shop
def new_build(request: HttpRequest, member: Membership) -> HttpResponse:
    """A new engine by its kind."""
    require_change(member)
    system = UnitSystem(member.user.unit_system)
    form = NewBuildForm(request.POST, system=system) if request.method == "POST" else None
    if form is not None and form.is_valid():
        outcome = StartBuild(member, None, form.cleaned_data | {"once": request.POST.get("once", "")}).run()
        if outcome.state == BEFORE:
            return redirect("board", member.workshop.slug)
        if not outcome.refused:
            return redirect("door", member.workshop.slug, form.door, outcome.made.pk)
        form.add_error(None, told(outcome.sentence, system))
    return _new_page(request, member, form)


@in_shop
def door(request: HttpRequest, member: Membership, why: str, number: int) -> HttpResponse:  # noqa: ARG001  (the door has let them in)
    """On to the page where the work begins that brings a build here."""
    return redirect(door_of(why).url(member, build_or_404(member.workshop, number)))


@in_shop
def import_build(request: HttpRequest, member: Membership) -> HttpResponse:
    """A build from a build file; everything of one, or of a workshop, from a zip."""
    require_change(member)
    form = ImportForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        file = form.cleaned_data["file"]
        whole = file.read(4) == b"PK\x03\x04"
        file.seek(0)
        outcome = (ImportWhole if whole else ImportBuild)(
            member, None, {"once": request.POST.get("once", "")}, files=form.cleaned_data
        ).run()
        if outcome.state == BEFORE or (whole and not outcome.refused and len(outcome.made) != 1):
            return redirect("board", member.workshop.slug)
        if not outcome.refused:
            return redirect("overview", member.workshop.slug, (outcome.made[0] if whole else outcome.made).pk)
        form.add_error("file", told(outcome.sentence, UnitSystem(member.user.unit_system)))
    return _new_page(request, member, file=form)


@in_shop
def whole_workshop(request: HttpRequest, member: Membership) -> HttpResponse:  # noqa: ARG001  (the door has let them in)
    """Everything of the workshop as one zip, to its owners alone: it holds their customers' names."""
    require_owner(member)
    answer = HttpResponse(written(member.workshop), content_type="application/zip")
    answer["Content-Disposition"] = f'attachment; filename="{member.workshop.slug}-{timezone.localdate():%Y-%m-%d}.zip"'
    answer["Cache-Control"] = "private, no-store"
    return answer
