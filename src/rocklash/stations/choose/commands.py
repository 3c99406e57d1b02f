"""Changes of the Choose station: what is asked of the shelf, what matters, a set proposed, sisters and notes of the family."""

from django.utils import timezone

from rocklash.answers.choose import COLUMNS, begin, named_set, plan_of, shown_of, stop
from rocklash.commands.base import Command, Refused, number_of
from rocklash.commands.figures import now_text
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Decision, Engine, FamilyNote, Part, Search, SetupRole, SetupSide, SisterEngine, SisterPart
from rocklash.records.selectors.choose import USUAL_WEIGHTS, search_of
from rocklash.records.selectors.parts import builds_using
from rocklash.stations.choose.forms import AskForm, NoteForm, SisterForm, SisterPartForm
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.record import PartRecord
from valvetrain.studies.choose.proposal import springs_of, stand_of
from valvetrain.studies.choose.ranking import MOST, Wish
from valvetrain.studies.choose.search import MOST_SETS
from valvetrain.studies.choose.slots import Candidate, Slot


class _OfASide(Command):
    """A command about the search of one side."""

    judged = False

    @property
    def side(self) -> Side:
        """The side that was sent, else the address's."""
        asked = self.text("side") or str(self.query.get("side", ""))
        return Side(asked) if asked in set(Side) else Side.INTAKE

    def row(self) -> Search:
        """The search's row, locked, made where there is none."""
        Search.objects.get_or_create(build=self.subject, side=self.side.value, defaults={"weights": USUAL_WEIGHTS})
        return Search.objects.select_for_update(no_key=True).get(build=self.subject, side=self.side.value)


class AskSearch(_OfASide):
    """Search the shelf."""

    verb = "searched the shelf"
    reversible = False
    form = AskForm
    nothing = "Nothing was searched."

    def apply(self) -> None:
        """Keep what is asked, and have it worked out."""
        row = self.row()
        lists = getattr(self.data, "getlist", lambda key: self.data.get(key, []))
        places = [slot.value for slot in Slot if slot.value in lists("place")]
        if not places:
            raise Refused("Say which places may change: at least one.")
        asked = {"budget": self.cleaned["budget"], "days": self.cleaned["days"], "places": places}
        plan = plan_of(self.subject, self.side, Search(build=self.subject, side=self.side.value, **asked))
        if plan.shelf.count < 2:
            raise Refused("The shelf holds nothing that could go there: put parts on it first.")
        together = plan.tables.joins.count()
        if together > MOST_SETS:
            raise Refused(
                f"{together:,} sets go together, and {MOST_SETS:,} are the most that are searched at once. Leave a place as it came, or search cam and "
                "springs first."
            )
        begin(plan)
        self.note(f"{self.side}", "", f"{plan.shelf.count:,} sets")
        self.ledger.set(row, asked_key=plan.key, asked_at=timezone.now(), by=self.member.user, **asked)


class StopSearch(_OfASide):
    """Leave a search out."""

    verb = "search stopped"
    reversible = False

    def apply(self) -> None:
        """What was found so far stays."""
        row = self.row()
        stop(plan_of(self.subject, self.side, row))
        self.note(f"{self.side}")
        self.ledger.set(row, asked_at=timezone.now())


class Weigh(_OfASide):
    """What matters, from 0 to 5 a wish."""

    verb = "what matters"

    def standing(self) -> object:
        """What matters so far."""
        return [Search.objects.filter(build=self.subject, side=self.side.value).values_list("weights", flat=True).first()]

    def apply(self) -> None:
        """All five at once."""
        row, weights = self.row(), []
        for number, wish in enumerate(Wish):
            text = self.text(f"weight-{number}", 8)
            try:
                weight = float(text)
            except ValueError as error:
                raise Refused(f"{wish.value}: a number from 0 to 5.") from error
            if not 0.0 <= weight <= MOST:
                raise Refused(f"{wish.value}: a number from 0 to 5.")
            weights.append(round(weight, 1))
        self.note(f"{self.side}", " ".join(f"{w:g}" for w in row.weights), " ".join(f"{w:g}" for w in weights))
        self.ledger.set(row, weights=weights)


