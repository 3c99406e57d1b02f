"""The way into every page of a workshop: who is asking, in which workshop, on which build."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse

from rocklash.records.models import Build, Membership
from rocklash.records.selectors.builds import build_or_404
from rocklash.records.selectors.members import membership_or_404

ShopView = Callable[..., HttpResponse]


def in_shop(view: ShopView) -> ShopView:
    """Hand the view the person's membership; strangers to the workshop get 404."""

    @login_required
    @wraps(view)
    def guarded(request: HttpRequest, shop: str, *args: Any, **kwargs: Any) -> HttpResponse:
        member: Membership = membership_or_404(request.user, shop)  # type: ignore[arg-type]
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
