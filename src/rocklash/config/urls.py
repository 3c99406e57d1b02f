"""Every address of the site. Addresses of a workshop carry its slug, so that scoping is visible."""

from django.urls import include, path

from rocklash.stations.account.urls import shop_urls

handler403 = "rocklash.ui.refusals.forbidden"
handler404 = "rocklash.ui.refusals.not_found"

urlpatterns = [
    path("", include("rocklash.stations.account.urls")),
    path("shop/<slug:shop>/", include(shop_urls)),
    path("shop/<slug:shop>/", include("rocklash.stations.board.urls")),
    path("shop/<slug:shop>/build/<int:number>/", include("rocklash.stations.overview.urls")),
    path("shop/<slug:shop>/build/<int:number>/engine/", include("rocklash.stations.engine.urls")),
    path("shop/<slug:shop>/build/<int:number>/goal/", include("rocklash.stations.goal.urls")),
    path("shop/<slug:shop>/build/<int:number>/cams/", include("rocklash.stations.cams.urls")),
    path("shop/<slug:shop>/build/<int:number>/springs/", include("rocklash.stations.springs.urls")),
    path("shop/<slug:shop>/build/<int:number>/room/", include("rocklash.stations.room.urls")),
    path("shop/<slug:shop>/build/<int:number>/lash/", include("rocklash.stations.lash.urls")),
    path("shop/<slug:shop>/build/<int:number>/sheet/", include("rocklash.stations.sheet.urls")),
]
