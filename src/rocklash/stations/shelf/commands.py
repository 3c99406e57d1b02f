"""Changes of the shelf: a part, one used part of it, a whole table."""

import json
import zlib
from base64 import b64decode, b64encode
from typing import Any

from django.db.models import ProtectedError

from rocklash.answers.pictures import made_anew
from rocklash.commands.base import Command, Refused, number_of
from rocklash.commands.figures import now_text
from rocklash.desk.files import sent_bytes
from rocklash.records.figure_column import Stored, figures_of, stored_figure
from rocklash.records.models import Individual, Part, PartPhoto
from rocklash.stations.shelf.forms import IndividualForm, PartForm, TableForm
from rocklash.ui.forms import BenchForm
from valvetrain.errors import BuildFileError
from valvetrain.formats.shelf_table import KINDS, ShelfRow, ShelfTable, cells_of, read_shelf
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.figure import Basis
from valvetrain.quantities import plain

LARGEST = 4_000_000  # bytes of a table of parts
_LARGEST_PICTURE, _MOST_PICTURES = 12_000_000, 12
_FIELDS = (
    "number", "side", "claim", "supplier", "price", "lead_days", "quantity", "pack", "service_hours", "place", "exchange", "note",
)  # fmt: skip


def fingerprint_of(part: Part) -> str:
    """What a person saw of a part."""
    seen = [part.name, *(str(getattr(part, key)) for key in _FIELDS), part.facts]
    return json.dumps([*seen, {key: row["value"] for key, row in sorted(part.figures.items())}], sort_keys=True)


class KeepShelfPart(Command):
    """A part of the shelf, new or changed: the target, which for a new one is not kept yet."""

    verb = "shelf part"
    form = PartForm
    nothing = "Nothing of the part was saved."

    def bound(self) -> BenchForm:
        """The form about this part."""
        return PartForm(self.data, system=self.system, about=self.target)

    def apply(self) -> None:
        """Its fields, figures and words together, or none of them."""
        part: Part = self.target
        if part.pk:
            part = Part.objects.select_for_update(no_key=True).get(pk=part.pk, workshop=self.member.workshop, engine=None)
            if self.text("seen", 20_000) != fingerprint_of(part):
                raise Refused("Meanwhile somebody changed this part: look again, then change it.", conflict=True)
        told = self.cleaned
        same = Part.objects.filter(workshop=self.member.workshop, engine=None, kind=part.kind, name=told["name"]).exclude(pk=part.pk)
        if same.exists():
            raise Refused(fields={"name": f"A {KINDS[Owner(part.kind)]} called “{told['name']}” is on the shelf already."})
        fields: dict[str, Any] = {key: told[key] for key in ("name", *_FIELDS)}
        fields |= {"pack": told["pack"] or 1, "quantity": told["quantity"] or 0}
        owner = Owner(part.kind)
        facts = dict(part.facts) | {name.removeprefix("fact-"): word for name, word in told.items() if name.startswith("fact-")}
        facts = {key: word for key, word in facts.items() if word}
        figures = self._figures(part, owner)
        self.note(f"{KINDS[owner]} {told['name']}", "", "")
        if part.pk:
            self.ledger.set(part, **fields, facts=facts, figures=figures)
        else:
            part = self.ledger.make(Part, workshop=self.member.workshop, kind=part.kind, facts=facts, figures=figures, **fields)
        self.made = part

    def _figures(self, part: Part, owner: Owner) -> Stored:
        """Figures as they are to stand: what was not touched stays as it was known."""
        stored: Stored = dict(part.figures)
        for (kind, key), row in FIGURES.items():
            if kind is not owner:
                continue
            typed, known = self.cleaned.get(f"figure-{key}"), part.figures.get(key)
            if typed is None:
                stored.pop(key, None)
            elif known is None or typed.text != plain(known["value"], row.kind, self.system):
                stored[key] = stored_figure(
                    owner, key, typed.value, Basis(self.cleaned["basis"]), typed=typed.text, unit=typed.unit, by=self.member.user.username,
                    at=now_text(),
                )  # fmt: skip
        _require_order(owner, stored)
        return stored


