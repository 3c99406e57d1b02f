"""The Job station, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.stations.job import views

_STATES = {
    "written": ("work", "order being written"), "sent": ("waits", "at the machine shop"), "back": ("work", "back, to be checked"),
    "closed": ("done", "machine shop done"),
}  # fmt: skip


def _state(bench: Bench) -> State:
    """How far the machine shop is. The build's own row tells it, so that no page asks more for it."""
    return _STATES.get(getattr(bench.build, "at_shop", None) or "", ("none", "not begun"))


STATION = Station(
    key="job",
    name="Job",
    number="7",
    order=7,
    prefix="job/",
    state=_state,
    tabs=(("job", "Plan"), ("job-shop", "Machine shop")),
    urls=[
        path("", views.plan, name="job"),
        path("shop/", views.shop, name="job-shop"),
        path("shop/sheet/", views.sheet, name="job-sheet"),
        path("shop/machine-shop.csv", views.table, name="job-csv"),
    ],
)
