"""Clearances: stops, readings, plan, re-check, signature; the shelf, the history, files in and out."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils.text import slugify

from rocklash.answers.clearances import limits_known, statuses
from rocklash.answers.results import answer_for
from rocklash.answers.stops import firing_text, stops_of
from rocklash.answers.wear import trends_of, warm_of
from rocklash.commands.base import require_change
from rocklash.commands.facts import keep_fact
from rocklash.commands.figures import FieldError
from rocklash.desk.access import on_build
from rocklash.desk.fields import field_views
from rocklash.desk.frame import choose_or_keep, keep_posted, surroundings
from rocklash.records.models import Build, ClearanceSession, Membership
from rocklash.records.selectors.builds import build_or_404, last_session, open_session, parts_that_fit, with_readings
from rocklash.records.selectors.clearances import sheets_of, shim_moves_of, shims_for, shims_of
from rocklash.stations.lash import exchange
from rocklash.stations.lash.commands import readings as services
from rocklash.stations.lash.commands import sheet as sheet_services
from rocklash.stations.lash.commands import shelf as shelf_services
from rocklash.stations.lash.commands.readings import Refusal, Sent
from rocklash.stations.lash.pages.history import history_page
from rocklash.stations.lash.pages.lash import Asked, lash_page, limit_fields
from rocklash.stations.lash.pages.plan import stop_view
from valvetrain.errors import ValveTrainError
from valvetrain.parts.catalogue import Owner
from valvetrain.units import QuantityKind, UnitSystem, unit_symbol


@dataclass(frozen=True)
class Done:
    """What an act leaves for the page: a refusal, a sentence, the valve to go on from, the sheet where it is at hand, trouble of a limit."""

    refusal: Refusal | None = None
    sentence: str = ""
    after: int | None = None
    session: ClearanceSession | None = None
    trouble: FieldError | None = None


def _sent(request: HttpRequest) -> Sent:
    post = request.POST
    return Sent(*(post.get(name, "")[:60] for name in ("valve", "goes", "stops", "shim", "source", "seen", "label", "renewed")))


def _number(text: str) -> int | None:
    return int(text) if text.isdigit() else None


def _read(request: HttpRequest, member: Membership, build: Build) -> Done:
    """A reading is what is sent most: the sheet it went into is handed to the page, which need not look for it again."""
    sent = _sent(request)
    refusal, session = services.keep_reading(member, build, sent)
    return Done(refusal, after=_number(sent.valve), session=with_readings(session))


def _instrument(request: HttpRequest, member: Membership, build: Build) -> Done:
    valve = request.POST.get("valve", "")
    refusal = sheet_services.read_by_instrument(member, build, valve, request.POST.get("seen", "0"))
    return Done(refusal, after=_number(valve))


def _figure(request: HttpRequest, member: Membership, build: Build) -> Done:
    """A limit from the manual, typed beside the readings."""
    return Done(trouble=keep_posted(request, member, build)[0])


def _again(request: HttpRequest, member: Membership, build: Build) -> Done:  # noqa: ARG001 (one signature for all)
    services.begin_again(member, build)
    return Done()


def _take_back(request: HttpRequest, member: Membership, build: Build) -> Done:
    after, sentence = services.take_back(member, build, request.POST.get("reading", ""))
    return Done(sentence=sentence, after=after)


_ACTS: dict[str, Callable[[HttpRequest, Membership, Build], Done]] = {
    "read": _read,
    "instrument": _instrument,
    "again": _again,
    "take back": _take_back,
    "manner": lambda request, member, build: Done(sentence=sheet_services.set_manner(member, build, request.POST)),
    "pin": lambda request, member, build: Done(sentence=sheet_services.set_pin(member, build, request.POST)),
    "recheck": lambda request, member, build: Done(sentence=services.begin_recheck(member, build)),  # noqa: ARG005
    "sign": lambda request, member, build: Done(sentence=services.sign_off(member, build, request.POST.get("note", ""))),
}


def _act(request: HttpRequest, member: Membership, build: Build) -> Done:
    """Do what was asked."""
    act = _figure if "holder" in request.POST else _ACTS.get(request.POST.get("act", ""))
    return act(request, member, build) if act else Done(sentence="There is nothing of that name to do here.")


def _around(request: HttpRequest, member: Membership, build: Build, tab: str, session: ClearanceSession | None = None) -> dict[str, Any]:
    return surroundings(member, build, "lash", fold=True, session=session) | {"tab": tab, "action": request.path}


@on_build
def lash(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Show the station; what was asked is done first. The swap plan is made when the page asks for it."""
    done = _act(request, member, build) if request.method == "POST" else Done()  # sheets are rows of their own: the build stays as read
    if "holder" in request.POST:
        build = build_or_404(member.workshop, build.pk)
    refusal, trouble = done.refusal, done.trouble
    stay = done.after if refusal or request.POST.get("act") == "take back" else None
    chosen = _number(request.GET.get("valve", "")) if request.method == "GET" else None
    asked = Asked(stay if chosen is None else chosen, done.after, refusal)
    context = _around(request, member, build, "read", done.session)
    compute = "plan" in request.GET or request.POST.get("act") == "pin"
    page = lash_page(context["answer"], build, member, context["session"], asked, shims_for(build), compute=compute)
    status = (
        409 if (refusal and refusal.conflict) or (trouble and trouble.conflict) else 422 if refusal or trouble or done.sentence else 200
    )
    if "holder" in request.POST or "limits" in request.GET or not limits_known(build):
        context["limits"] = limit_fields(context["answer"], build, UnitSystem(member.user.unit_system), trouble)
    return render(request, "lash/lash.html", context | {"page": page, "sentence": done.sentence}, status=status)


