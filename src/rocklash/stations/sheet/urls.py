"""The build sheet for the wall."""

from django.urls import path

from rocklash.stations.sheet import views

urlpatterns = [path("", views.sheet, name="sheet"), path("build-sheet.pdf", views.sheet_pdf, name="sheet-pdf")]
