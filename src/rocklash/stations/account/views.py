"""Pages of people and workshops."""

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_required
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from rocklash.desk.access import in_shop
from rocklash.records.models import Membership
from rocklash.records.selectors.members import last_entries, members_of, memberships_of
from rocklash.stations.account import commands as services
from rocklash.stations.account.forms import InviteForm, PersonForm, SignInForm, StartForm

_BACKEND = "django.contrib.auth.backends.ModelBackend"


class SignIn(LoginView):
    """The door."""

    template_name = "account/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True
    extra_context = {"sign_up": settings.SELF_SIGN_UP}


@login_required
def home(request: HttpRequest) -> HttpResponse:
    """The board of the first workshop, or a word to somebody who has none."""
    first = memberships_of(request.user).first()  # type: ignore[arg-type]
    if first:
        return redirect("board", first.workshop.slug)
    return render(request, "ui/refused.html", {"title": "No workshop yet", "sentence": "Ask an owner for an invitation link."})


def start(request: HttpRequest) -> HttpResponse:
    """Start a workshop of one's own."""
    if not settings.SELF_SIGN_UP:
        raise Http404
    form = StartForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        member = services.start_workshop(form.cleaned_data["workshop"].strip(), form.cleaned_data["name"], form.cleaned_data["password"])
        login(request, member.user, backend=_BACKEND)
        return redirect("new-build", member.workshop.slug)
    return render(request, "account/start.html", {"form": form}, status=422 if form.errors else 200)


def join(request: HttpRequest, token: str) -> HttpResponse:
    """Join a workshop by link, as the person signed in or as a new one."""
    invitation = services.open_invitation(token)
    if invitation is None:
        context = {"title": "This invitation is over", "sentence": "It was used, or a week has passed. Ask the owner for a new link."}
        return render(request, "ui/refused.html", context, status=410)
    if request.user.is_authenticated and request.method == "POST":
        return redirect("board", services.accept(invitation, request.user).workshop.slug)
    form = PersonForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        member = services.join_as_new(invitation, form.cleaned_data["name"], form.cleaned_data["password"])
        login(request, member.user, backend=_BACKEND)
        return redirect("board", member.workshop.slug)
    return render(request, "account/join.html", {"form": form, "invitation": invitation}, status=422 if form.errors else 200)


@in_shop
def people(request: HttpRequest, member: Membership) -> HttpResponse:
    """Who belongs to the workshop; the owner invites here."""
    form = InviteForm(request.POST or None)
    link = ""
    if request.method == "POST" and form.is_valid():
        invitation = services.Invite(member, None, form.cleaned_data).run().made
        link = request.build_absolute_uri(f"/join/{invitation.token}/")
    context = {
        "heading": "People", "subheading": "", "member": member, "form": form, "link": link,
        "members": members_of(member.workshop), "entries": last_entries(member.workshop),
    }  # fmt: skip
    return render(request, "account/people.html", context)


def _back(request: HttpRequest) -> HttpResponse:
    target = request.POST.get("next", "/")
    return redirect(target if url_has_allowed_host_and_scheme(target, {request.get_host()}) else "/")


@login_required
@require_POST
def units(request: HttpRequest) -> HttpResponse:
    """Switch the unit system in place."""
    services.set_units(request.user, request.POST.get("system", ""))  # type: ignore[arg-type]
    return _back(request)


@login_required
@require_POST
def theme(request: HttpRequest) -> HttpResponse:
    """Switch light and dark in place."""
    services.set_theme(request.user, request.POST.get("theme", ""))  # type: ignore[arg-type]
    return _back(request)
