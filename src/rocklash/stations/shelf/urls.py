"""The shelf of a workshop."""

from django.urls import path

from rocklash.stations.shelf import views

urlpatterns = [
    path("shelf/", views.shelf, name="shelf"),
    path("shelf/new/<slug:kind>/", views.part, {"number": 0}, name="shelf-new"),
    path("shelf/part/<int:number>/", views.part, name="shelf-part"),
    path("shelf/picture/<int:number>.jpg", views.picture, name="shelf-picture"),
    path("shelf/bring-in/", views.bring_in, name="shelf-in"),
    path("shelf/parts.<slug:form>", views.out, name="shelf-out"),
]
