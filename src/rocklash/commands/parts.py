"""Choosing parts for a set-up."""

from django.shortcuts import get_object_or_404

from rocklash.answers.rows import PART_OWNERS
from rocklash.commands.base import Command, Refused, number_of
from rocklash.records.models import Build, Part, SetupRole, SetupSide
from rocklash.records.selectors.builds import parts_that_fit

_LONGEST_NAME = 80


def free_name(build: Build, part: Part, word: str) -> str:
    """A name for a part made after another: its own with a word behind it, numbered where that is taken."""
    taken = set(parts_that_fit(build).filter(kind=part.kind).values_list("name", flat=True))
    base = f"{part.name.removesuffix(f', {word}')[: _LONGEST_NAME - 12]}, {word}"
    return next(name for number in range(1, 1000) if (name := base if number == 1 else f"{base} {number}") not in taken)


class ChoosePart(Command):
    """Put a part into a slot of a proposed side. The stock set-up is history and takes no other parts."""

    verb = "part"
    light = True
    nothing = "The part was not changed."

    def apply(self) -> None:
        """`seen` is the number of the part the person saw there."""
        slot, wanted = self.text("slot"), self.text("part")
        if slot not in PART_OWNERS:
            raise Refused("There is no such place for a part.")
        rows = SetupSide.objects.select_for_update(of=("self",), no_key=True).select_related("setup")
        row = get_object_or_404(rows, setup__build=self.subject, setup__role=SetupRole.PROPOSED, pk=number_of(self.text("row")))
        now: Part | None = getattr(row, slot)
        if wanted == (str(now.pk) if now else ""):
            return
        if self.text("seen") != (str(now.pk) if now else ""):
            raise Refused(f"Meanwhile this became {now or 'none'}. Choose again if you still want another.", conflict=True)
        part = None
        if wanted or slot not in ("inner_spring", "low_cam"):
            part = get_object_or_404(parts_that_fit(self.subject), kind=PART_OWNERS[slot].value, pk=number_of(wanted))
        self.ledger.set(row, **{slot: part})
        self.note(f"proposed {row.side}, {slot.replace('_', ' ')}", str(now or "none"), str(part or "none"))


_LONGEST_CLAIM = 80


class KeepClaim(Command):
    """Keep what a packet or a card says of its target, a part: of a spring its label, of a cam the spring that goes with it."""

    verb = "claim"
    judged = False

    def apply(self) -> None:
        """Its words in `claim`, a claim and nothing more."""
        words = self.text("claim", _LONGEST_CLAIM + 1)
        if len(words) > _LONGEST_CLAIM:
            raise Refused(f"Keep its words to {_LONGEST_CLAIM} letters.")
        part = Part.objects.select_for_update(no_key=True).get(pk=self.target.pk)
        self.note(f"{part}", part.claim, words)
        self.ledger.set(part, claim=words)
