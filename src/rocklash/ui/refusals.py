"""Sentences for requests that are refused before a view is reached."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


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
