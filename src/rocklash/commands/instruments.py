"""Simulated instruments: begun and ended over a part."""

import secrets

from django.utils import timezone

from rocklash.answers.instruments import KIND_OF, PACE
from rocklash.commands.base import Command, Refused
from rocklash.records.models import Build, InstrumentRun


def require_practice(build: Build) -> None:
    """Raise Refused unless the build is a practice copy: what a simulated instrument reads is true of no engine."""
    if not build.practice:
        raise Refused("Simulated instruments work in a practice copy only: what they read is true of no engine. Make one on the Overview.")


class _OnAnInstrument(Command):
    """A command on the instrument that measures its target, a part."""

    verb = "simulated instrument"
    judged = False


class BeginRun(_OnAnInstrument):
    """Put the target on its instrument; a run under way is ended first."""

    def apply(self) -> None:
        """The run is what was made."""
        require_practice(self.subject)
        for run in InstrumentRun.objects.select_for_update(no_key=True).filter(part=self.target, ended_at=None):
            self.ledger.set(run, ended_at=timezone.now())
        kind = KIND_OF[self.target.kind]
        begun = {"part": self.target, "kind": kind.value, "by": self.member.user, "seed": secrets.randbelow(1_000_000), "pace": PACE[kind]}
        self.made = self.ledger.make(InstrumentRun, **begun)
        self.note(f"{self.target}", "", f"{kind.label} begun")


class EndRun(_OnAnInstrument):
    """Stop a run; what was read until now stays."""

    def apply(self) -> None:
        """Ended twice it ends once."""
        run = InstrumentRun.objects.select_for_update(no_key=True).filter(part=self.target).first()
        if run and run.ended_at is None:
            self.ledger.set(run, ended_at=timezone.now())
            self.note(f"{self.target}", "", f"{run.get_kind_display()} ended")
        self.made = run
