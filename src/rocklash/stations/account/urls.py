"""Signing in, starting a workshop, joining one, and how a person likes to read."""

from django.contrib.auth.views import LogoutView
from django.urls import path

from rocklash.stations.account import reference, views

urlpatterns = [
    path("", views.home, name="home"),
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("start/", views.start, name="start"),
    path("join/<str:token>/", views.join, name="join"),
    path("reset/<str:uid>/<str:token>/", views.reset, name="reset"),
    path("account/", views.account, name="account"),
    path("glossary/", reference.glossary, name="glossary"),
    path("glossary/terms.json", reference.terms, name="terms"),
    path("keys/", reference.keys, name="keys"),
    path("formulas/", reference.formulas, name="formulas"),
    path("units/", views.units, name="units"),
    path("theme/", views.theme, name="theme"),
]
shop_urls = [path("people/", views.people, name="people"), path("people/journal/", views.audit, name="audit")]
