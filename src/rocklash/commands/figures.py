"""Keeping one figure: the command behind every field of a figure."""

from dataclasses import dataclass

from django.db import models
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.commands.base import Command, Outcome, Refused, number_of
from rocklash.records.figure_column import Stored, fingerprint, stored_figure
from rocklash.records.models import Build, Engine, Part, SetupSide
from rocklash.records.selectors.builds import parts_that_fit
from valvetrain.errors import QuantityError
from valvetrain.parts.catalogue import FIGURES, FigureKind, Owner
from valvetrain.parts.figure import Basis
from valvetrain.quantities import parse
from valvetrain.units import UnitSystem, amount, quantity, told

_IN_ORDER = (
    ("clearance_intake_least", "clearance_intake_most"),
    ("clearance_exhaust_least", "clearance_exhaust_most"),
    ("shim_thinnest", "shim_thickest"),
    ("idle", "limiter"),
    ("goal_rpm", "over_rev"),
    ("solid_height", "load_height"),
)


@dataclass(frozen=True)
class FieldError:
    """Why a field was not kept: which, what stood in it with its basis, and a sentence in the reader's units."""

    holder: str
    key: str
    text: str
    basis: str
    sentence: str


def holder_of(build: Build, name: str, *, lock: bool = False) -> tuple[Engine | Build | Part | SetupSide, Owner]:
    """The row that owns a figure (`engine`, `goal`, `part-12`, `fit-34`); scoped to the build, 404 for anything else."""
    kind, _, number = name.partition("-")

    def one(rows: "models.QuerySet[models.Model]", pk: int) -> models.Model:
        return get_object_or_404(rows.select_for_update(of=("self",), no_key=True) if lock else rows, pk=pk)

    if kind == "engine":
        return one(Engine.objects.all(), build.engine_id), Owner.ENGINE  # type: ignore[return-value]
    if kind == "goal":
        return one(Build.objects.all(), build.pk), Owner.GOAL  # type: ignore[return-value]
    if kind == "part":
        part: Part = one(parts_that_fit(build), number_of(number))  # type: ignore[assignment]
        return part, Owner(part.kind)
    sides = SetupSide.objects.select_related("setup__build").filter(setup__build=build)
    return one(sides, number_of(number)), Owner.FIT  # type: ignore[return-value]


def shown(stored: Stored, key: str, owner: Owner, system: UnitSystem) -> str:
    """The kept figure as a person reads it, or `not known`."""
    return quantity(stored[key]["value"], FIGURES[owner, key].kind, system) if key in stored else "not known"


class KeepFigure(Command):
    """Keep what was typed into one field. An empty text takes the figure back to an estimate."""

    verb = "figure"
    light = True
    nothing, taken_back = "", "Nothing was changed."

    def apply(self) -> None:
        """Nothing is kept when the figure changed since the person saw it, or stands against another one."""
        key, text = self.text("key"), self.text("text", 80)
        row, owner = holder_of(self.subject, self.text("holder"), lock=True)
        kind = FIGURES.get((owner, key))
        if kind is None:
            raise Refused("There is no such figure here.")
        stored: Stored = dict(row.figures)
        if self._is_kept(stored, kind, text):
            return  # sent twice: Enter and leaving the field, or again after a lost answer
        before = shown(stored, key, owner, self.system)
        if self.text("seen") != fingerprint(stored, key):
            raise Refused(
                f"Meanwhile this became {before}. Yours is still in the field: press Enter to use it, or reload the page to take theirs.",
                conflict=True,
            )
        if text:
            typed = parse(text, kind.kind, self.system)
            kind.check(typed.value, self.system)
            stored[key] = stored_figure(
                owner, key, typed.value, self._basis, typed=typed.text, unit=typed.unit, by=self.member.user.username, at=now_text()
            )
        else:
            stored.pop(key, None)
        _check_order(owner, key, stored)
        self.ledger.set(row, figures=stored)
        about = f"{row if owner not in (Owner.GOAL, Owner.ENGINE) else owner.value}, {kind.label.lower()}"
        self.note(about, before, shown(stored, key, owner, self.system))

    @property
    def _basis(self) -> Basis:
        word = self.text("basis")
        return Basis(word) if word in set(Basis) else Basis.MEASURED

    def _is_kept(self, stored: Stored, kind: FigureKind, text: str) -> bool:
        """Whether the record already says just this."""
        kept = stored.get(kind.key)
        if not text:
            return kept is None
        try:
            value = parse(text, kind.kind, self.system).value
        except QuantityError:
            return False
        return kept is not None and kept["basis"] == self.text("basis") and abs(kept["value"] - value) <= 1e-9 * abs(value)


def now_text() -> str:
    """The moment, as a figure keeps it."""
    return timezone.now().isoformat(timespec="seconds")


def _check_order(owner: Owner, key: str, stored: Stored) -> None:
    """Figures of one owner that must stand in an order."""
    for low, high in _IN_ORDER:
        if key in (low, high) and low in stored and high in stored and stored[low]["value"] >= stored[high]["value"]:
            if (low, high) == ("goal_rpm", "over_rev") and stored[low]["value"] == stored[high]["value"]:
                continue
            labels = FIGURES[owner, low], FIGURES[owner, high]
            figures = [amount(stored[name]["value"], label.kind) for name, label in zip((low, high), labels, strict=True)]
            raise QuantityError(
                f"{labels[0].label} ({figures[0]}) must be below {labels[1].label.lower()} ({figures[1]}). Change the other one first."
            )


def field_error(command: Command, outcome: Outcome) -> FieldError | None:
    """The refusal of a field as its page shows it."""
    if not outcome.refused:
        return None
    sent = (command.text("holder"), command.text("key"), command.text("text", 80), command.text("basis"))
    return FieldError(*sent, told(outcome.sentence, command.system))
