"""Pages of people and workshops."""

import base64
import io
from typing import Any
from urllib.parse import urlsplit

import segno
from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_required
from django.contrib.auth.views import LoginView
from django.core.paginator import Paginator
from django.forms import model_to_dict
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST
from django_otp import login as otp_login

from rocklash.answers.backup import newest
from rocklash.commands.base import Command, Outcome, number_of, require_owner
from rocklash.desk.access import in_shop
from rocklash.desk.bounds import caller
from rocklash.records.models import Membership, Role, User
from rocklash.records.selectors.members import (
    door_tries,
    journal_page,
    last_entries,
    members_of,
    memberships_of,
    note_door_try,
    open_invitations,
    sessions_of,
)
from rocklash.stations.account import commands as services
from rocklash.stations.account.forms import (
    ChangePasswordForm,
    InviteForm,
    MailForm,
    NewPasswordForm,
    PersonForm,
    ReadingForm,
    SignInForm,
    StartForm,
)
from rocklash.ui.refusals import gone_wrong
from valvetrain.formats.table_out import as_csv

_BACKEND = "django.contrib.auth.backends.ModelBackend"
_STARTS = 10  # workshops an hour from one address
_KNOWN = 365 * 24 * 3600  # s a device counts as known


def _enter(request: HttpRequest, user: User) -> None:
    """Sign a person in, and keep where."""
    login(request, user, backend=_BACKEND)
    if device := getattr(user, "otp_device", None):
        otp_login(request, device)
    services.note_session(user, request.session.session_key or "", request.headers.get("User-Agent", ""))


def _knows(request: HttpRequest, response: HttpResponse, user: User) -> HttpResponse:
    """From here on this device is one that this person has used."""
    names = [
        name for name in str(request.get_signed_cookie("known", "", salt="known-device")).split("\n") if name and name != user.username
    ][-4:]
    response.set_signed_cookie(
        "known",
        "\n".join([*names, user.username]),
        salt="known-device",
        max_age=_KNOWN,
        httponly=True,
        samesite="Lax",
        secure=settings.SESSION_COOKIE_SECURE,
    )
    return response


class SignIn(LoginView):
    """The door; asked from within a page it is a form over that page, and answers 204 when it has opened."""

    template_name = "account/sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True
    extra_context = {"sign_up": settings.SELF_SIGN_UP}

    def get_template_names(self) -> list[str]:
        """The form alone within a page."""
        return ["account/sign_in_here.html"] if self._within else [self.template_name]

    @property
    def _within(self) -> bool:
        return self.request.headers.get("X-In-Place") == "yes"

    def form_valid(self, form: Any) -> HttpResponse:
        """In, and kept where."""
        user = form.get_user()
        _enter(self.request, user)
        answer = HttpResponse(status=204) if self._within else redirect(self.get_success_url())
        answer["X-Person"] = str(user.pk)
        return _knows(self.request, answer, user)

    def form_invalid(self, form: Any) -> HttpResponse:
        """Within a page the refusal stands in the form."""
        answer = super().form_invalid(form)
        if self._within:
            answer.status_code = 422
        return answer


@login_required
def home(request: HttpRequest) -> HttpResponse:
    """The board of the first workshop, or a word to somebody who has none."""
    first = memberships_of(request.user).first()  # type: ignore[arg-type]
    if first:
        return redirect("board", first.workshop.slug)
    return render(request, "ui/refused.html", {"title": "No workshop yet", "sentence": "Ask an owner for an invitation link."})


def start(request: HttpRequest) -> HttpResponse:
    """Start a workshop of one's own; so many an hour from one address."""
    if not settings.SELF_SIGN_UP:
        raise Http404
    form = StartForm(request.POST or None)
    if request.method == "POST":
        if door_tries(caller(request)) >= _STARTS:
            return gone_wrong(request, 429)
        note_door_try(caller(request))
        if form.is_valid():
            try:
                member = services.start_workshop(form.cleaned_data["workshop"], form.cleaned_data["name"], form.cleaned_data["password"])
            except services.NameTakenError as error:
                form.add_error("name", str(error))
            else:
                _enter(request, member.user)
                return _knows(request, redirect("new-build", member.workshop.slug), member.user)
    return render(request, "account/start.html", {"form": form}, status=422 if form.errors else 200)


