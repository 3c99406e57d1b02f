"""The Logbook station, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.stations.logbook import views


def _state(bench: Bench) -> State:
    """Whether hours are kept."""
    return ("done", "hours recorded") if bench.standing.ran else ("none", "not begun")


STATION = Station(
    key="logbook",
    name="Logbook",
    number="10",
    order=10,
    prefix="logbook/",
    state=_state,
    tabs=(
        ("logbook", "Time line"),
        ("logbook-due", "What is due"),
        ("logbook-parts", "Parts and springs"),
        ("logbook-wear", "What a use takes"),
    ),
    urls=[
        path("", views.timeline_view, name="logbook"),
        path("history.pdf", views.history, name="logbook-history"),
        path("picture/<int:picture>.jpg", views.picture, name="logbook-picture"),
        path("due/", views.due_view, name="logbook-due"),
        path("parts/", views.parts_view, name="logbook-parts"),
        path("wear/", views.wear_view, name="logbook-wear"),
    ],
)
