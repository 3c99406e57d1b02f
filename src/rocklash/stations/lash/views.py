"""Clearances: stops, readings, plan, re-check, signature; the shelf, the history, files in and out."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify

from rocklash.answers.clearances import card_clearances, limits_known, statuses
from rocklash.answers.results import result_of
from rocklash.answers.stops import firing_text, stops_of
from rocklash.answers.wear import trends_of, warm_of
from rocklash.commands.base import number_of
from rocklash.commands.facts import KeepWord
from rocklash.commands.figures import KeepFigure
from rocklash.desk.access import on_build
from rocklash.desk.bench import Bench
from rocklash.desk.fields import field_views
from rocklash.desk.page import build_page
from rocklash.desk.words import engine_facts
from rocklash.records.models import Build, ClearanceSession, Membership, Part
from rocklash.records.selectors.builds import last_session, parts_that_fit, with_readings
from rocklash.records.selectors.clearances import sheets_of, shim_moves_of, shims_for, shims_of
from rocklash.stations.lash import exchange
from rocklash.stations.lash.commands import readings, sheet
from rocklash.stations.lash.commands import shelf as shelf_commands
from rocklash.stations.lash.pages.history import history_page
from rocklash.stations.lash.pages.lash import Asked, Refusal, lash_page, limit_fields
from rocklash.stations.lash.pages.plan import stop_view
from valvetrain.parts.catalogue import Owner
from valvetrain.units import QuantityKind, unit_symbol

_LASH = {
    "read": readings.KeepReading,
    "instrument": sheet.ReadByInstrument,
    "again": readings.BeginAgain,
    "take back": readings.TakeBack,
    "manner": sheet.SetMethod,
    "pin": sheet.SetPin,
    "recheck": readings.BeginRecheck,
    "sign": readings.SignOff,
    "fact": KeepWord,
}
_SHELF = {"put": shelf_commands.PutOnShelf, "take": shelf_commands.TakeFromShelf, "shape": shelf_commands.SetShape}


def _asked(bench: Bench) -> Asked:
    """Which valve the page goes on with, and what of a reading was refused."""
    command, outcome = bench.command, bench.outcome
    if command is None or outcome is None:
        text = bench.request.GET.get("valve", "")
        return Asked(valve=number_of(text) if text else None)
    refusal = Refusal(sent=command.sent, sentences=bench.wrong) if isinstance(command, readings.KeepReading) and outcome.fields else None
    if isinstance(command, readings.TakeBack):
        valve = bench.made if isinstance(bench.made, int) else None
        return Asked(valve=valve, after=valve)
    after = number_of(command.text("valve")) if isinstance(command, readings.KeepReading) else None
    return Asked(valve=after if refusal else None, after=after, refusal=refusal)


@build_page("lash", "lash/lash.html", _LASH, fold=True)
def lash(bench: Bench) -> dict[str, Any]:
    """The station. The swap plan is made when the page asks for it."""
    if isinstance(bench.made, ClearanceSession):  # the sheet a reading went into is at hand
        bench.session = with_readings(bench.made)
    asked, build, query = _asked(bench), bench.build, bench.request.GET
    compute = "plan" in query or isinstance(bench.command, sheet.SetPin)
    page = lash_page(bench.result, build, bench.member, bench.session, asked, shims_for(build), compute=compute)
    shown = {"page": page, "sentence": "" if asked.refusal else bench.refused, "action": bench.request.path}
    if isinstance(bench.command, KeepFigure) or "limits" in query or not limits_known(build):
        shown["limits"] = limit_fields(bench.result, build, bench.system, bench.field_error)
    differ = [f"clearance_from_{each.side}" for each in card_clearances(build, bench.result)]
    return shown | {"facts": engine_facts(build, tuple(differ))}


@build_page("lash", "lash/stops.html", {"firing": sheet.SetFiring}, usual="firing", fold=True)
def stops(bench: Bench) -> dict[str, Any]:
    """Where to stop the crank, by the firing order, with the manual's note."""
    note = bench.build.engine.clearance_note
    page = stop_view(stops_of(bench.result, bench.build), None, note, bench.build.engine.gear)
    typed = bench.request.POST if bench.refused else {"firing": firing_text(bench.build), "lash_note": note}
    return {"page": page, "typed": typed, "was": {"firing": firing_text(bench.build), "lash_note": note}}


@build_page("lash", "lash/shelf.html", _SHELF, usual="put", fold=True)
def shelf(bench: Bench) -> dict[str, Any]:
    """Shims on the shelf, and what moved there."""
    shop, unit = bench.member.workshop, unit_symbol(QuantityKind.LENGTH, bench.system)
    return {"form": bench.form(shelf_commands.PutOnShelf), "rows": shims_of(shop), "moves": shim_moves_of(shop), "unit": unit}


def _of_history(bench: Bench, act: str, _: dict[str, Any]) -> Part | None:
    return get_object_or_404(parts_that_fit(bench.build), pk=number_of(bench.request.POST.get("part", ""))) if act == "fact" else None


@build_page("lash", "lash/history.html", {"fact": KeepWord}, fold=True, target=_of_history)
def history(bench: Bench) -> dict[str, Any]:
    """Wear over the hours and what warming does."""
    build, result, sheets = bench.build, bench.result, sheets_of(bench.build)
    page = history_page(build, trends_of(build, result, sheets), warm_of(result), len(sheets), bench.system)
    engine = result.review.completed.engine if result.review else None
    fields = field_views("engine", Owner.ENGINE, ["seat_to_cam"], build.engine.figures, engine, bench.system, bench.field_error)
    return {"page": page, "fields": fields}


@on_build
def sheet_file(request: HttpRequest, member: Membership, build: Build, form: str) -> HttpResponse:  # noqa: ARG001 (a page of the build)
    """The last sheet as CSV or XLSX."""
    session = last_session(build)
    rows = statuses(build, session, result_of(build))
    name = slugify(build.name) or "engine"
    if form == "csv":
        response = HttpResponse(
            exchange.as_csv(rows, session.method if session else "go_no_go", practice=build.practice),
            content_type="text/csv; charset=utf-8",
        )
    else:
        kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
        response = HttpResponse(exchange.as_xlsx(build, session, rows), content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}-clearances.{form}"'
    return response


@build_page("lash", "lash/in.html", {"look": readings.LookAtReadings, "keep": readings.ImportReadings}, usual="look", fold=True)
def import_readings(bench: Bench) -> dict[str, Any]:
    """Readings from a table: first shown as they are understood, then kept."""
    found = getattr(bench.command, "found", None)
    kept = bench.made if isinstance(bench.made, int) else 0
    return {"page": found, "kept": kept, "fields": exchange.FIELDS}