def join(request: HttpRequest, token: str) -> HttpResponse:
    """Join a workshop by link, as the person signed in or as a new one."""
    invitation = services.open_invitation(token)
    if invitation is None:
        context = {
            "title": "This invitation is over",
            "sentence": "It was used or withdrawn, or a week has passed. Ask the owner for a new link.",
        }
        return render(request, "ui/refused.html", context, status=410)
    if request.user.is_authenticated and request.method == "POST":
        return redirect("board", services.accept(invitation, request.user).workshop.slug)
    form = PersonForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            member = services.join_as_new(invitation, form.cleaned_data["name"], form.cleaned_data["password"])
        except services.NameTakenError as error:
            form.add_error("name", str(error))
        else:
            _enter(request, member.user)
            return _knows(request, redirect("board", member.workshop.slug), member.user)
    return render(request, "account/join.html", {"form": form, "invitation": invitation}, status=422 if form.errors else 200)


def reset(request: HttpRequest, uid: str, token: str) -> HttpResponse:
    """A new password by an owner's link, once."""
    user = services.person_of_link(uid, token)
    if user is None:
        context = {
            "title": "This link is over",
            "sentence": "It was used, or a day has passed. Ask the owner of your workshop for a new one.",
        }
        return render(request, "ui/refused.html", context, status=410)
    form = NewPasswordForm(request.POST or None, user=user)
    if request.method == "POST" and form.is_valid():
        services.set_password(user, form.cleaned_data["password"])
        return redirect("sign-in")
    answer = render(request, "account/reset.html", {"form": form, "person": user}, status=422 if form.errors else 200)
    answer["Referrer-Policy"], answer["Cache-Control"] = "no-referrer", "no-store"
    return answer


_PEOPLE: dict[str, type[Command]] = {
    "invite": services.Invite, "withdraw": services.Withdraw, "role": services.ChangeRole, "remove": services.Remove, "reset": services.MakeResetLink,
}  # fmt: skip


def _done(request: HttpRequest, member: Membership) -> tuple[Outcome | None, str]:
    """What became of what was sent, and a link that was made."""
    act = request.POST.get("act", "invite")
    command = _PEOPLE.get(act)
    if request.method != "POST" or command is None or (act == "invite" and not InviteForm(request.POST).is_valid()):
        return None, ""
    outcome = command(member, None, request.POST).run()
    if outcome.refused or act not in ("invite", "reset"):
        return outcome, ""
    return outcome, request.build_absolute_uri(f"/join/{outcome.made.token}/" if act == "invite" else str(outcome.made))


@in_shop
def people(request: HttpRequest, member: Membership) -> HttpResponse:
    """Who belongs to the workshop; the owner invites, changes and removes here."""
    outcome, link = _done(request, member)
    if outcome and not outcome.refused and not link:
        return redirect("people", member.workshop.slug)
    form = InviteForm(request.POST if request.POST.get("act", "invite") == "invite" and request.method == "POST" else None)
    own = member.role == Role.OWNER
    context = {
        "heading": "People", "subheading": "", "member": member, "form": form, "link": link, "refused": outcome.sentence if outcome and outcome.refused else "",
        "members": members_of(member.workshop), "entries": last_entries(member.workshop), "roles": Role.choices,
        "invitations": open_invitations(member.workshop) if own else [], "backup": newest() if own else None, "backups": bool(settings.BACKUPS),
    }  # fmt: skip
    return render(request, "account/people.html", context, status=outcome.status if outcome else 200)


@in_shop
def audit(request: HttpRequest, member: Membership) -> HttpResponse:
    """Every line of the journal, for owners: narrowed by words and person, and as CSV."""
    require_owner(member)
    words, person = request.GET.get("q", "")[:80], request.GET.get("by", "")[:150]
    lines = journal_page(member.workshop, words, person)
    if request.GET.get("form") == "csv":
        rows = [("when", "who", "what", "about", "before", "after")]
        rows += [
            (f"{line.at:%Y-%m-%d %H:%M:%S}", str(line.by or ""), line.verb, line.about, line.before, line.after) for line in lines[:50_000]
        ]
        answer = HttpResponse(as_csv(rows), content_type="text/csv; charset=utf-8")
        answer["Content-Disposition"] = f'attachment; filename="{member.workshop.slug}-journal.csv"'
        return answer
    page = Paginator(lines, 100).get_page(request.GET.get("page"))
    context = {
        "heading": "Journal", "subheading": member.workshop.name, "member": member, "page": page, "q": words, "by": person,
        "members": members_of(member.workshop), "own": True,
    }  # fmt: skip
    return render(request, "account/audit.html", context)


