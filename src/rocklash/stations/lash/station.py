"""The Lash station, in the registry."""

from django.urls import path

from rocklash.answers.clearances import lash_state, stale_sheet
from rocklash.desk.bench import Bench
from rocklash.desk.registry import State, Station
from rocklash.stations.lash import views


def _state(bench: Bench) -> State:
    if bench.session and any(each.void for each in stale_sheet(bench.build, bench.session).values()):
        return "work", "signed, now void" if bench.session.signed_at else "readings void"
    return lash_state(bench.session, len(bench.build.engine.positions.all()))


STATION = Station(
    key="lash",
    name="Lash",
    number="8",
    order=8,
    prefix="lash/",
    state=_state,
    tabs=(
        ("lash", "Read and plan"),
        ("lash-stops", "Crank positions"),
        ("lash-shelf", "Shelf"),
        ("lash-history", "History"),
        ("lash-in", "Import"),
    ),
    urls=[
        path("", views.lash, name="lash"),
        path("stops/", views.stops, name="lash-stops"),
        path("shelf/", views.shelf, name="lash-shelf"),
        path("history/", views.history, name="lash-history"),
        path("in/", views.import_readings, name="lash-in"),
        path("sheet.csv", views.sheet_file, {"form": "csv"}, name="lash-csv"),
        path("sheet.xlsx", views.sheet_file, {"form": "xlsx"}, name="lash-xlsx"),
    ],
)
