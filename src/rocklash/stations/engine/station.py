"""The Engine station, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.desk.states import known_state
from rocklash.stations.engine import views

_KEYS = (
    "bore",
    "stroke",
    "limiter",
    "peak",
    "clearance_intake_least",
    "clearance_intake_most",
    "clearance_exhaust_least",
    "clearance_exhaust_most",
)


def _state(bench: Bench) -> State:
    return known_state(bench.build.engine.figures, _KEYS)


STATION = Station(
    key="engine",
    name="Engine",
    number="1",
    order=1,
    prefix="engine/",
    state=_state,
    tabs=(("engine", "Engine and valves"), ("engine-papers", "Papers and pictures")),
    urls=[
        path("", views.engine, name="engine"),
        path("papers/", views.papers, name="engine-papers"),
        path("photo/<int:photo>.jpg", views.photo, name="engine-photo"),
    ],
)
