"""Papers as PDF: laid out by a worker, asked for again while they are; and pictures that travel inside them."""

import base64
from collections.abc import Callable, Iterable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.text import slugify

from rocklash.answers.documents import ask_pdf, pdf_by_key, wait_for_pdf
from rocklash.answers.tasks import Ready, Running, workers_run
from rocklash.records.models import Build, Membership
from rocklash.records.models.photos import Picture


def inline(pictures: Iterable[Picture]) -> dict[int, str]:
    """Pictures as addresses that hold them, for a paper that is laid out elsewhere."""
    return {row.pk: "data:image/jpeg;base64," + base64.b64encode(bytes(row.data)).decode() for row in pictures}


def paper(request: HttpRequest, member: Membership, build: Build, lay_out: Callable[[], str], *, name: str, making: str) -> HttpResponse:
    """The paper, or the page `making` that asks for it again; `lay_out` gives its HTML where it was not asked for yet."""
    key = request.GET.get("key", "")
    asked = pdf_by_key(build.pk, key) if key else None
    if asked is None:
        key, asked = ask_pdf(build.pk, lay_out())
    if isinstance(asked, Running) and not workers_run():
        asked = wait_for_pdf(build.pk, key)
    if isinstance(asked, Ready):
        response = HttpResponse(asked.value, content_type="application/pdf")
        response["Content-Disposition"] = f'inline; filename="{slugify(build.name) or "build"}-{name}.pdf"'
        return response
    share = asked.share if isinstance(asked, Running) else 0.0
    return render(request, making, {"key": key, "share": share, "member": member, "build": build, "heading": build.name})
