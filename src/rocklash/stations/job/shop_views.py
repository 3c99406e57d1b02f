"""The machine shop: what is asked of it, on the screen and on paper, and what came back."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.text import slugify

from rocklash.commands.facts import KeepWord
from rocklash.desk.access import on_build
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.shop import order_of, orders_before, readings_of
from rocklash.records.selectors.springs import valve_fits_of
from rocklash.stations.job.commands import shop as visit
from rocklash.stations.job.pages.shop import ShopPage, Wrong, shop_page
from valvetrain.formats.table_out import as_csv
from valvetrain.parts.engine import Side
from valvetrain.units import told

_SHOP = {
    "begin": visit.BeginOrder, "order": visit.KeepOrder, "step": visit.StepOrder, "measure": visit.KeepMeasure, "fact": KeepWord,
}  # fmt: skip


def _page(bench: Bench) -> tuple[ShopPage, dict[str, Any]]:
    order, command = order_of(bench.build), bench.command
    wrong = None
    if isinstance(command, visit.KeepMeasure) and bench.outcome and bench.outcome.refused:
        sent = [command.text(key, 80) for key in ("valve", "measure", "stage", "text")]
        wrong = Wrong(valve=sent[0], measure=sent[1], stage=sent[2], text=sent[3], sentence=told(bench.outcome.sentence, bench.system))
    fits = {
        fit.position_id: fit.protrusion for side in Side for fit in valve_fits_of(bench.build, side.value) if fit.protrusion is not None
    }
    readings = readings_of(order) if order else {}
    page = shop_page(bench.result, bench.build, order, readings, fits, bench.system, bench.field_error, wrong)
    return page, {"order": order}


@build_page("job", "job/shop.html", _SHOP)
def shop(bench: Bench) -> dict[str, Any]:
    """The order, the fits, each valve before and after."""
    page, shown = _page(bench)
    order = shown["order"]
    initial = {name: getattr(order, name) for name in ("works", "shop", "wanted", "note")} if order else {}
    shown |= {"page": page, "form": bench.form(visit.KeepOrder, **initial), "past": orders_before(bench.build, order)}
    beside = any(cell.error for cells in (page.head_cells, *(row.cells for row in page.rows)) for cell in cells)
    return shown | ({"refused": ""} if beside else {})


@build_page("job", "job/sheet.html", reads=True)
def sheet(bench: Bench) -> dict[str, Any]:
    """The same to print and send along with the head."""
    page, shown = _page(bench)
    return shown | {"page": page, "now": timezone.now()}


@on_build
def table(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """What was asked and measured, as CSV."""
    bench = Bench(request, member, build)
    page, _ = _page(bench)
    rows: list[tuple[str, ...]] = [("side", "what", "asked", "from")]
    for side in page.sides:
        rows += [(side.name, name, words, origin) for name, words, origin in side.targets]
        rows += [(side.name, f"{fit.name}: {name}", words, "computed") for fit in side.fits for name, words in fit.rows]
    rows += [(), ("valve", *(f"{name}, {stage}" for name, stage in page.heads))]
    rows += [(row.name, *(cell.value or cell.ghost for cell in row.cells)) for row in page.rows]
    answered = HttpResponse(as_csv(rows, ";"), content_type="text/csv; charset=utf-8")
    answered["Content-Disposition"] = f'attachment; filename="{slugify(build.name) or "build"}-machine-shop.csv"'
    return answered