@on_build
def stops(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Where to stop the crank; firing order and the manual's note are kept first."""
    refused = ""
    if request.method == "POST":
        refused = sheet_services.set_firing(member, build, request.POST)
        build = build_or_404(member.workshop, build.pk)
    context = _around(request, member, build, "stops")
    note = str(build.engine.facts.get("lash_note", ""))
    page = stop_view(stops_of(context["answer"], build), None, note)
    typed = request.POST if refused else {"firing": firing_text(build), "lash_note": note}
    return render(request, "lash/stops.html", context | {"page": page, "refused": refused, "typed": typed}, status=422 if refused else 200)


@on_build
def shelf(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Shims on the shelf; what was put on or taken is kept first."""
    refused = ""
    if request.method == "POST":
        refused = shelf_services.shelf_act(member, build, request.POST)
        build = build_or_404(member.workshop, build.pk)
    context = _around(request, member, build, "shelf")
    system = UnitSystem(member.user.unit_system)
    context |= {
        "rows": shims_of(member.workshop),
        "moves": shim_moves_of(member.workshop),
        "unit": unit_symbol(QuantityKind.LENGTH, system),
    }
    context |= {"refused": refused, "typed": request.POST if refused else {}}
    return render(request, "lash/shelf.html", context, status=422 if refused else 200)


def _keep_history(request: HttpRequest, member: Membership, build: Build) -> str:
    require_change(member)
    if "fact" in request.POST:
        part = get_object_or_404(parts_that_fit(build), pk=int(request.POST["part"]) if request.POST.get("part", "").isdigit() else -1)
        return keep_fact(member, build, part, request.POST)
    trouble, refused, _ = choose_or_keep(request, member, build)
    return trouble.sentence if trouble else refused


@on_build
def history(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Wear over the hours and what warming does; what was sent is kept first."""
    refused = ""
    if request.method == "POST":
        refused = _keep_history(request, member, build)
        build = build_or_404(member.workshop, build.pk)
    context, sheets = _around(request, member, build, "history"), sheets_of(build)
    answer, system = context["answer"], UnitSystem(member.user.unit_system)
    page = history_page(build, trends_of(build, answer, sheets), warm_of(answer), len(sheets), system)
    engine = answer.review.completed.engine if answer.review else None
    fields = field_views("engine", Owner.ENGINE, ["seat_to_cam"], build.engine.figures, engine, system)
    return render(
        request, "lash/history.html", context | {"page": page, "refused": refused, "fields": fields}, status=422 if refused else 200
    )


@on_build
def sheet_file(request: HttpRequest, member: Membership, build: Build, form: str) -> HttpResponse:  # noqa: ARG001 (a page of the build)
    """The last sheet as CSV or XLSX."""
    session = last_session(build)
    rows = statuses(build, session, answer_for(build))
    name = slugify(build.name) or "engine"
    if form == "csv":
        response = HttpResponse(exchange.as_csv(rows, session.method if session else "go_no_go"), content_type="text/csv; charset=utf-8")
    else:
        kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
        response = HttpResponse(exchange.as_xlsx(build, session, rows), content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}-clearances.{form}"'
    return response


def _text(request: HttpRequest) -> str:
    if "file" in request.FILES:
        return exchange.text_of(request.FILES["file"].read(exchange.LARGEST + 1))  # type: ignore[union-attr]
    return request.POST.get("text", "")


def _replaced(request: HttpRequest) -> dict[int, str]:
    """Revisions, by valve, of the readings that the person was shown and means to write over."""
    if request.POST.get("replace") != "yes":
        return {}
    return {int(name[5:]): str(text) for name, text in request.POST.items() if name.startswith("seen-") and name[5:].isdigit()}


@on_build
def take_in(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Readings from a CSV: first shown as they are understood, then kept."""
    refused, found, kept = "", None, 0
    if request.method == "POST":
        require_change(member)
        try:
            session = open_session(build)
            found = exchange.preview(_text(request), build, UnitSystem(member.user.unit_system), request.POST.dict(), session)
            if request.POST.get("act") == "keep":
                kept, refused = services.keep_many(member, build, [row for row in found.rows if not row.wrong], _replaced(request))
        except ValveTrainError as error:
            refused = f"{error} Nothing was kept."
        build = build_or_404(member.workshop, build.pk)
    context = _around(request, member, build, "in")
    context |= {"page": found, "refused": refused, "kept": kept, "fields": exchange.FIELDS}
    return render(request, "lash/in.html", context, status=422 if refused else 200)
