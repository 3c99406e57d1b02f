"""The Springs & masses station."""

from django.urls import path

from rocklash.stations.springs import views

urlpatterns = [
    path("", views.springs, name="springs"),
    path("speed/", views.speed, name="spring-speed"),
    path("part/<int:part>/", views.spring, name="spring"),
    path("part/<int:part>/tester/", views.tester, name="tester"),
    path("speed/learn/", views.learn, name="learn"),
]
