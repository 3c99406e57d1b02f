"""What anybody may read: the terms, the keys, and every formula."""

import re
from functools import cache
from pathlib import Path

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils.safestring import SafeString, mark_safe

import rocklash
from rocklash.ui.keys import KEYS
from valvetrain.wording.glossary import TOPICS

_REFERENCE = Path(rocklash.__file__).parents[2] / "docs/formulas.html"


def glossary(request: HttpRequest) -> HttpResponse:
    """Terms of the bench, each in one line."""
    return render(request, "account/glossary.html", {"heading": "Glossary", "subheading": "", "topics": TOPICS})


@cache
def _terms() -> list[dict[str, object]]:
    """Terms with the words by which a page calls them: the parts of their name, plain."""
    found: list[dict[str, object]] = []
    for _, terms in TOPICS:
        for term in terms:
            words = [term.name] if "(" in term.name else [part.strip() for part in term.name.split(",")]
            found.append({"key": term.key, "name": term.name, "line": term.line, "words": words})
    return found


def terms(request: HttpRequest) -> JsonResponse:  # noqa: ARG001
    """The same for scripts, which explain a term where it first stands on a page."""
    answer = JsonResponse(_terms(), safe=False)
    answer["Cache-Control"] = "public, max-age=86400"
    return answer


def keys(request: HttpRequest) -> HttpResponse:
    """Every key that does something, by page."""
    return render(request, "account/keys.html", {"heading": "Keys", "subheading": "", "places": KEYS})


@cache
def _formulas() -> SafeString:
    """The reference that is written from the code and ships beside it, without its own head; every heading can be led to."""
    text = _REFERENCE.read_text(encoding="utf-8")
    text = re.sub(r"<(h[23]|p|section) (id|class)=([\w-]+)>", r'<\1 \2="\3">', text[text.index("</h1>") + 5 :])
    return mark_safe(text.replace("<pre>", '<pre tabindex="0">'))  # noqa: S308  (our own file, written by tools/reference.py)


def formulas(request: HttpRequest) -> HttpResponse:
    """Every formula the bench computes with."""
    return render(request, "account/formulas.html", {"heading": "How it is computed", "subheading": "", "reference": _formulas()})
