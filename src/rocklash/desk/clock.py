"""Each person's own clock: hours and days are told in their time zone, or else in that of the device, which says so in a cookie."""

import zoneinfo
from collections.abc import Callable
from functools import cache

from django.http import HttpRequest, HttpResponse
from django.utils import timezone


@cache
def zones() -> frozenset[str]:
    """Names of time zones that are known here."""
    return frozenset(name for name in zoneinfo.available_timezones() if "/" in name or name == "UTC")


def zone_of(request: HttpRequest) -> zoneinfo.ZoneInfo | None:
    """The zone that a person chose, or their device tells; None where neither names one that is known."""
    user = getattr(request, "user", None)
    chosen = user.time_zone if user is not None and user.is_authenticated else ""
    name = chosen or request.COOKIES.get("zone", "").replace("%2F", "/")
    return zoneinfo.ZoneInfo(name) if name in zones() else None


def by_the_persons_clock(answer: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Answer each request in the time zone of whoever asks."""

    def middleware(request: HttpRequest) -> HttpResponse:
        zone = zone_of(request)
        if zone is None:
            return answer(request)
        with timezone.override(zone):
            return answer(request)

    return middleware
