"""The Cams station."""

from django.urls import path

from rocklash.stations.cams import views

urlpatterns = [
    path("", views.cams, name="cams"),
    path("timing/", views.timing, name="cam-timing"),
    path("lobe/<int:part>/", views.lobe, name="lobe"),
    path("lobe/<int:part>/wheel/", views.wheel, name="wheel"),
    path("lobe/<int:part>/out/<slug:form>/", views.out, name="lobe-out"),
]
