"""What became due, told once: worked out by the workers for every workshop, shown in the app, and sent by e-mail where the server has it."""

from collections.abc import Iterable
from datetime import date, timedelta

from django.conf import settings
from django.core.mail import send_mail
from django.utils import timezone
from procrastinate.contrib.django import app

from rocklash.answers.due import refresh
from rocklash.records.models import DueState, Reminder, Workshop
from rocklash.records.selectors.due import due_states, mailed_members, workshops_with_builds
from valvetrain.studies.logbook.due import State

AGAIN = timedelta(days=14)  # after which something that is still due is told again. Source: judgement
_OUT = {State.OVER.name.lower(), State.DUE.name.lower()}
_A_RUN = 400  # engines worked out in one run


def _out(states: Iterable[DueState]) -> dict[tuple[int, str], str]:
    return {
        (state.build_id, line["rule"]): f"{state.build.name}: {line['what']}, {line['does']}"
        for state in states
        for line in state.lines
        if line["state"] in _OUT
    }


def remind(workshop: Workshop) -> list[Reminder]:
    """Make a reminder of what became due, put away those of what no longer is; the new ones."""
    out = _out(due_states(workshop))
    now = timezone.now()
    known = {(row.build_id, row.rule): row for row in Reminder.objects.filter(build__workshop=workshop).order_by("at")}
    gone = [row.pk for key, row in known.items() if row.put_away is None and key not in out]
    Reminder.objects.filter(pk__in=gone, put_away=None).update(put_away=now)
    fresh = [
        Reminder(build_id=build, rule=rule, words=words[:300])
        for (build, rule), words in out.items()
        if (row := known.get((build, rule))) is None or (row.put_away is not None and now - row.put_away > AGAIN)
    ]
    Reminder.objects.bulk_create(fresh, ignore_conflicts=True)  # another worker may have been as quick
    return fresh


def mail(workshop: Workshop) -> int:
    """Send what was not sent yet to the members who gave an address, in one letter each; how many letters."""
    if not settings.MAIL:
        return 0
    rows = list(Reminder.objects.filter(build__workshop=workshop, put_away=None, mailed_at=None).order_by("at", "pk"))
    to = mailed_members(workshop)
    if not rows or not to:
        return 0
    Reminder.objects.filter(pk__in=[row.pk for row in rows]).update(mailed_at=timezone.now())
    text = "\n".join(f"- {row.words}" for row in rows)
    words = f"Due at {workshop.name}:\n\n{text}\n\nThe maker's manual goes before every interval named here.\n"
    for address in to:
        send_mail(f"{workshop.name}: {len(rows)} due", words, None, [address], fail_silently=True)
    return len(to)


def look(today: date | None = None) -> None:
    """Every workshop once: what is due, reminders of it, letters."""
    for workshop in workshops_with_builds():
        refresh(workshop, today or timezone.localdate(), _A_RUN)
        remind(workshop)
        mail(workshop)


@app.periodic(cron="*/10 * * * *")
@app.task(name="due", queue="mend", queueing_lock="due")
def due(timestamp: int) -> None:  # noqa: ARG001  (the library hands it)
    """Look every ten minutes; what nobody changed since is not worked out again on the same day."""
    look()
