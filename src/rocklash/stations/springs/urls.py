"""The Springs & masses station."""

from django.urls import path

from rocklash.stations.springs import views

urlpatterns = [
    path("", views.springs, name="springs"),
    path("speed/", views.speed, name="spring-speed"),
    path("valves/", views.valves, name="spring-valves"),
    path("force/", views.force, name="spring-force"),
    path("part/<int:part>/", views.spring, name="spring"),
    path("part/<int:part>/tester/", views.tester, name="tester"),
    path("speed/learn/", views.learn, name="learn"),
]
