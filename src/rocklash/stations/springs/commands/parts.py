"""A new part for the proposed set-up, by hand or as a copy of what is there."""

from django.http import Http404
from django.shortcuts import get_object_or_404

from rocklash.answers.rows import PART_OWNERS
from rocklash.commands.base import Command, Refused, number_of
from rocklash.commands.figures import now_text
from rocklash.commands.parts import free_name
from rocklash.records.figure_column import Stored, side_fingerprint, stored_figure
from rocklash.records.models import Part, SetupRole, SetupSide
from rocklash.records.selectors.builds import parts_that_fit
from rocklash.stations.springs.forms import NewPartForm
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.figure import Basis

_LONGEST_NAME = 80


class _IntoASlot(Command):
    """A part that is made and put into a slot of a proposed side, or of both sides."""

    light = True
    nothing = "No part was made."

    def rows(self) -> list[SetupSide]:
        """The side that was asked first, locked, and the other one where the part shall go there too. `seen` is the part the person saw."""
        asked = SetupSide.objects.select_for_update(of=("self",), no_key=True).select_related("setup")
        found = asked.filter(setup__build=self.subject, setup__role=SetupRole.PROPOSED).order_by("pk")
        row = get_object_or_404(found, pk=number_of(self.text("row")))
        if self.slot not in PART_OWNERS:
            raise Refused("There is no such place for a part.")
        now: Part | None = getattr(row, self.slot)
        if self.text("seen") != (str(now.pk) if now else ""):
            raise Refused(f"Meanwhile this became {now or 'none'}. Look again before you put another in its place.", conflict=True)
        return [row, *(each for each in found if each.pk != row.pk)] if self.data.get("both") else [row]

    @property
    def slot(self) -> str:
        """The place of the part, as its form sends it."""
        return self.text("slot")

    def put(self, rows: list[SetupSide], name: str, figures: Stored, **more: object) -> None:
        """Make the part and put it there."""
        if not 1 <= len(name) <= _LONGEST_NAME:
            raise Refused(fields={"name": f"Give it a name of up to {_LONGEST_NAME} letters, such as what its packet says."})
        owner = PART_OWNERS[self.slot]
        if parts_that_fit(self.subject).filter(kind=owner.value, name=name).exists():
            raise Refused(
                fields={"name": f"There is a part called “{name}” already: choose it from the list, or give this one another name."}
            )
        part = self.ledger.make(
            Part, workshop=self.subject.workshop, engine=self.subject.engine, kind=owner.value, name=name, figures=figures,
            side="" if len(rows) > 1 else rows[0].side, **more,
        )  # fmt: skip
        before = getattr(rows[0], self.slot)
        for row in rows:
            self.ledger.set(row, **{self.slot: part})
        sides = " and ".join(row.side for row in rows)
        self.note(f"proposed {sides}, {self.slot.replace('_', ' ')}", str(before or "none"), name)
        self.made = part


class NewPart(_IntoASlot):
    """A part with what is known of it; everything else is estimated until it is typed."""

    verb = "new part"
    form = NewPartForm

    def apply(self) -> None:
        """Keep the figures that were typed, all known the same way."""
        rows, owner = self.rows(), PART_OWNERS[self.slot]
        basis = Basis(self.cleaned["basis"])
        figures: Stored = {}
        for key in NewPartForm.KEYS[owner]:
            typed = self.cleaned[key]
            if typed:
                figures[key] = stored_figure(
                    owner, key, typed.value, basis, typed=typed.text, unit=typed.unit, by=self.member.user.username, at=now_text()
                )
        _check_spring(owner, figures)
        self.put(rows, self.cleaned["name"], figures, claim=self.cleaned.get("claim", ""))


def _check_spring(owner: Owner, figures: Stored) -> None:
    """A spring's load is told at a height, and that is no lower than the spring is solid."""
    if owner is not Owner.SPRING:
        return
    if "load_height" in figures and "load" not in figures:
        raise Refused(fields={"load": "A height is entered without a load: type the load at that height, or leave both empty."})
    if {"solid_height", "load_height"} <= figures.keys() and figures["solid_height"]["value"] >= figures["load_height"]["value"]:
        label = FIGURES[owner, "load_height"].label.lower()
        raise Refused(fields={"solid_height": f"The spring is solid before it comes down to the {label}: one of the two is wrong."})


class CopyPart(_IntoASlot):
    """A copy of what is in the slot, to be changed without changing the part that others use too."""

    verb = "copied part"

    def apply(self) -> None:
        """The copy takes the part's place; it is called after it."""
        rows = self.rows()
        was: Part | None = getattr(rows[0], self.slot)
        if was is None:
            raise Refused("There is nothing here to copy: make a new part.")
        self.put(rows, free_name(self.subject, was, "changed"), dict(was.figures), facts=dict(was.facts), lobe=was.lobe, claim=was.claim)


_ALIKE = ("outer_spring", "inner_spring", "retainer", "keepers")


class SameOnOther(Command):
    """Put a side's springs, retainer, keepers and heights on the other side of the proposed set-up too."""

    verb = "same on the other side"
    nothing = "Nothing was copied."

    def apply(self) -> None:
        """All of it, so that one undo takes it back; `seen` is the other side as the person saw it."""
        rows = SetupSide.objects.select_for_update(of=("self",), no_key=True).select_related("setup")
        found = list(rows.filter(setup__build=self.subject, setup__role=SetupRole.PROPOSED).order_by("pk"))
        row = next((each for each in found if each.pk == number_of(self.text("row"))), None)
        if row is None:
            raise Http404("This build has no such side.")
        other = next(each for each in found if each.pk != row.pk)
        if self.text("seen") != side_fingerprint(other):
            raise Refused(f"Meanwhile somebody changed the {other.side} side. Look at it; sent again, this takes its place.", conflict=True)
        parts = {slot: getattr(row, slot) for slot in _ALIKE}
        for part in parts.values():
            if part and part.side and part.engine_id:  # a part of one side is now one of both
                self.ledger.set(part, side="")
        self.ledger.set(other, figures=other.figures | row.figures, **parts)
        self.note(f"proposed {other.side}", "", f"as on the {row.side} side")
