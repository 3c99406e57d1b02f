"""Starting builds: from a template, from a build file; off the board and back on it."""

from typing import Any

from django.utils import timezone

from rocklash.answers.archive import keeping, reading
from rocklash.answers.rows import side_rows
from rocklash.commands.base import Command, Refused, require_owner
from rocklash.commands.builds import KeepRecord
from rocklash.records.figure_column import Stored, stored_figure
from rocklash.records.models import Build, Part, SetupRole, ShimStock
from valvetrain.errors import BuildFileError
from valvetrain.formats import build_file
from valvetrain.parts.beginnings import BEGINNINGS
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use
from valvetrain.parts.figure import Basis
from valvetrain.parts.record import BuildRecord, SideRecord

_TYPED = {"bore": Owner.ENGINE, "stroke": Owner.ENGINE, "limiter": Owner.ENGINE, "goal_rpm": Owner.GOAL, "boost": Owner.GOAL}
_OF_PARTS = {"seat_load": (Owner.SPRING, "outer_spring"), "rate": (Owner.SPRING, "outer_spring"), "mass": (Owner.RETAINER, "retainer")}
_LARGEST = 2_000_000  # bytes of a build file


class StartBuild(KeepRecord):
    """Make an engine of a kind and its build; figures that were typed are kept as typed. The data is a form's, cleaned."""

    def apply(self) -> None:
        """Figures that were typed are the maker's data; those of a plausible engine that nobody changed are estimates."""
        data: Any = self.data
        per_side = 1 if data["gear"] == Gear.SIDE_VALVE else int(data["valves_per_side"])
        kind = EngineKind(int(data["cylinders"]), per_side, Gear(data["gear"]), Follower(data["follower"]), Adjuster(data["adjuster"]))
        empty = {side: SideRecord() for side in Side}
        self.target = BuildRecord(data["name"].strip(), kind, {}, {}, Use(data["use"]), (), empty, empty)
        super().apply()
        columns: dict[Owner, Stored] = {Owner.ENGINE: {}, Owner.GOAL: {}}
        for key, owner in _TYPED.items():
            if typed := data.get(key):
                columns[owner][key] = self._stored(owner, key, typed)
        self.ledger.set(self.made, figures=columns[Owner.GOAL])
        self.ledger.set(self.made.engine, figures=columns[Owner.ENGINE])
        self._springs()

    def _stored(self, owner: Owner, key: str, typed: Any) -> dict[str, Any]:
        like = BEGINNINGS.get(str(self.data.get("like") or ""))
        supposed = owner is Owner.ENGINE and like is not None and like.supposes(key, typed.value)
        basis, by = (Basis.ESTIMATE, "") if supposed else (Basis.CARD, self.member.user.username)
        return stored_figure(owner, key, typed.value, basis, typed=typed.text, unit=typed.unit, by=by)

    def _springs(self) -> None:
        """What was told of springs and retainers, on the stock parts; where one side alone was told, the other is like it."""
        rows = side_rows(self.made)
        for key, (owner, field) in _OF_PARTS.items():
            told = {side: self.data.get(f"{key}_{side.value}") for side in Side}
            for side in Side:
                other = told[Side.EXHAUST if side is Side.INTAKE else Side.INTAKE]
                if typed := told[side] or other:
                    part = getattr(rows[SetupRole.STOCK, side.value], field)
                    self.ledger.set(part, figures=part.figures | {key: self._stored(owner, key, typed)})


class ImportBuild(KeepRecord):
    """Make a build of a build file; nothing is kept by halves."""

    nothing = ""

    def apply(self) -> None:
        """The file as it was sent."""
        try:
            text = self.files["file"].read(_LARGEST + 1).decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise BuildFileError(f"This is not text in UTF-8 (byte {error.start}). Choose the .json file itself.") from error
        self.target = build_file.read(text)
        super().apply()


class ImportWhole(Command):
    """Make everything of a whole build's file, or of a workshop's in an empty workshop; nothing is kept by halves."""

    verb = "brought in"
    reversible = judged = refreshes = False
    nothing = ""

    def apply(self) -> None:
        """The zip as it was sent; the builds are what was made."""
        told = reading.read(self.files["file"].read(reading.LARGEST + 1))
        shop = self.member.workshop
        if told.holds == "workshop":
            require_owner(self.member)
            if (
                Build.objects.filter(workshop=shop).exists()
                or Part.objects.filter(workshop=shop).exists()
                or ShimStock.objects.filter(workshop=shop).exists()
            ):
                raise Refused("This file holds a whole workshop: start a new, empty workshop and bring it in there.")
        self.made = keeping.keep(shop, told)
        self.ledger.made(self.made, histories=False)
        names = ", ".join(build.name for build in self.made[:3])
        self.note(names, "", f"{len(self.made)} with all their records, written by {', '.join(told.people) or 'nobody'}"[:300])


class Archive(Command):
    """Take a build off the board; it is kept whole."""

    verb = "archived"
    judged = refreshes = False

    def apply(self) -> None:
        """Once."""
        if self.subject.archived_at is None:
            self.ledger.set(self.subject, archived_at=timezone.now())
            self.note("")


class HaveBack(Command):
    """Undo the deletion of a build: it stands on the board again."""

    verb = "had back"
    reversible = judged = refreshes = False

    def apply(self) -> None:
        """Once."""
        if self.subject.deleted_at is not None:
            self.ledger.set(self.subject, deleted_at=None, archived_at=None)
            self.note("")


class Restore(Command):
    """Put an archived build back on the board."""

    verb = "back on the board"
    judged = refreshes = False

    def apply(self) -> None:
        """Once."""
        if self.subject.archived_at is not None:
            self.ledger.set(self.subject, archived_at=None)
            self.note("")
