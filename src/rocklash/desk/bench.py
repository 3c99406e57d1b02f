"""A build at hand for one request: loaded once, read anew once after a command."""

from functools import cached_property
from typing import Any

from django.http import HttpRequest

from rocklash.answers.motion import with_motions
from rocklash.answers.results import BuildResult, result_of
from rocklash.commands.base import KEPT, Command, Outcome
from rocklash.commands.figures import FieldError, KeepFigure, field_error
from rocklash.records.models import Build, ClearanceSession, Membership
from rocklash.records.selectors.builds import Standing, build_or_404, last_session, standing_of
from rocklash.ui.forms import BenchForm
from valvetrain.parts.engine import Side
from valvetrain.units import UnitSystem, told


class Bench:
    """Who asks, for which build, and what follows from it; `command` and `outcome` are what was sent, if anything was."""

    def __init__(self, request: HttpRequest, member: Membership, build: Build) -> None:
        self.request, self.member, self.build = request, member, build
        self.system = UnitSystem(member.user.unit_system)
        self.command: Command | None = None
        self.outcome: Outcome | None = None

    @cached_property
    def result(self) -> BuildResult:
        """The core's review of the build, with the motions computed so far."""
        fresh = self.outcome.result if self.outcome else None
        return with_motions(fresh or result_of(self.build))

    @cached_property
    def session(self) -> ClearanceSession | None:
        """The open clearance sheet, or else the newest."""
        return last_session(self.build)

    @cached_property
    def standing(self) -> Standing:
        """Where the build stands beyond its parts: what the rail tells of Choose, Job and Proof."""
        return standing_of(self.build)

    def forget_result(self) -> None:
        """Look again for motions, which may have been computed meanwhile."""
        self.__dict__.pop("result", None)

    @property
    def side(self) -> Side:
        """The side of the head that the page's address asks for, the intake where it asks for none."""
        asked = self.request.GET.get("side", "")
        return Side(asked) if asked in set(Side) else Side.INTAKE

    def do(self, command: Command) -> Outcome:
        """Run what was sent; the build and its result are then as they stand after it."""
        self.command, self.outcome = command, command.run()
        if self.outcome.state == KEPT and self.outcome.build:
            self.build = self.outcome.build
            self.forget_result()
        elif command.light:
            self.build = build_or_404(self.member.workshop, self.build.pk)
        return self.outcome

    @property
    def field_error(self) -> FieldError | None:
        """Why the field that was sent was not kept."""
        if self.outcome and isinstance(self.command, KeepFigure):
            return field_error(self.command, self.outcome)
        return None

    @property
    def refused(self) -> str:
        """Why what was sent was not kept, in the reader's units; of a field its own error says so."""
        if not self.outcome or not self.outcome.refused or isinstance(self.command, KeepFigure):
            return ""
        return told(self.outcome.sentence or " ".join(self.outcome.fields.values()), self.system)

    def form(self, command: type[Command], **initial: Any) -> BenchForm:
        """The form of a command: with what was sent in it where that was refused, else empty."""
        assert command.form
        if isinstance(self.command, command) and self.outcome and self.outcome.refused:
            bound = self.command.bound()
            assert bound
            for name, sentence in self.wrong.items():
                if name in bound.fields and name not in bound.errors:
                    bound.add_error(name, sentence)
            return bound
        return command.form(system=self.system, about=self.build, initial=initial)

    @property
    def wrong(self) -> dict[str, str]:
        """The same by field."""
        fields = self.outcome.fields if self.outcome and self.outcome.refused else {}
        return {name: told(sentence, self.system) for name, sentence in fields.items()}

    @property
    def made(self) -> object:
        """What the command made for the page to go on with."""
        return self.outcome.made if self.outcome else None
