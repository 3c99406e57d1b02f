"""The Springs & masses station."""

from django.urls import path

from rocklash.stations.springs import views

urlpatterns = [
    path("", views.springs, name="springs"),
    path("speed/", views.speed, name="spring-speed"),
    path("speed/learn/", views.learn, name="learn"),
]
