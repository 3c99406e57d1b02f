"""The build sheet, in the registry."""

from django.urls import path

from rocklash.desk.registry import Station
from rocklash.stations.sheet import views

STATION = Station(
    key="sheet",
    name="Build sheet",
    order=90,
    prefix="sheet/",
    urls=[path("", views.sheet, name="sheet"), path("build-sheet.pdf", views.sheet_pdf, name="sheet-pdf")],
)
