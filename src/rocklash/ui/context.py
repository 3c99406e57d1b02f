"""What every template knows of the person."""

from django.http import HttpRequest

import rocklash


def person(request: HttpRequest) -> dict[str, str]:
    """Unit system and theme of the person, or the defaults of a stranger."""
    user = getattr(request, "user", None)
    return {
        "unit_system": user.unit_system if user and user.is_authenticated else "metric",
        "theme": user.theme if user and user.is_authenticated else "auto",
        "version": rocklash.__version__,
        "layout": "ui/part.html" if getattr(request, "htmx", False) else "ui/full.html",
    }
