"""The Cams station, in the registry."""

from django.urls import path

from rocklash.answers.rows import side_rows
from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.desk.states import share_state
from rocklash.records.models import SetupRole
from rocklash.stations.cams import views


def _state(bench: Bench) -> State:
    cams = [row.cam for (role, _), row in side_rows(bench.build).items() if role == SetupRole.PROPOSED and row.cam]
    known = sum(
        bool(cam.lobe) or ("lift" in cam.figures and ("duration_1" in cam.figures or {"opens_1", "shuts_1"} <= cam.figures.keys()))
        for cam in cams
    )
    return share_state(known, len(cams)) if known else "none", f"{known} of {len(cams)} known"


STATION = Station(
    key="cams",
    name="Cams",
    number="3",
    order=3,
    prefix="cams/",
    state=_state,
    urls=[
        path("", views.cams, name="cams"),
        path("timing/", views.timing, name="cam-timing"),
        path("regrind/", views.regrind, name="cam-regrind"),
        path("regrind/out/<slug:form>/", views.regrind_out, name="cam-regrind-out"),
        path("lobe/<int:part>/", views.lobe, name="lobe"),
        path("lobe/<int:part>/wheel/", views.wheel, name="wheel"),
        path("lobe/<int:part>/out/<slug:form>/", views.out, name="lobe-out"),
    ],
)
