"""The Lash station."""

from django.urls import path

from rocklash.stations.lash import views

urlpatterns = [
    path("", views.lash, name="lash"),
    path("stops/", views.stops, name="lash-stops"),
    path("shelf/", views.shelf, name="lash-shelf"),
    path("history/", views.history, name="lash-history"),
    path("in/", views.take_in, name="lash-in"),
    path("sheet.csv", views.sheet_file, {"form": "csv"}, name="lash-csv"),
    path("sheet.xlsx", views.sheet_file, {"form": "xlsx"}, name="lash-xlsx"),
]
