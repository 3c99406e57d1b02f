"""The verdict of a build, in the registry."""

from django.urls import path

from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.stations.overview import views
from valvetrain import wording


def _state(bench: Bench) -> State:
    review = bench.result.review
    if review is None:
        return "unproven", "figures disagree"
    return review.proposed.verdict.value, wording.verdict_word(review.proposed.verdict.value)


STATION = Station(
    key="overview",
    name="Overview",
    prefix="",
    order=0,
    state=_state,
    urls=[
        path("", views.overview, name="overview"),
        path("everything.zip", views.whole_build, name="whole-build"),
        path("file.json", views.build_file, name="build-file"),
        path("paper.css", views.paper_css, name="paper-css"),
        path("motion/", views.motion, name="motion"),
    ],
)
