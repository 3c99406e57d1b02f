"""When something is due, as typed; reminders put away; keys that open feeds to machines."""

import secrets

from django.db.models import Q
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.commands.base import Command, Refused, number_of, require_owner
from rocklash.desk.machines import fingerprint_of
from rocklash.records.models import AccessKey, AccessKind, DueRule, Reminder
from rocklash.stations.logbook import forms
from valvetrain.studies.logbook.due import Unit

_MOST_KEYS = 12


class KeepRule(Command):
    """Keep when something is due, as typed."""

    verb, form = "due rule", forms.RuleForm
    judged = refreshes = False
    locks_shop = True

    def standing(self) -> object:
        """The rules as typed so far: the same one typed again is written over."""
        rows = DueRule.objects.filter(Q(build=self.subject) | Q(build=None), workshop=self.member.workshop)
        return list(rows.order_by("pk").values_list("what", "unit", "least", "most", "page", "does"))

    def apply(self) -> None:
        """Of this engine's manual, or of the workshop."""
        told = self.cleaned
        build = self.subject if told["whose"] == "maker" else None
        where = {"workshop": self.member.workshop, "build": build, "what": told["what"].strip(), "unit": told["unit"]}
        values = {"least": told["least"], "most": told["most"] or told["least"], "page": told["page"], "does": told["does"]}
        row = DueRule.objects.select_for_update(no_key=True).filter(**where).first()
        if row is None:
            row = self.ledger.make(DueRule, **where, **values, by=self.member.user)
        else:
            self.ledger.set(row, **values)
        self.note(f"{row.what}, {'the manual' if build else 'every engine'}", "", f"{row.least:g} to {row.most:g} {Unit(row.unit)}")


class DropRule(Command):
    """Take a typed rule away; undone like any other command."""

    verb = "due rule removed"
    judged = refreshes = False

    def apply(self) -> None:
        """The one of `rule`."""
        rules = DueRule.objects.select_for_update(no_key=True, of=("self",)).filter(workshop=self.member.workshop)
        row = get_object_or_404(rules, pk=number_of(self.text("rule")))
        if row.build_id not in (None, self.subject.pk):
            raise Refused("This rule is another engine's: remove it there.")
        self.note(str(row))
        self.ledger.drop(row)


class PutAway(Command):
    """Put a reminder away: somebody saw to it, or will."""

    verb = "reminder put away"
    reversible = judged = refreshes = locks_build = False

    def apply(self) -> None:
        """The one of `reminder`."""
        rows = Reminder.objects.select_for_update(no_key=True, of=("self",)).filter(build__workshop=self.member.workshop)
        row = get_object_or_404(rows, pk=number_of(self.text("reminder")))
        if row.put_away:
            return
        self.ledger.set(row, put_away=timezone.now(), put_away_by=self.member.user)
        self.note(str(row))


class MakeKey(Command):
    """Make a key that opens the calendar or the read-only records to a machine; owners only. The secret is what is made, shown once."""

    verb = "key made"
    reversible = judged = refreshes = False

    def allow(self) -> None:
        """Owners hand out keys."""
        require_owner(self.member)

    def apply(self) -> None:
        """Of a `kind`, with a `name`."""
        kind = self.text("kind")
        if kind not in AccessKind.values:
            raise Refused("A key opens the calendar or the records: choose one.")
        if AccessKey.objects.filter(workshop=self.member.workshop).count() >= _MOST_KEYS:
            raise Refused(f"There are {_MOST_KEYS} keys already: end one that is not used.")
        secret = secrets.token_urlsafe(32)
        name = self.text("name", 60) or AccessKind(kind).label
        self.ledger.make(AccessKey, workshop=self.member.workshop, kind=kind, name=name, digest=fingerprint_of(secret), by=self.member.user)
        self.made = secret
        self.note(name)


class EndKey(Command):
    """End a key; owners only."""

    verb = "key ended"
    reversible = judged = refreshes = False

    def allow(self) -> None:
        """Owners end them."""
        require_owner(self.member)

    def apply(self) -> None:
        """The one of `key`."""
        rows = AccessKey.objects.select_for_update(no_key=True).filter(workshop=self.member.workshop)
        row = get_object_or_404(rows, pk=number_of(self.text("key")))
        self.note(str(row))
        self.ledger.destroy(row)
