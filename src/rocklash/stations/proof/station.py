"""The Proof station, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.stations.proof import views


def _state(bench: Bench) -> State:
    """Whether something is measured, before only or after too."""
    if bench.standing.proved:
        return "done", "measured after"
    return ("work", "measured before") if bench.standing.tested else ("none", "not begun")


STATION = Station(
    key="proof",
    name="Proof",
    number="9",
    order=9,
    prefix="proof/",
    state=_state,
    tabs=(
        ("proof", "At a glance"),
        ("proof-cylinders", "Cylinders"),
        ("proof-pulls", "Pulls"),
        ("proof-runs", "Runs"),
        ("proof-throttle", "Throttle"),
        ("proof-next", "Which test next"),
        ("proof-learn", "What it taught"),
        ("proof-failure", "After a failure"),
    ),
    urls=[
        path("", views.glance_view, name="proof"),
        path("cylinders/", views.cylinders_view, name="proof-cylinders"),
        path("pulls/", views.pulls_view, name="proof-pulls"),
        path("runs/", views.runs_view, name="proof-runs"),
        path("runs/samples/", views.samples_view, name="proof-samples"),
        path("throttle/", views.throttle_view, name="proof-throttle"),
        path("next/", views.next_view, name="proof-next"),
        path("learn/", views.learn_view, name="proof-learn"),
        path("failure/", views.failure_view, name="proof-failure"),
        path("failure/report.pdf", views.report_view, name="proof-report"),
        path("working/<int:test>/", views.working_view, name="proof-working"),
        path("file/<int:test>/", views.file_view, name="proof-file"),
        path("stand-in/<slug:what>/", views.stand_in_view, name="proof-stand-in"),
    ],
)
