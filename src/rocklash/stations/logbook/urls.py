"""Addresses of the logbook that are of a whole workshop, and of its calendar."""

from django.urls import path

from rocklash.stations.logbook.shop import views

shop_urls = [
    path("ran/", views.ran, name="ran"),
    path("due/", views.due, name="due"),
    path("week/", views.week, name="week"),
]
urlpatterns = [path("calendar/<str:secret>.ics", views.feed, name="due-calendar")]
