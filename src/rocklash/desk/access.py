"""The way into every page of a workshop: who is asking, in which workshop, on which build."""

from collections.abc import Callable
from functools import wraps
from typing import Any
from urllib.parse import urlencode, urlsplit

from django.contrib.auth.views import redirect_to_login
from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from rocklash.records.models import Build, Membership
from rocklash.records.selectors.builds import build_or_404
from rocklash.records.selectors.members import membership_or_404


def signed_out(request: HttpRequest) -> HttpResponse:
    """To the sign-in page, or for a request from within a page 401: a redirect would be followed, and its page taken for an answer."""
    if getattr(request, "htmx", False):
        where = urlencode({"next": urlsplit(request.headers.get("HX-Current-URL", "")).path or "/"})
        answer = HttpResponse(f"{reverse('sign-in')}?{where}", status=401, content_type="text/plain; charset=utf-8")
        answer["HX-Reswap"] = "none"
        return answer
    return redirect_to_login(request.get_full_path())


ShopView = Callable[..., HttpResponse]


def in_shop(view: ShopView) -> ShopView:
    """Hand the view the person's membership; strangers to the workshop get 404."""

    @wraps(view)
    def guarded(request: HttpRequest, shop: str, *args: Any, **kwargs: Any) -> HttpResponse:
        if not request.user.is_authenticated:
            return signed_out(request)
        member: Membership = membership_or_404(request.user, shop)
        return view(request, member, *args, **kwargs)

    return guarded


def on_build(view: ShopView) -> ShopView:
    """Hand the view membership and build; a build of another workshop answers 404."""

    @in_shop
    @wraps(view)
    def guarded(request: HttpRequest, member: Membership, number: int, *args: Any, **kwargs: Any) -> HttpResponse:
        build: Build = build_or_404(member.workshop, number)
        return view(request, member, build, *args, **kwargs)

    return guarded
