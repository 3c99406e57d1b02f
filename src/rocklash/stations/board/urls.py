"""The board of a workshop, and new builds."""

from django.urls import path

from rocklash.stations.board import views

urlpatterns = [
    path("", views.board, name="board"),
    path("search/", views.search_all, name="search"),
    path("new/", views.new_build, name="new-build"),
    path("door/<slug:why>/<int:number>/", views.door, name="door"),
    path("everything.zip", views.whole_workshop, name="whole-workshop"),
    path("import/", views.import_build, name="import-build"),
]
