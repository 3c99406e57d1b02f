"""The Choose station, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.stations.choose import views


def _state(bench: Bench) -> State:
    """Decided, searched, or not begun: what a search found is told on its page."""
    if bench.standing.chosen:
        return "done", "a set chosen"
    return ("work", "searched") if bench.standing.searched else ("none", "not begun")


STATION = Station(
    key="choose",
    name="Choose",
    number="6",
    order=6,
    prefix="choose/",
    state=_state,
    keeps=("side",),
    tabs=(
        ("choose", "Search"), ("choose-fits", "What goes together"), ("choose-materials", "Materials and form"), ("choose-deal", "Deal parts in hand"), ("choose-list", "To buy"),
        ("choose-family", "Sisters and family"),
    ),
    urls=[
        path("", views.choose, name="choose"),
        path("fits/", views.fits, name="choose-fits"),
        path("materials/", views.materials, name="choose-materials"),
        path("deal/", views.deal, name="choose-deal"),
        path("list/", views.to_buy, name="choose-list"),
        path("family/", views.family, name="choose-family"),
    ],
)  # fmt: skip
