"""The verdict of a build."""

from django.urls import path

from rocklash.stations.overview import views

urlpatterns = [
    path("", views.overview, name="overview"),
    path("file.json", views.build_file, name="build-file"),
    path("motion/", views.motion, name="motion"),
]
