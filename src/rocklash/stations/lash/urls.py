"""The Lash station."""

from django.urls import path

from rocklash.stations.lash import views

urlpatterns = [path("", views.lash, name="lash")]
