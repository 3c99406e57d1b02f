"""The Room station, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.desk.states import DISAGREE
from rocklash.stations.room import views
from valvetrain.parts.gaps import GapKind


def _state(bench: Bench) -> State:
    review = bench.result.review
    if review is None:
        return DISAGREE
    gaps = sum(check.code in (GapKind.COIL_BIND, GapKind.RETAINER) for check in review.proposed.checks)
    known = sum(how != "estimate" for how in review.room.how.values()) + gaps
    total = len(review.room.checks) + gaps
    return ("done" if known == total else "work" if known > gaps else "none"), f"{known} of {total} gaps"


STATION = Station(
    key="room",
    name="Room",
    number="5",
    order=5,
    prefix="room/",
    state=_state,
    tabs=(("room", "Every gap"), ("room-measure", "Measure"), ("room-over-rev", "Over-rev"), ("room-gearing", "Gearing")),
    urls=[
        path("", views.room, name="room"),
        path("measure/", views.measure, name="room-measure"),
        path("over-rev/", views.over_rev, name="room-over-rev"),
        path("gearing/", views.gearing, name="room-gearing"),
    ],
)
