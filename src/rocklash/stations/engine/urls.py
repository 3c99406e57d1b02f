"""The Engine station."""

from django.urls import path

from rocklash.stations.engine import views

urlpatterns = [path("", views.engine, name="engine")]