class ProposeSet(_OfASide):
    """Put a set into the proposed set-up of a side, with how it stands, and remember why."""

    verb = "proposed a set"
    judged = True
    nothing = "Nothing was changed."

    def standing(self) -> object:
        """Parts and heights of the side."""
        mine = SetupSide.objects.filter(setup__build=self.subject, setup__role=SetupRole.PROPOSED, side=self.side.value)
        return list(mine.values_list("figures", *(f"{column}_id" for column in COLUMNS.values()), "low_cam_id"))

    def apply(self) -> None:
        """Parts, heights and shim together; what was estimated of a part in the search is told in the part, so that page and search agree."""
        search = search_of(self.subject, self.side)
        plan = plan_of(self.subject, self.side, search)
        chosen = named_set(plan, self.text("set", 400))
        if chosen is None:
            raise Refused("The shelf changed since this was searched: search again, then choose.", conflict=True)
        rows = SetupSide.objects.select_for_update(of=("self",), no_key=True).filter(
            setup__build=self.subject, setup__role=SetupRole.PROPOSED
        )
        row = rows.get(side=self.side.value)
        found = shown_of(plan, chosen)
        if isinstance(found, str):
            raise Refused(f"{found} {self.nothing}")
        bench, values = plan.tables.bench, {}
        springs = springs_of(bench, chosen.picks[Slot.OUTER], chosen.picks[Slot.INNER])
        for slot, column in COLUMNS.items():
            pick = chosen.picks[slot]
            record = springs[0] if slot is Slot.OUTER else springs[1] if slot is Slot.INNER and len(springs) > 1 else pick.record
            values[column] = None if pick.empty else self._part(pick, record, getattr(row, column))
        if row.low_cam and values["cam"] != row.cam:
            values["low_cam"] = None
        stand = stand_of(bench, chosen.picks)
        figures = dict(row.figures)
        for key, figure in (("installed_height", stand.height), ("spring_shim", stand.shim), ("retainer_to_seal", stand.seal)):
            figures[key] = stored_figure(
                Owner.FIT, key, figure.value, figure.basis, spread=figure.spread, by=self.member.user.username, at=now_text()
            )  # fmt: skip
        changed = {column for column, part in values.items() if part != getattr(row, column)}
        if changed & {"valve", "retainer", "keepers", "follower"}:
            for key in ("follower_gap", "tip_height"):
                figures.pop(key, None)
        for fit in row.valve_fits.select_for_update(no_key=True):
            self.ledger.set(fit, height=None, shim=None)
        self.ledger.set(row, figures=figures, **values)
        over = self.text("over", 400)
        told = {"force": found.open_force.value, "mass": found.mass, "price": chosen.price, "days": chosen.days}
        parts = {slot.value: chosen.picks[slot].key for slot in Slot}
        self.made = self.ledger.make(
            Decision, build=self.subject, side=self.side.value, parts=parts, names=chosen.name[:400], figures=told, over=over,
            reason=self.text("reason", 300), by=self.member.user,
        )  # fmt: skip
        self.note(f"proposed {self.side}", "", chosen.name[:120])

    def _part(self, pick: Candidate, record: PartRecord, now: Part | None) -> Part:
        """The part of a pick: with its estimates told in it where it is not known whole; a copy where another build uses it."""
        if not pick.key.isdigit():
            if now is None:
                raise Refused("A stock part of this side has no record: open Springs & masses once, then choose.")
            return now
        part = Part.objects.select_for_update(no_key=True).get(pk=int(pick.key), workshop=self.member.workshop)
        missing = {key: figure for key, figure in record.figures.items() if key not in part.figures}
        dropped = [key for key in part.figures if key not in record.figures]
        if not missing and not dropped:
            return part
        at, by = now_text(), self.member.user.username
        owner = Owner(part.kind)
        figures = {key: row for key, row in part.figures.items() if key not in dropped} | {
            key: stored_figure(owner, key, figure.value, figure.basis, spread=figure.spread, by=by, at=at)
            for key, figure in missing.items()
        }
        if part.stock or builds_using(part) - {self.subject.name}:
            name = f"{part.name[:60]}, as estimated"
            copy: Part = self.ledger.make(
                Part, workshop=part.workshop, engine=self.subject.engine, kind=part.kind, side=self.side.value, name=name, figures=figures,
                facts=part.facts, lobe=part.lobe, claim=part.claim, number=part.number, supplier=part.supplier, price=part.price,
                lead_days=part.lead_days, pack=part.pack,
            )  # fmt: skip
            return copy
        self.ledger.set(part, figures=figures)
        return part


