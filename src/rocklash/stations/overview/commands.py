"""A fix taken from the overview into the proposed set-up."""

from rocklash.answers.results import result_of
from rocklash.answers.trying import Fix, fix_of
from rocklash.commands.base import Command, Refused
from rocklash.commands.parts import free_name
from rocklash.records.figure_column import Stored, stored_from
from rocklash.records.models import Build, Part, SetupRole, SetupSide
from valvetrain.parts.figure import FigureMap
from valvetrain.studies.review.trying import still_told


class TakeFix(Command):
    """Write what a fix changes: into the goal, into how a side is fitted, and into new parts that take the place of those there, so that nothing that
    others use is changed."""

    verb = "fix taken"
    nothing = "The fix was not taken."

    def apply(self) -> None:
        """`fix` is its name, `seen` its amount as the person saw it."""
        fix = fix_of(result_of(self.subject), self.text("fix"))
        if fix is None or fix.seen != self.text("seen"):
            raise Refused("Meanwhile the figures changed, and with them this fix. Look at the fixes as they are now.", conflict=True)
        assert fix.change
        if fix.change.goal:
            build = Build.objects.select_for_update(no_key=True).get(pk=self.subject.pk)
            self.ledger.set(build, figures=build.figures | self._told(fix.change.goal))
        if fix.side:
            self._on_side(fix)
        self.note(f"{fix.remedy.action}{f', {fix.side.value}' if fix.side else ''}")

    def _told(self, figures: FigureMap) -> Stored:
        by = self.member.user.username
        return {key: row | {"by": by} for key, row in stored_from(figures).items()}

    def _on_side(self, fix: Fix) -> None:
        assert fix.change
        assert fix.side
        rows = SetupSide.objects.select_for_update(of=("self",), no_key=True).select_related("setup")
        row = rows.get(setup__build=self.subject, setup__role=SetupRole.PROPOSED, side=fix.side.value)
        if fix.change.fit:
            self.ledger.set(row, figures=row.figures | self._told(fix.change.fit))
        for slot, figures in fix.change.parts.items():
            self.ledger.set(row, **{slot: self._wanted(getattr(row, slot), figures, row.side)})

    def _wanted(self, was: Part, figures: FigureMap, side: str) -> Part:
        """A part like the one there with the figures wanted; a load at a height takes the place of a force on the seat."""
        made: Part = self.ledger.make(
            Part, workshop=self.subject.workshop, engine=self.subject.engine, kind=was.kind, name=free_name(self.subject, was, "wanted"), side=side,
            figures=still_told(was.figures, figures) | self._told(figures), facts=dict(was.facts), lobe=was.lobe,
        )  # fmt: skip
        return made
