"""The engine's make-up, its figures and its valves."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404

from rocklash.commands.facts import KeepWord
from rocklash.desk.access import on_build
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.desk.words import engine_facts
from rocklash.records.models import Build, Membership, Photo
from rocklash.records.selectors.photos import photos_of
from rocklash.stations.engine import commands
from rocklash.stations.engine.pages.engine import ValveError, detail_keys, engine_page
from rocklash.stations.engine.pages.papers import papers_page
from valvetrain.units import told

_ENGINE = {"fact": KeepWord, "valve": commands.KeepDeviation, "layout": commands.CorrectLayout}
_PAPERS = {
    "fact": KeepWord,
    "identity": commands.KeepIdentity,
    "page": commands.KeepPage,
    "photo": commands.AddPhoto,
    "drop photo": commands.RemovePhoto,
}


@build_page("engine", "engine/engine.html", _ENGINE, usual="valve")
def engine(bench: Bench) -> dict[str, Any]:
    """Make-up, figures, and how each valve's spring stands."""
    command, outcome, wrong = bench.command, bench.outcome, None
    if isinstance(command, commands.KeepDeviation) and outcome and outcome.refused:
        number = int(command.text("valve")) if command.text("valve").isdigit() else 0
        wrong = ValveError(valve=number, text=command.text("text"), sentence=told(outcome.sentence, bench.system))
    page = engine_page(bench.result, bench.build, bench.system, bench.field_error, wrong)
    facts = engine_facts(bench.build, ("holds_limiter_intake", "holds_limiter_exhaust"))
    layout = bench.form(commands.CorrectLayout, seen=commands.seen_of(bench.build.engine, *commands.CorrectLayout.columns))
    sure = isinstance(command, commands.CorrectLayout) and bench.made == "sure"
    return {
        "page": page,
        "facts": facts,
        "layout_form": layout,
        "sure": sure,
        "detail": engine_facts(bench.build, detail_keys(bench.build)),
    } | ({"refused": ""} if wrong else {})


@build_page("engine", "engine/papers.html", _PAPERS)
def papers(bench: Bench) -> dict[str, Any]:
    """What stands on and beside the engine: numbers, owner, what its maker allows, photographs."""
    page = papers_page(bench.result, bench.build, bench.system, bench.field_error)
    identity = bench.form(
        commands.KeepIdentity,
        seen=commands.seen_of(bench.build.engine, *commands.KeepIdentity.columns),
        **{name: getattr(bench.build.engine, name) for name in commands.KeepIdentity.columns},
    )
    return {"page": page, "identity": identity, "facts": engine_facts(bench.build, ("fuel",)), "photos": photos_of(bench.build)}


@on_build
def photo(request: HttpRequest, member: Membership, build: Build, photo: int) -> HttpResponse:  # noqa: ARG001  (the door has let them in)
    """One photograph, to nobody but the members of its workshop."""
    row = get_object_or_404(Photo, engine=build.engine_id, pk=photo)
    answer = HttpResponse(bytes(row.data), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=3600"
    return answer
