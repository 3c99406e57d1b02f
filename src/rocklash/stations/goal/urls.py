"""The Goal station."""

from django.urls import path

from rocklash.stations.goal import views

urlpatterns = [path("", views.goal, name="goal")]
