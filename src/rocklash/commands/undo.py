"""Taking back the last command of one's own, from the journal."""

from rocklash.commands.base import Command, Refused
from rocklash.commands.ledger import ChangedSinceError
from rocklash.records.models import Build, JournalEntry, Membership
from rocklash.records.selectors.journal import last_of_ones_own


def undoable(member: Membership, build: Build) -> JournalEntry | None:
    """The last command of a person on a build, when it can be undone. What cannot be undone is not stepped over."""
    entry = last_of_ones_own(member, build) if member.may_change else None
    return entry if entry and entry.reversible else None


class Undo(Command):
    """Put back what the last command of one's own changed; `entry` is the line of the journal the person saw."""

    verb = "undo"
    light = True
    reversible = False
    nothing = "Nothing was undone."

    def apply(self) -> None:
        """Refused where somebody changed it again since; what it would contradict is not put back either."""
        entry = undoable(self.member, self.subject)
        if entry is None or str(entry.pk) != self.text("entry"):
            raise Refused("There is nothing of yours to undo here any more: look at what is there now.", conflict=True)
        try:
            self.ledger.undo(entry.data)
        except ChangedSinceError as error:
            raise Refused(f"{error} was changed again since, so it cannot be put back. {self.nothing}", conflict=True) from error
        self.undone = entry
        self.note(entry.about.removeprefix(f"{self.subject.name}: "), entry.after, entry.before)

    def _journal(self, once: str | None) -> JournalEntry:
        line = super()._journal(once)
        JournalEntry.objects.filter(pk=self.undone.pk).update(undone_by=line)
        return line
