"""Addresses of the read-only records."""

from django.urls import path

from rocklash.stations.api import views

urlpatterns = [
    path("builds/", views.builds, name="api-builds"),
    path("builds/<int:number>/", views.build, name="api-build"),
    path("builds/<int:number>/checks/", views.checks, name="api-checks"),
    path("due/", views.due, name="api-due"),
    path("openapi.json", views.openapi, name="api-description"),
]