class AddSister(Command):
    """A sister engine and what it is evidence of."""

    verb = "sister engine"
    judged = False
    form = SisterForm
    nothing = "Nothing of it was saved."

    def apply(self) -> None:
        """Once by name."""
        told, engine = self.cleaned, self.subject.engine
        if engine.sisters.filter(name=told["name"]).exists():
            raise Refused(fields={"name": "This sister is here already."})
        if told["same_springs"] and not told["evidence"]:
            raise Refused(
                fields={
                    "evidence": "That the springs are the same is a claim until it says how it is known: numbers compared, loads tested."
                }
            )
        self.note(told["name"])
        self.ledger.make(
            SisterEngine, engine=engine, name=told["name"], limiter=told["limiter"].value if told["limiter"] else None,
            interval=told["interval"].value if told["interval"] else None, same_springs=told["same_springs"], evidence=told["evidence"],
            by=self.member.user,
        )  # fmt: skip


class AddSisterPart(Command):
    """A part number beside a part number, with what was found."""

    verb = "sister part"
    judged = False
    form = SisterPartForm
    nothing = "Nothing of it was saved."

    def apply(self) -> None:
        """A finding needs its evidence."""
        sister = SisterEngine.objects.filter(engine=self.subject.engine, pk=number_of(self.text("sister"))).first()
        told = self.cleaned
        if sister is None:
            raise Refused("This sister is gone.")
        if told["finding"] != "unknown" and not told["evidence"]:
            raise Refused(fields={"evidence": "Say how it is known: tried in the engine, measured side by side, or the maker's list."})
        self.note(f"{sister.name}, {told['what']}", "", told["finding"])
        self.ledger.put(
            SisterPart, {"sister": sister, "what": told["what"]}, own_number=told["own_number"], sister_number=told["sister_number"],
            finding=told["finding"], evidence=told["evidence"], by=self.member.user,
        )  # fmt: skip


class DropSister(Command):
    """Take a sister engine off."""

    verb = "sister gone"
    judged = False

    def apply(self) -> None:
        """With its parts."""
        sister = SisterEngine.objects.filter(engine=self.subject.engine, pk=number_of(self.text("sister"))).first()
        if sister is None:
            raise Refused("It is gone already.")
        for part in sister.parts.all():
            self.ledger.drop(part)
        self.note(sister.name, sister.name, "")
        self.ledger.drop(sister)


class KeepFamily(Command):
    """Which family of engines this one is of: its notes are shared by all of them."""

    verb = "family"
    judged = False

    def standing(self) -> object:
        """The family it is of."""
        return Engine.objects.values_list("family", flat=True).get(pk=self.subject.engine_id)

    def apply(self) -> None:
        """The family's name."""
        engine = Engine.objects.select_for_update(no_key=True).get(pk=self.subject.engine_id)
        name = self.text("family", 61)
        if len(name) > 60:
            raise Refused("Keep the family's name to 60 letters.")
        self.note("family", engine.family, name)
        self.ledger.set(engine, family=name)


class AddNote(Command):
    """A note of the engine's family."""

    verb = "family note"
    judged = False
    form = NoteForm
    nothing = "Nothing was noted."

    def apply(self) -> None:
        """The engine must be of a family."""
        family = self.subject.engine.family
        if not family:
            raise Refused("Name the family first: the note is for every engine of it.")
        self.note(family, "", self.cleaned["text"][:120])
        self.ledger.make(
            FamilyNote, workshop=self.member.workshop, family=family, topic=self.cleaned["topic"], text=self.cleaned["text"], by=self.member.user
        )  # fmt: skip


class DropNote(Command):
    """Take a note off."""

    verb = "family note gone"
    judged = False

    def apply(self) -> None:
        """The note that was named, of this workshop."""
        note = FamilyNote.objects.filter(workshop=self.member.workshop, pk=number_of(self.text("note"))).first()
        if note is None:
            raise Refused("It is gone already.")
        self.note(note.family, note.text[:120], "")
        self.ledger.drop(note)
