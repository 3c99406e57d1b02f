"""A fix taken from the overview into the proposed set-up."""

from rocklash.answers.results import result_of
from rocklash.answers.trying import Fix, fix_of
from rocklash.commands.base import Command, Refused
from rocklash.records.figure_column import Stored, stored_from
from rocklash.records.models import Build, Part, SetupRole, SetupSide
from rocklash.records.selectors.builds import parts_that_fit
from valvetrain.parts.figure import FigureMap

_LONGEST_NAME = 80


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
        kept = {key: told for key, told in was.figures.items() if not (key == "seat_load" and "load" in figures)}
        made: Part = self.ledger.make(
            Part, workshop=self.subject.workshop, engine=self.subject.engine, kind=was.kind, name=self._name(was), side=side,
            figures=kept | self._told(figures), facts=dict(was.facts), lobe=was.lobe,
        )  # fmt: skip
        return made

    def _name(self, was: Part) -> str:
        taken = set(parts_that_fit(self.subject).filter(kind=was.kind).values_list("name", flat=True))
        base = f"{was.name.removesuffix(', wanted')[: _LONGEST_NAME - 12]}, wanted"
        return next(name for number in range(1, 1000) if (name := base if number == 1 else f"{base} {number}") not in taken)
