"""Sentences for requests that are refused before a view is reached."""

import sys

from django.core.exceptions import RequestDataTooBig
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string


def csrf(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A form without its token: usually the page was open while the person signed out and in again."""
    context = {
        "title": "This page is too old",
        "sentence": "You signed in again since it was opened. Reload it and send the form once more; what you typed is still in it.",
    }
    return render(request, "ui/refused.html", context | {"reason": reason}, status=403)


def forbidden(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """A signed-in person without the right to do this."""
    sentence = str(exception) if exception and str(exception) else "You may not do this here."
    return render(request, "ui/refused.html", {"title": "Not yours to change", "sentence": sentence}, status=403)


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:  # noqa: ARG001
    """An address that leads nowhere, or to another workshop."""
    return render(
        request,
        "ui/refused.html",
        {"title": "Nothing here", "sentence": "This address leads nowhere, or to a workshop you do not belong to."},
        status=404,
    )


def _page(request: HttpRequest, title: str, sentence: str, status: int) -> HttpResponse:
    """A refusal that needs neither database nor session: it is also told where they are what failed."""
    name = getattr(request, "name", "")
    return HttpResponse(
        render_to_string("ui/plain.html", {"title": title, "sentence": sentence, "name": name, "status": status}), status=status
    )


_WRONG = {
    400: (
        "This cannot be read",
        "The address or what was sent with it holds signs that no page knows. Go back; what you typed is still there.",
    ),
    409: ("Somebody was there first", "What you changed was changed meanwhile. Go back, look at it as it is now, and send it again."),
    429: ("Too often", "So many tries in so short a time are not taken. Wait a quarter of an hour."),
}


def gone_wrong(request: HttpRequest, status: int) -> HttpResponse:
    """A request that cannot be read, came too late, or too often."""
    return _page(request, *_WRONG[status], status)


def bad(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """A request that cannot be read, or is too large to be."""
    return too_large(request) if isinstance(exception, RequestDataTooBig) else gone_wrong(request, 400)


def too_large(request: HttpRequest) -> HttpResponse:
    """More than the site takes at once."""
    return _page(
        request,
        "This is too large",
        "More was sent at once than is taken. A file of a recording or a workshop may have 400 MB; send it alone.",
        413,
    )


def without_database(request: HttpRequest) -> HttpResponse:
    """The database does not answer."""
    sentence = (
        "The database does not answer just now. Nothing you typed was lost: it stays in this browser and is sent when the site is back. "
        "Reload in a minute; whoever runs the server finds the reason in its log."
    )
    answer = _page(request, "The records are not there just now", sentence, 503)
    answer["Retry-After"] = "30"
    return answer


def broken(request: HttpRequest) -> HttpResponse:
    """A fault of the site's own, or of a database that does not answer."""
    if isinstance(sys.exc_info()[1], (OperationalError, InterfaceError)):
        return without_database(request)
    sentence = (
        "This is a fault of the site, not yours. Nothing of what you sent was saved; it is still in the form. Go back and try once more."
    )
    return _page(request, "Something broke", sentence, 500)
