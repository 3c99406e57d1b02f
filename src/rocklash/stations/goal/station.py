"""The Goal station, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.desk.states import known_state
from rocklash.stations.goal import views

_KEYS = ("goal_rpm", "over_rev", "boost", "back_pressure")


def _state(bench: Bench) -> State:
    return known_state(bench.build.figures, _KEYS)


STATION = Station(
    key="goal",
    name="Goal",
    number="2",
    order=2,
    prefix="goal/",
    state=_state,
    tabs=(("goal", "Goal and fuel"), ("goal-breathing", "Breathing and effort")),
    urls=[path("", views.goal, name="goal"), path("breathing/", views.breathing, name="goal-breathing")],
)
