"""Entries of the logbook: what it ran, what was done, and taken off again."""

from django.utils import timezone

from rocklash.answers.logbook import meter_of
from rocklash.commands.base import Command, number_of
from rocklash.records.models import CareEntry, RunEntry
from rocklash.records.selectors.logbook import entry_or_404, metered_sheets, runs_of
from rocklash.stations.logbook import forms
from valvetrain.units import QuantityKind, UnitSystem, quantity


class KeepRun(Command):
    """Keep what an engine ran."""

    verb, form = "ran", forms.RunForm
    judged = refreshes = False

    def apply(self) -> None:
        """Hours, passes or fuel, on a day."""
        told = self.cleaned
        ran, fuel = told["ran"], told["fuel"]
        words = [
            f"{ran.value / 3600.0:g} h" if ran else "",
            f"{told['passes']} passes" if told["passes"] else "",
            quantity(fuel.value, QuantityKind.VOLUME, UnitSystem.METRIC) if fuel else "",
        ]
        self.ledger.make(
            RunEntry, build=self.subject, made_on=told["made_on"] or timezone.localdate(), seconds=ran.value if ran else None, passes=told["passes"],
            fuel=fuel.value if fuel else None, note=told["note"], by=self.member.user,
        )  # fmt: skip
        self.note("", "", ", ".join(word for word in words if word))


class KeepCare(Command):
    """Keep that something was done, at the hours the engine has now."""

    verb, form = "done", forms.CareForm
    judged = refreshes = False

    def apply(self) -> None:
        """`what` as the rules name it."""
        hours = meter_of(runs_of(self.subject), metered_sheets(self.subject)).hours()
        told = self.cleaned
        self.ledger.make(
            CareEntry,
            build=self.subject,
            what=told["what"],
            made_on=timezone.localdate(),
            seconds=hours * 3600.0,
            note=told["note"],
            by=self.member.user,
        )
        self.note(told["what"], "", f"at {hours:.1f} h")


class RemoveEntry(Command):
    """Take an entry off the logbook; undone like any other command."""

    verb = "entry removed"
    judged = refreshes = False

    def apply(self) -> None:
        """The `run` or the `care` of this number."""
        row = entry_or_404(self.subject, self.text("kind"), number_of(self.text("entry")))
        self.note(str(row), f"{row.made_on:%d %b %Y}", "")
        self.ledger.drop(row)
