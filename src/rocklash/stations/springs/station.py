"""The Springs & masses station, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.desk.states import DISAGREE, share_state
from rocklash.stations.springs import views
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis


def _state(bench: Bench) -> State:
    review = bench.result.review
    if review is None:
        return DISAGREE
    figures = []
    for done in review.completed.proposed_sides.values():
        figures += [figure for spring in done.springs for figure in spring.values()]
        figures += [done.fit["installed_height"], done.fit["retainer_to_seal"]]
        figures += [parts["mass"] for owner, parts in done.parts.items() if owner is not Owner.CAM]
    known = sum(figure.basis is not Basis.ESTIMATE for figure in figures)
    return share_state(known, len(figures)), f"{known} of {len(figures)} known"


STATION = Station(
    key="springs",
    name="Springs & masses",
    number="4",
    order=4,
    prefix="springs/",
    state=_state,
    tabs=(
        ("springs", "Stack & masses"),
        ("spring-speed", "At speed"),
        ("spring-valves", "Valve by valve"),
        ("spring-force", "Spring force and what it costs"),
    ),
    keeps=("side",),
    urls=[
        path("", views.springs, name="springs"),
        path("speed/", views.speed, name="spring-speed"),
        path("valves/", views.valves, name="spring-valves"),
        path("force/", views.force, name="spring-force"),
        path("new/<slug:slot>/", views.new_part, name="new-part"),
        path("part/<int:part>/", views.spring, name="spring"),
        path("part/<int:part>/tester/", views.tester, name="tester"),
        path("speed/learn/", views.learn, name="learn"),
    ],
)
