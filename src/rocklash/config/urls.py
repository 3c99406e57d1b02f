"""Every address of the site. Addresses of a workshop carry its slug, so that scoping is visible; those of a build come from the registry."""

from django.urls import include, path

from rocklash.desk import registry
from rocklash.desk.health import Health, ready
from rocklash.desk.history import figure_history
from rocklash.stations.account.urls import shop_urls
from rocklash.stations.logbook.urls import shop_urls as logbook_urls

handler400 = "rocklash.ui.refusals.bad"
handler500 = "rocklash.ui.refusals.broken"
handler403 = "rocklash.ui.refusals.forbidden"
handler404 = "rocklash.ui.refusals.not_found"

registry.discover()
urlpatterns = [
    path("health/", Health.as_view(), name="health"),
    path("ready/", ready, name="ready"),
    path("", include("rocklash.stations.account.urls")),
    path("shop/<slug:shop>/", include(shop_urls)),
    path("", include("rocklash.stations.logbook.urls")),
    path("api/v1/", include("rocklash.stations.api.urls")),
    path("shop/<slug:shop>/", include(logbook_urls)),
    path("shop/<slug:shop>/", include("rocklash.stations.board.urls")),
    path("shop/<slug:shop>/", include("rocklash.stations.shelf.urls")),
    path("shop/<slug:shop>/build/<int:number>/figure/<slug:holder>/<slug:key>/", figure_history, name="figure-history"),
    *registry.addresses(),
]