def _require_order(owner: Owner, stored: Stored) -> None:
    for low, high in (("solid_height", "load_height"), ("height_low", "height_high"), ("inside", "outside"), ("bore", "outer_diameter")):
        if {low, high} <= stored.keys() and stored[low]["value"] >= stored[high]["value"]:
            label = FIGURES[owner, high].label.lower()
            raise Refused(fields={f"figure-{low}": f"This is not below “{label}”: one of the two is wrong."})


class DropShelfPart(Command):
    """Take a part off the shelf that no build uses."""

    verb = "took off the shelf"

    def apply(self) -> None:
        """With its single ones."""
        part = Part.objects.select_for_update(no_key=True).get(pk=self.target.pk, workshop=self.member.workshop, engine=None)
        self.note(f"{KINDS[Owner(part.kind)]} {part.name}", part.name, "")
        try:
            for one in part.individuals.all():
                self.ledger.drop(one)
            self.ledger.drop(part)
        except ProtectedError as error:
            raise Refused(f"{part.name} is in a build: take it out there first.") from error


class AddIndividual(Command):
    """One used part, or a lot of them, of the shelf's part that is the target."""

    verb = "used part"
    form = IndividualForm
    nothing = "Nothing of it was saved."

    def apply(self) -> None:
        """With what was measured of it."""
        part, told = Part.objects.select_for_update(no_key=True).get(pk=self.target.pk, workshop=self.member.workshop), self.cleaned
        if part.individuals.filter(name=told["name"]).exists():
            raise Refused(fields={"name": "There is one of this name already: give this one another."})
        if (told["load"] is None) != (told["load_height"] is None):
            raise Refused(fields={"load_height": "A load belongs to a height: type both, or neither."})
        measured = {key: told[key].value if told[key] else None for key in ("mass", "load", "load_height", "rate", "offset")}
        self.note(f"{part.name}: {told['name']}")
        self.made = self.ledger.make(
            Individual, part=part, name=told["name"], count=told["count"] or 1, hours=told["hours"], seasons=told["seasons"],
            condition=told["condition"], history=told["history"], by=self.member.user, **measured,
        )  # fmt: skip


class DropIndividual(Command):
    """Take a used part off the list."""

    verb = "used part gone"

    def apply(self) -> None:
        """The one that was named."""
        one = Individual.objects.filter(part=self.target, part__workshop=self.member.workshop, pk=number_of(self.text("one"))).first()
        if one is None:
            raise Refused("It is gone already.")
        self.note(f"{one}", one.name, "")
        self.ledger.drop(one)


class AddPicture(Command):
    """A picture of the part that is the target, made anew."""

    verb = "picture"
    reversible = False
    nothing = "No picture was saved."

    def apply(self) -> None:
        """`file` and `caption` as sent."""
        part = Part.objects.select_for_update(no_key=True).get(pk=self.target.pk, workshop=self.member.workshop)
        raw = sent_bytes(self, "A picture of a phone is enough.", _LARGEST_PICTURE)
        if not raw:
            raise Refused("Choose a picture first.")
        if part.photos.count() >= _MOST_PICTURES:
            raise Refused(f"There are {_MOST_PICTURES} pictures of this part already: remove one first.")
        picture, caption = made_anew(raw), self.text("caption", 120)
        self.ledger.make(
            PartPhoto, part=part, by=self.member.user, caption=caption, width=picture.width, height=picture.height, data=picture.data
        )  # fmt: skip
        self.note(part.name, "", caption or "a picture")


