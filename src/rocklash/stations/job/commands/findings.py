"""What is found on parts: kept, settled, with pictures; and where each part went."""

from django.db.models import Max
from django.shortcuts import get_object_or_404

from rocklash.answers.pictures import made_anew
from rocklash.commands.base import Command, Refused, number_of
from rocklash.desk.files import sent_bytes
from rocklash.records.models import Build, Finding, FindingPicture, Job, PartPlace, Position
from rocklash.stations.job.forms import FindingForm
from valvetrain.studies.job.knowledge import signs

_LARGEST, _MOST_PICTURES, _MOST_FINDINGS = 12_000_000, 24, 400
SLOTS = ("valve", "seat", "spring", "shim", "retainer", "keepers", "follower", "push-rod")
WAYS = ("as it was", "turned round", "new")


class _OnBuild(Command):
    judged = refreshes = False


class KeepFinding(_OnBuild):
    """Keep what was found, or correct it."""

    verb = "finding"
    form = FindingForm

    def standing(self) -> object:
        """The finding that is corrected; of a new one nothing."""
        mine = Finding.objects.filter(build=self.subject, pk=number_of(self.text("finding")))
        return mine.values_list("part", "position_id", "place", "sign", "grade", "words", "measured").first()

    def apply(self) -> None:
        """A `finding` named is corrected; a sign of the list brings its grade where none was chosen."""
        told, known = self.cleaned, signs()
        sign = known.get(told["sign"])
        part = told["part"] or (sign.part if sign else "")
        if not part:
            raise Refused(fields={"part": "Say on which part it is, or choose what you see."})
        if sign and told["part"] and sign.part != told["part"]:
            raise Refused(fields={"sign": f"“{sign.sign}” is a sign of the {sign.part}, not of the {told['part']}."})
        if not sign and not told["words"]:
            raise Refused(fields={"words": "Write what you see, or choose it from the list."})
        position = self._position(told["valve"])
        grade = int(told["grade"]) if told["grade"] else sign.grade if sign else 4
        values = {
            "part": part, "position": position, "place": told["place"], "sign": sign.id if sign else "", "grade": grade, "words": told["words"],
            "measured": told["measured"],
        }  # fmt: skip
        where = position.name if position else told["place"]
        if self.text("finding"):
            row = self._row()
            self.ledger.set(row, **values)
        else:
            Build.objects.select_for_update(no_key=True).get(pk=self.subject.pk)
            rows = Finding.objects.filter(build=self.subject)
            if rows.count() >= _MOST_FINDINGS:
                raise Refused(f"There are {_MOST_FINDINGS} findings on this build: settle them in a job of their own.")
            number = (rows.aggregate(most=Max("number"))["most"] or 0) + 1
            job = Job.objects.filter(build=self.subject, closed_at=None).first()
            row = self.ledger.make(Finding, build=self.subject, job=job, number=number, by=self.member.user, **values)
        self.made = row.pk
        self.note(f"{part} {where}".strip(), "", sign.sign if sign else told["words"])

    def _row(self) -> Finding:
        return get_object_or_404(
            Finding.objects.select_for_update(no_key=True, of=("self",)), build=self.subject, pk=number_of(self.text("finding"))
        )

    def _position(self, name: str) -> Position | None:
        return Position.objects.filter(engine=self.subject.engine_id, name=name).first() if name else None


class SettleFinding(_OnBuild):
    """Say what became of it; an empty word opens it again."""

    verb = "finding settled"

    def standing(self) -> object:
        """What became of it so far."""
        return Finding.objects.filter(build=self.subject, pk=number_of(self.text("finding"))).values_list("settled", flat=True).first()

    def apply(self) -> None:
        """`settled` in words."""
        row = get_object_or_404(
            Finding.objects.select_for_update(no_key=True, of=("self",)), build=self.subject, pk=number_of(self.text("finding"))
        )
        words = self.text("settled", 200)
        if words == row.settled:
            return
        self.note(str(row), row.settled, words)
        self.ledger.set(row, settled=words)


class AddFindingPicture(_OnBuild):
    """Keep a picture of what was found, made anew."""

    verb = "picture of a finding"
    reversible = False

    def apply(self) -> None:
        """`file` and `caption`, of one `finding`."""
        row = get_object_or_404(
            Finding.objects.select_for_update(no_key=True, of=("self",)), build=self.subject, pk=number_of(self.text("finding"))
        )
        raw = sent_bytes(self, "A photograph of a phone is enough.", _LARGEST)
        if not raw:
            raise Refused("Choose a photograph first.")
        if row.pictures.count() >= _MOST_PICTURES:
            raise Refused(f"There are {_MOST_PICTURES} pictures of this finding already: remove one first.")
        picture, caption = made_anew(raw), self.text("caption", 120)
        self.ledger.make(
            FindingPicture, finding=row, by=self.member.user, caption=caption, width=picture.width, height=picture.height, data=picture.data
        )  # fmt: skip
        self.made = row.pk
        self.note(str(row), "", caption or "a picture")


class RemoveFindingPicture(_OnBuild):
    """Remove a picture for good."""

    verb = "picture removed"
    reversible = False

    def apply(self) -> None:
        """The one of `picture`."""
        found = FindingPicture.objects.select_for_update(no_key=True, of=("self",)).filter(finding__build=self.subject)
        row = get_object_or_404(found, pk=number_of(self.text("picture")))
        self.note(str(row), "a picture", "")
        self.ledger.destroy(row)


class KeepPlace(_OnBuild):
    """Keep which part went to a valve: where it came from, which way round, and why."""

    verb = "part moved"

    def standing(self) -> object:
        """Which parts lie at other valves."""
        return list(
            PartPlace.objects.filter(build=self.subject).order_by("pk").values_list("slot", "position_id", "came_from", "way", "why")
        )

    def apply(self) -> None:
        """`slot`, `valve` and `came_from` by name; a part back at its own place as it was is no move."""
        slot = self.text("slot", 12)
        if slot not in SLOTS:
            raise Refused(f"There is no such part: choose one of {', '.join(SLOTS)}.")
        names = dict(Position.objects.filter(engine=self.subject.engine_id).values_list("name", "pk"))
        valve, source = self.text("valve", 40), self.text("came_from", 40)
        if valve not in names:
            raise Refused("Choose the valve it goes to.")
        if source != "new" and source not in names:
            raise Refused("Say which valve it comes from, or that it is new.")
        way, why = self.text("way", 40), self.text("why", 120)
        Build.objects.select_for_update(no_key=True).get(pk=self.subject.pk)
        row = (
            PartPlace.objects.select_for_update(no_key=True, of=("self",))
            .filter(build=self.subject, slot=slot, position_id=names[valve])
            .first()
        )
        home = source == valve and way in ("", WAYS[0])
        if row is not None and home:
            self.note(f"{slot} of {valve}", f"from {row.came_from}", "its own")
            self.ledger.drop(row)
            return
        if home:
            return
        twice = (
            PartPlace.objects.filter(build=self.subject, slot=slot, came_from=source)
            .exclude(position_id=names[valve])
            .select_related("position")
            .first()
        )
        if source != "new" and twice:
            raise Refused(f"The {slot} of {source} went to {twice.position.name} already: one part lies in one place.")
        values = {"came_from": source, "way": way, "why": why}
        self.note(f"{slot} of {valve}", f"from {row.came_from}" if row else "its own", f"from {source}" + (f", {why}" if why else ""))
        if row is None:
            self.ledger.make(PartPlace, build=self.subject, slot=slot, position_id=names[valve], by=self.member.user, **values)
        else:
            self.ledger.set(row, **values)
