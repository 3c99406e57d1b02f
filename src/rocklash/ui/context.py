"""What every template knows of the person."""

from django.http import HttpRequest

import rocklash


def person(request: HttpRequest) -> dict[str, str | bool]:
    """Units, theme, paper and keys of the person, or the defaults of a stranger."""
    user = getattr(request, "user", None)
    known = user if user and user.is_authenticated else None
    return {
        "paper": known.paper if known else "A4",
        "single_keys": known.single_keys if known else True,
        "unit_system": user.unit_system if user and user.is_authenticated else "metric",
        "theme": user.theme if user and user.is_authenticated else "auto",
        "version": rocklash.__version__,
        "layout": "ui/part.html" if getattr(request, "htmx", False) else "ui/full.html",
    }
