"""Of a whole workshop: a run entered in two taps, what is due on every engine, its calendar, and keys for machines."""

from datetime import date
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone

from rocklash.answers.due import refresh
from rocklash.commands.base import BEFORE, Command, Outcome, Refused, number_of, require_change
from rocklash.desk.access import in_shop
from rocklash.desk.machines import key_of
from rocklash.records.models import AccessKind, Build, Membership
from rocklash.records.selectors import due as rows
from rocklash.records.selectors.builds import build_row_or_404
from rocklash.records.selectors.logbook import board_names, last_runs
from rocklash.stations.logbook.commands import due as commands
from rocklash.stations.logbook.commands.entries import KeepRun
from rocklash.stations.logbook.shop import quick
from rocklash.stations.logbook.shop.calendar import calendar_of
from rocklash.stations.logbook.shop.pages import SHOWN, board_of, week_of
from valvetrain.units import UnitSystem, told


def htmx_of(request: HttpRequest) -> bool:
    """Whether it was asked from within a page."""
    return bool(getattr(request, "htmx", False))


_AT_ONCE = 25  # engines worked out anew while a page waits; the workers do the rest


def _own_build(member: Membership, text: str) -> Build | None:
    number = number_of(text)
    return build_row_or_404(member.workshop, number) if number >= 0 else None


@in_shop
def ran(request: HttpRequest, member: Membership) -> HttpResponse:
    """One line: what it ran, on which engine. What was entered last is offered, to be sent with one press."""
    build = _own_build(member, request.POST.get("build", "") or request.GET.get("build", ""))
    context: dict[str, Any] = {
        "member": member,
        "heading": "It ran",
        "subheading": "",
        "about": build,
        "text": "",
        "action": reverse("ran", args=[member.workshop.slug]),
    }
    status = 200
    if request.method == "POST":
        require_change(member)
        context["text"] = request.POST.get("text", "").replace("\x00", "")[:120]
        try:
            said = quick.read(context["text"])
            target = quick.meant(said.name, board_names(member.workshop)) if said.name else build
            if target is None:
                raise Refused("Say on which engine: 1.5 h on Plover.")  # noqa: TRY301  (told below, like the others)
            outcome = KeepRun(member, target, said.fields | {"once": request.POST.get("once", "")}).run()
            if outcome.refused:
                raise Refused(told(outcome.sentence or " ".join(outcome.fields.values()), UnitSystem(member.user.unit_system)))  # noqa: TRY301
            context |= {"kept": target, "before": outcome.state == BEFORE, "text": "" if htmx_of(request) else context["text"]}
        except Refused as refused:
            context["wrong"], status = str(refused), 422
    if "kept" not in context:
        context["offers"] = quick.offers(last_runs(member.workshop, build), build)
    return render(request, "logbook/ran.html" if htmx_of(request) else "logbook/ran_page.html", context, status=status)


_COMMANDS: dict[str, type[Command]] = {"away": commands.PutAway, "key": commands.MakeKey, "no key": commands.EndKey}


def _sent(request: HttpRequest, member: Membership) -> tuple[Outcome | None, str]:
    """What became of what was sent, and the address or secret of a key that was made."""
    command = _COMMANDS.get(request.POST.get("act", ""))
    if request.method != "POST" or command is None:
        return None, ""
    outcome = command(member, None, request.POST).run()
    secret = str(outcome.made or "") if command is commands.MakeKey else ""
    if secret and request.POST.get("kind") == AccessKind.CALENDAR:
        secret = request.build_absolute_uri(reverse("due-calendar", args=[secret]))
    return outcome, secret


@in_shop
def due(request: HttpRequest, member: Membership) -> HttpResponse:
    """What is due on every engine, the most urgent first."""
    if request.method == "POST":
        require_change(member)
    outcome, secret = _sent(request, member)
    if outcome and not outcome.refused and not secret:
        return redirect("due", member.workshop.slug)
    today = timezone.localdate()
    left = refresh(member.workshop, today, _AT_ONCE)
    asked = request.GET.get("show", "")
    show = asked if asked in SHOWN else "out"
    context = {
        "heading": "What is due", "subheading": member.workshop.name, "member": member, "show": show, "kinds": list(SHOWN.items()), "left": left,
        "lines": board_of(rows.due_states(member.workshop), show), "reminders": rows.open_reminders(member.workshop), "secret": secret,
        "keys": rows.keys_of(member.workshop), "refused": outcome.sentence if outcome and outcome.refused else "",
    }  # fmt: skip
    return render(request, "logbook/due_board.html", context, status=outcome.status if outcome else 200)


@in_shop
def week(request: HttpRequest, member: Membership) -> HttpResponse:
    """The week on one sheet to print: what falls due, what is promised, what is expected."""
    today = timezone.localdate()
    try:
        first = date.fromisoformat(request.GET.get("from", "")[:10])
    except ValueError:
        first = today
    refresh(member.workshop, today, _AT_ONCE)
    days = week_of(first, rows.due_states(member.workshop), rows.promised_days(member.workshop), rows.open_waits(member.workshop))
    context = {
        "heading": "The week",
        "subheading": member.workshop.name,
        "member": member,
        "days": days,
        "first": first,
        "now": timezone.now(),
    }
    return render(request, "logbook/week.html", context)


def feed(request: HttpRequest, secret: str) -> HttpResponse:  # noqa: ARG001  (the secret is the way in)
    """What falls due and what is promised, as iCalendar, to whoever knows the address."""
    key = key_of(AccessKind.CALENDAR, secret)
    if key is None:
        raise Http404("No such calendar.")
    today = timezone.localdate()
    refresh(key.workshop, today, _AT_ONCE)
    text = calendar_of(key.workshop.name, rows.due_states(key.workshop), rows.promised_days(key.workshop), today, timezone.now())
    answer = HttpResponse(text, content_type="text/calendar; charset=utf-8")
    answer["Cache-Control"] = "private, max-age=900"
    return answer
