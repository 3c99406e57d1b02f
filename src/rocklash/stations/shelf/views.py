"""The shelf: looked through, changed, brought in and given out as tables."""

from typing import Any

from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from rocklash.commands.base import KEPT, Command, Outcome, require_change
from rocklash.desk.access import in_shop
from rocklash.records.figure_column import figures_of
from rocklash.records.models import Membership, Part
from rocklash.records.selectors.parts import builds_using
from rocklash.records.selectors.shelf import counts_by_kind, individuals_of, picture_or_404, pictures_of, shelf_part_or_404, shelf_parts
from rocklash.stations.shelf import commands
from rocklash.stations.shelf.forms import KIND_CHOICES, IndividualForm, PartForm, TableForm
from rocklash.stations.shelf.pages.shelf import individual_line, shelf_line, table_page
from rocklash.ui.forms import BenchForm
from valvetrain.errors import BuildFileError
from valvetrain.formats.shelf_table import KINDS, PLAIN, shelf_rows
from valvetrain.formats.table_out import as_csv, as_workbook
from valvetrain.parts.catalogue import Owner
from valvetrain.units import UnitSystem, told

_PER_PAGE = 60
_TYPES = {"csv": "text/csv; charset=utf-8", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}
_PART: dict[str, type[Command]] = {
    "keep": commands.KeepShelfPart, "drop": commands.DropShelfPart, "one": commands.AddIndividual, "picture": commands.AddPicture,
    "no picture": commands.DropPicture, "gone": commands.DropIndividual,
}  # fmt: skip


def _asked(request: HttpRequest) -> tuple[str, str]:
    kind = request.GET.get("kind", "")
    return request.GET.get("q", "").replace("\x00", "")[:80], kind if kind in dict(KIND_CHOICES) else ""


@in_shop
def shelf(request: HttpRequest, member: Membership) -> HttpResponse:
    """Every part, found by words and kind."""
    system, (words, kind) = UnitSystem(member.user.unit_system), _asked(request)
    pages = Paginator(shelf_parts(member.workshop, words, kind), _PER_PAGE)
    page = pages.get_page(request.GET.get("page"))
    counts = counts_by_kind(member.workshop)
    context = {
        "heading": "Shelf", "subheading": f"{sum(counts.values()):,} parts of {member.workshop.name}", "member": member, "page": page, "words": words,
        "kind": kind, "rows": [shelf_line(part, system) for part in page], "kinds": [(key, name, counts.get(key, 0)) for key, name in KIND_CHOICES],
        "tail": f"q={words}&kind={kind}",
    }  # fmt: skip
    return render(request, "shelf/shelf.html", context)


@in_shop
def part(request: HttpRequest, member: Membership, number: int, kind: str = "") -> HttpResponse:
    """One part: what it is, what it costs, who uses it, what single ones of it have behind them; or a new one of a kind."""
    if kind and kind not in dict(KIND_CHOICES):
        raise Http404("There is no such kind of part.")
    found = shelf_part_or_404(member.workshop, number) if number else Part(workshop=member.workshop, kind=kind)
    outcome, command = None, None
    if request.method == "POST":
        require_change(member)
        made = _PART.get(request.POST.get("act", ""))
        if made is None or (not number and made is not commands.KeepShelfPart):
            raise Http404("There is nothing of that name to do here.")
        command = made(member, None, request.POST, target=found, files=request.FILES)
        outcome = command.run()
        if not outcome.refused:
            if made is commands.DropShelfPart:
                return redirect("shelf", member.workshop.slug)
            return redirect(
                "shelf-part", member.workshop.slug, outcome.made.pk if made is commands.KeepShelfPart and outcome.made else found.pk
            )
    return _part_page(request, member, found, command, outcome)


