"""The round of a simulated instrument over a part: begun, stopped, asked how far it is."""

from django.http import HttpRequest

from rocklash.answers.instruments import RunState, newest_state
from rocklash.commands.instruments import BeginRun, EndRun
from rocklash.desk.bench import Bench
from rocklash.desk.page import act_of, run_sent
from rocklash.records.models import Part


def instrument_round(request: HttpRequest, bench: Bench, part: Part) -> RunState | None:
    """Do what was sent, and see what was read until now; None before the first run."""
    if request.method == "POST":
        run_sent(bench, {"begin": BeginRun, "stop": EndRun}.get(act_of(request)), part)
    return newest_state(part)