class DropPicture(Command):
    """Remove a picture for good."""

    verb = "picture removed"
    reversible = False

    def apply(self) -> None:
        """The one that was named."""
        found = PartPhoto.objects.filter(part=self.target, part__workshop=self.member.workshop, pk=number_of(self.text("picture"))).first()
        if found is None:
            raise Refused("It is gone already.")
        self.note(self.target.name, f"{found}", "")
        self.ledger.destroy(found)


class BringInShelf(Command):
    """Parts of a table: first looked at, then kept, all or none."""

    verb = "brought in parts"
    form = TableForm
    nothing = "Nothing was brought in."

    def table(self) -> ShelfTable:
        """The table as it was sent, or as it was looked at. Raises BuildFileError with what is wrong."""
        chosen = {
            int(key.removeprefix("column-")): str(value) for key, value in self.data.items() if key.startswith("column-") and key[7:].isdigit()
        }  # fmt: skip
        return read_shelf(cells_of(self._raw()), chosen, self.system)

    def _raw(self) -> bytes:
        kept = self.text("kept", 8_000_000)
        if not kept or self.files.get("file"):
            return sent_bytes(self, "Bring the shelf in by halves.", LARGEST)
        try:
            return zlib.decompressobj().decompress(b64decode(kept), LARGEST + 1)
        except (ValueError, zlib.error) as error:
            raise BuildFileError("What was looked at did not come back whole: choose the file again.") from error

    def kept(self) -> str:
        """The table, to be sent back with the next step."""
        return b64encode(zlib.compress(self._raw())).decode()

    def apply(self) -> None:
        """Every row, or none."""
        table = self.table()
        if table.troubles:
            raise Refused(f"{len(table.troubles)} things are wrong in the table. Put them right first.")
        have = {(part.kind, part.name): part for part in shelf_of(self)}
        new, changed = [], 0
        for row in table.rows:
            old = have.get((row.kind.value, row.name))
            if old is None:
                new.append(self._new(row))
            elif not self.cleaned.get("update"):
                raise Refused(
                    f"Row {row.line}, name: {KINDS[row.kind]} “{row.name}” is on the shelf already. Tick that such parts are to be changed, or leave it out."
                )
            else:
                changed += self._change(old, row)
        self.ledger.made(Part.objects.bulk_create(new, batch_size=500), histories=False)
        self.note(f"{len(new)} new, {changed} changed")
        self.made = (len(new), changed)

    def _stored(self, row: ShelfRow) -> Stored:
        at, by = now_text(), self.member.user.username
        return {
            key: stored_figure(row.kind, key, each.value, each.basis, spread=each.spread, by=by, at=at) for key, each in row.figures.items()
        }  # fmt: skip

    def _new(self, row: ShelfRow) -> Part:
        fields = {key: value for key, value in row.fields.items() if key != "name"}
        return Part(
            workshop=self.member.workshop, kind=row.kind.value, name=row.name, figures=self._stored(row), facts=dict(row.facts), **fields
        )

    def _change(self, part: Part, row: ShelfRow) -> bool:
        """What the table tells takes the place of what was; what it leaves out stays."""
        known = figures_of(part.figures, row.kind)
        differs = {key: figure for key, figure in row.figures.items() if known.get(key) is None or _differs(known[key].value, figure.value)}
        stored = dict(part.figures) | {key: value for key, value in self._stored(row).items() if key in differs}
        fields = {key: value for key, value in row.fields.items() if key != "name" and getattr(part, key) != value}
        facts = dict(part.facts) | dict(row.facts)
        if not fields and not differs and facts == part.facts:
            return False
        self.ledger.set(part, figures=stored, facts=facts, **fields)
        return True


def _differs(a: float, b: float) -> bool:
    return abs(a - b) > 1e-7 * max(abs(a), abs(b), 1e-12)


def shelf_of(command: Command) -> list[Part]:
    """The shelf's parts, locked."""
    return list(Part.objects.select_for_update(no_key=True).filter(workshop=command.member.workshop, engine=None))