def _part_page(request: HttpRequest, member: Membership, part: Part, command: Command | None, outcome: Outcome | None) -> HttpResponse:
    system = UnitSystem(member.user.unit_system)
    form = _form(PartForm(system=system, about=part), commands.KeepShelfPart, command, outcome, system)
    one = _form(IndividualForm(system=system), commands.AddIndividual, command, outcome, system)
    refused = told(outcome.sentence, system) if outcome and outcome.refused else ""
    context = {
        "heading": part.name or f"New {KINDS[Owner(part.kind)]}", "subheading": KINDS[Owner(part.kind)], "member": member, "part": part, "form": form,
        "one": one, "refused": refused, "seen": commands.fingerprint_of(part), "uses": sorted(builds_using(part)) if part.pk else [],
        "ones": [individual_line(each, system) for each in individuals_of(part)] if part.pk else [], "pictures": pictures_of(part) if part.pk else [],
    }  # fmt: skip
    return render(request, "shelf/part.html", context, status=outcome.status if outcome else 200)


def _form(empty: BenchForm, made: type[Command], command: Command | None, outcome: Outcome | None, system: UnitSystem) -> BenchForm:
    """The form with what was sent in it where that was refused."""
    if not isinstance(command, made) or outcome is None or not outcome.refused:
        return empty
    bound = command.bound()
    assert bound
    for name, sentence in outcome.fields.items():
        if name in bound.fields and name not in bound.errors:
            bound.add_error(name, told(sentence, system))
    return bound


@in_shop
def picture(request: HttpRequest, member: Membership, number: int) -> HttpResponse:  # noqa: ARG001  (the door has let them in)
    """One picture, to nobody but the members of its workshop."""
    answer = HttpResponse(bytes(picture_or_404(member.workshop, number).data), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer


@in_shop
def bring_in(request: HttpRequest, member: Membership) -> HttpResponse:
    """A table of parts: looked at, its columns put right, then brought in whole or not at all."""
    require_change(member)
    command = commands.BringInShelf(member, None, request.POST, files=request.FILES)
    outcome = command.run() if request.POST.get("act") == "keep" else None
    if outcome and outcome.state == KEPT:
        return redirect("shelf", member.workshop.slug)
    system = UnitSystem(member.user.unit_system)
    context: dict[str, Any] = {"member": member, "form": TableForm(system=system), "page": None}
    if outcome:
        context["refused"] = told(outcome.sentence, system) or "Everything in it is on the shelf already."
    status = outcome.status if outcome else 200
    if request.method == "POST":
        try:
            context |= _looked_at(command, system)
        except BuildFileError as error:
            context |= {"refused": told(error.sentence, system), "form": TableForm(request.POST, system=system)}
            status = 422
    return render(request, "shelf/bring_in.html", {"heading": "Import parts", "subheading": "", **context}, status=status)


def _looked_at(command: commands.BringInShelf, system: UnitSystem) -> dict[str, Any]:
    """The table as it would come in. Raises BuildFileError for what is no table."""
    have = set(shelf_parts(command.member.workshop).values_list("kind", "name"))
    return {"page": table_page(command.table(), have, system), "kept": command.kept(), "update": bool(command.text("update"))}


@in_shop
def out(request: HttpRequest, member: Membership, form: str) -> HttpResponse:
    """The parts asked for as CSV or XLSX, in the form in which they come in."""
    if form not in _TYPES:
        raise Http404("There is no such table.")
    parts = shelf_parts(member.workshop, *_asked(request))
    keys = [key for key, _, _ in PLAIN]
    rows = shelf_rows(
        (Owner(each.kind), {key: getattr(each, key, None) for key in keys}, figures_of(each.figures, Owner(each.kind)), each.facts) for each in parts
    )  # fmt: skip
    body: str | bytes = as_csv(rows) if form == "csv" else as_workbook("Shelf", rows)
    answer = HttpResponse(body, content_type=_TYPES[form])
    answer["Content-Disposition"] = f'attachment; filename="shelf.{form}"'
    return answer
