"""The Cams station."""

from django.urls import path

from rocklash.stations.cams import views

urlpatterns = [path("", views.cams, name="cams")]
