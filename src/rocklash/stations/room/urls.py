"""The Room station."""

from django.urls import path

from rocklash.stations.room import views

urlpatterns = [
    path("", views.room, name="room"),
    path("measure/", views.measure, name="room-measure"),
    path("over-rev/", views.over_rev, name="room-over-rev"),
    path("gearing/", views.gearing, name="room-gearing"),
]