def _own_password(request: HttpRequest, user: User, form: ChangePasswordForm, mail: MailForm) -> dict[str, Any]:
    if request.POST["act"] == "password" and form.is_valid():
        services.set_password(user, form.cleaned_data["password"])
        _enter(request, user)
        return {"said": "Your password is changed; everywhere else you are signed out."}
    if request.POST["act"] == "mail" and mail.is_valid():
        services.set_email(user, mail.cleaned_data["email"])
        return {"said": "Saved."}
    return {}


def _own_sessions(request: HttpRequest, user: User) -> dict[str, Any]:
    number = number_of(request.POST.get("session", "")) if request.POST["act"] == "end" else None
    services.end_sessions(user, number, but=request.session.session_key or "")
    return {"said": "Ended." if number is not None else "Everywhere else you are signed out."}


def _begun_second(user: User) -> dict[str, Any]:
    device = services.begin_second(user)
    drawn = io.BytesIO()
    segno.make(device.config_url, error="m").save(drawn, kind="png", scale=4, border=2)
    return {"picture": base64.b64encode(drawn.getvalue()).decode(), "secret": base64.b32encode(bytes.fromhex(device.key)).decode()}


def _own_second(request: HttpRequest, user: User) -> dict[str, Any]:
    act = request.POST["act"]
    if act == "second":
        return _begun_second(user)
    if act == "confirm":
        codes = services.confirm_second(user, request.POST.get("code", "").replace(" ", "")[:16])
        return {"codes": codes} if codes else {"wrong": "This was not the code the app shows now. Begin again."}
    if not user.check_password(request.POST.get("password", "")[:1000]):
        return {"wrong": "This was not your password."}
    services.drop_second(user)
    return {"said": "From now on your password alone opens the door."}


def _account_done(request: HttpRequest, user: User, form: ChangePasswordForm, mail: MailForm) -> dict[str, Any]:
    """What a person changes of their own, and what the page is told of it."""
    match request.POST.get("act", ""):
        case "password" | "mail":
            return _own_password(request, user, form, mail)
        case "end" | "end all":
            return _own_sessions(request, user)
        case "second" | "confirm" | "no second":
            return _own_second(request, user)
    return {}


@login_required
def account(request: HttpRequest) -> HttpResponse:
    """One's own: password, second factor, where one is signed in, where reminders go."""
    user: User = request.user  # type: ignore[assignment]
    sent = request.POST if request.method == "POST" else None
    act = sent.get("act", "") if sent else ""
    form = ChangePasswordForm(sent if act == "password" else None, user=user)
    mail = MailForm(sent if act == "mail" else None, initial={"email": user.email})
    reading = ReadingForm(sent if act == "reading" else None, initial=model_to_dict(user, list(ReadingForm.base_fields)))
    if act == "reading" and reading.is_valid():
        services.set_reading(user, reading.cleaned_data)
        return redirect("account")
    told = _account_done(request, user, form, mail) if sent else {}
    first = memberships_of(user).first()
    wrong = bool(form.errors or mail.errors or reading.errors or told.get("wrong"))
    context = {
        "heading": "You", "subheading": str(user), "member": first, "form": form, "mail": mail, "reading": reading, "sessions": sessions_of(user),
        "here": request.session.session_key, "second": services.has_second(user),
    }  # fmt: skip
    return render(request, "account/account.html", context | told, status=422 if wrong else 200)


def _back(request: HttpRequest) -> HttpResponse:
    target = request.POST.get("next", "/")
    good = url_has_allowed_host_and_scheme(target, {request.get_host()}) and urlsplit(target).path.startswith("/")
    return redirect(target if good else "/")


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
