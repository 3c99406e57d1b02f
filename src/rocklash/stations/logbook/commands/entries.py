"""Entries of the logbook: what it ran, what was done, and taken off again."""

from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.answers.logbook import logs_told, meter_of, ran_by_log, seasons_words
from rocklash.answers.pictures import made_anew
from rocklash.answers.rows import side_rows
from rocklash.commands.base import Command, Refused, number_of
from rocklash.desk.files import sent_bytes
from rocklash.records.models import CareEntry, LogNote, LogPicture, PartStart, RunEntry, SetupRole
from rocklash.records.selectors.logbook import entry_or_404, metered_sheets, runs_of
from rocklash.stations.logbook import forms


class KeepRun(Command):
    """Keep what an engine ran."""

    verb, form = "ran", forms.RunForm
    judged = refreshes = False

    def apply(self) -> None:
        """Hours, passes, fuel or seasons, up to a day."""
        told = self.cleaned
        fuel, note = told["fuel"], told["note"]
        seconds = told["ran"].value if told["ran"] else None
        if told.get("log") and seconds is None:
            seconds, note = self._by_log(told["log"], note)
        words = [
            f"{seconds / 3600.0:.4g} h" if seconds else "",
            f"{told['passes']} passes" if told["passes"] else "",
            f"{1e3 * fuel.value:.3g} l" if fuel else "",
            seasons_words(told["seasons"]),
        ]
        self.ledger.make(
            RunEntry, build=self.subject, made_on=told["made_on"] or timezone.localdate(), seconds=seconds, passes=told["passes"],
            fuel=fuel.value if fuel else None, seasons=told["seasons"], note=note, by=self.member.user,
        )  # fmt: skip
        self.note("", "", ", ".join(word for word in words if word))

    def _by_log(self, log: str, note: str) -> tuple[float, str]:
        """Hours that the engine turned in a log, once for each; holes are left out and named in the note."""
        name = dict(logs_told(self.subject)).get(log, "")
        mark = f"log of {name}"
        if RunEntry.objects.filter(build=self.subject, note__startswith=mark).exists():
            raise Refused(fields={"log": "The hours of this log are saved already."})
        seconds, left_out = ran_by_log(self.subject, number_of(log))
        return seconds, "; ".join(part for part in (mark, *left_out, note) if part)[:200]


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


_LARGEST, _MOST_PICTURES = 12_000_000, 12


class AddNote(Command):
    """Keep words on the line of time, with a picture where one came along."""

    verb, form = "note", forms.NoteForm
    judged = refreshes = False

    def apply(self) -> None:
        """Words, a `file`, or both."""
        raw = sent_bytes(self, "A photograph of a phone is enough.", _LARGEST)
        words = self.cleaned["words"].strip()
        if not words and not raw:
            raise Refused(fields={"words": "Write what is to be remembered, or choose a picture."})
        row = self.ledger.make(
            LogNote,
            build=self.subject,
            made_on=self.cleaned["made_on"] or timezone.localdate(),
            words=words or "a picture",
            by=self.member.user,
        )
        if raw:
            picture = made_anew(raw)
            LogPicture.objects.create(
                log_note=row, by=self.member.user, caption=words[:120], width=picture.width, height=picture.height, data=picture.data
            )
        self.note("", "", str(row))


class AddNotePicture(Command):
    """A further picture of a note."""

    verb = "picture of a note"
    reversible = judged = refreshes = False

    def apply(self) -> None:
        """`file`, of one `entry`."""
        row = get_object_or_404(LogNote.objects.select_for_update(no_key=True), build=self.subject, pk=number_of(self.text("entry")))
        raw = sent_bytes(self, "A photograph of a phone is enough.", _LARGEST)
        if not raw:
            raise Refused("Choose a photograph first.")
        if row.pictures.count() >= _MOST_PICTURES:
            raise Refused(f"There are {_MOST_PICTURES} pictures of this note already.")
        picture = made_anew(raw)
        self.ledger.make(LogPicture, log_note=row, by=self.member.user, width=picture.width, height=picture.height, data=picture.data)
        self.note(str(row), "", "a picture")


class RemoveNote(Command):
    """Remove a note, for good where it has pictures."""

    verb = "note removed"
    reversible = judged = refreshes = False

    def apply(self) -> None:
        """The one of `entry`."""
        row = get_object_or_404(LogNote.objects.select_for_update(no_key=True), build=self.subject, pk=number_of(self.text("entry")))
        self.note("", str(row), "")
        self.ledger.destroy(row)


class KeepStart(Command):
    """Keep since when a part runs in this engine."""

    verb, form = "part runs since", forms.StartForm
    judged = refreshes = False

    def standing(self) -> object:
        """Since when it runs."""
        mine = PartStart.objects.filter(build=self.subject, part=number_of(self.text("part")), side=self.text("side", 8))
        return mine.values_list("made_on", "had").first() or "nothing"

    def apply(self) -> None:
        """A part of the proposed set-up, on its side."""
        told = self.cleaned
        row = side_rows(self.subject).get((SetupRole.PROPOSED, told["side"]))
        here = {getattr(row, f"{slot}_id") for slot in _SLOTS} if row else set()
        if told["part"] not in here:
            raise Refused("This part is not in the proposed set-up: choose it there first.")
        had = told["had"].value if told["had"] else 0.0
        where = {"build": self.subject, "part_id": told["part"], "side": told["side"]}
        start = self.ledger.put(PartStart, where, made_on=told["made_on"], had=had)
        if start.by_id != self.member.user_id:
            self.ledger.set(start, by=self.member.user)
        self.note(f"{start.part}, {told['side']}", "", f"{told['made_on']:%d %b %Y}, with {had / 3600.0:g} h on it")


_SLOTS = ("cam", "low_cam", "valve", "retainer", "keepers", "follower", "outer_spring", "inner_spring")
