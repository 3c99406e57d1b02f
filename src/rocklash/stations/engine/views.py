"""The engine's make-up, its figures and its valves."""

from typing import Any

from rocklash.commands.facts import KeepWord
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.desk.words import engine_facts
from rocklash.stations.engine.commands import KeepDeviation
from rocklash.stations.engine.pages.engine import ValveError, detail_keys, engine_page
from valvetrain.units import told


@build_page("engine", "engine/engine.html", {"fact": KeepWord, "valve": KeepDeviation}, usual="valve")
def engine(bench: Bench) -> dict[str, Any]:
    """Make-up, figures, and how each valve's spring stands."""
    command, outcome, wrong = bench.command, bench.outcome, None
    if isinstance(command, KeepDeviation) and outcome and outcome.refused:
        number = int(command.text("valve")) if command.text("valve").isdigit() else 0
        wrong = ValveError(valve=number, text=command.text("text"), sentence=told(outcome.sentence, bench.system))
    page = engine_page(bench.result, bench.build, bench.system, bench.field_error, wrong)
    facts = engine_facts(bench.build, ("holds_limiter_intake", "holds_limiter_exhaust"))
    return {"page": page, "facts": facts, "detail": engine_facts(bench.build, detail_keys(bench.build))} | (
        {"refused": ""} if wrong else {}
    )
