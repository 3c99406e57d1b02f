"""Keeping one figure: the mutation behind every field of the Engine, Goal and Springs stations."""

from dataclasses import dataclass

from django.db import models, transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.answers.results import answer_for
from rocklash.commands.base import journal, require_change
from rocklash.records.figure_column import Stored, fingerprint, stored_figure
from rocklash.records.models import Build, Engine, Membership, Part, SetupSide
from rocklash.records.selectors.builds import build_or_404, parts_that_fit
from valvetrain.errors import QuantityError
from valvetrain.parts.catalogue import FIGURES, FigureKind, Owner
from valvetrain.parts.figure import Basis
from valvetrain.quantities import parse
from valvetrain.units import UnitSystem, show, unit_symbol
from valvetrain.wording import told


@dataclass(frozen=True)
class FieldEdit:
    """What a person tried to put into one field. `holder` is `engine`, `goal`, `part-12` or `fit-34`."""

    holder: str
    key: str
    text: str
    basis: str
    seen: str


@dataclass(frozen=True)
class FieldError:
    """Why a field was not kept: the attempt, a sentence, and whether somebody else got there first."""

    attempt: FieldEdit
    sentence: str
    conflict: bool = False


def _holder(build: Build, name: str) -> tuple[Engine | Build | Part | SetupSide, Owner]:
    """The row that owns the figure, locked; scoped to the build, 404 for anything else."""
    kind, _, number = name.partition("-")
    if kind == "engine":
        return Engine.objects.select_for_update().get(pk=build.engine_id), Owner.ENGINE
    if kind == "goal":
        return Build.objects.select_for_update().get(pk=build.pk), Owner.GOAL
    if kind == "part" and number.isdigit():
        parts = parts_that_fit(build).select_for_update(of=("self",))
        part = get_object_or_404(parts, pk=int(number))
        return part, Owner(part.kind)
    rows = SetupSide.objects.select_for_update().filter(setup__build=build)
    return get_object_or_404(rows, pk=int(number) if number.isdigit() else -1), Owner.FIT


def _about(build: Build, row: models.Model, key: str, owner: Owner) -> str:
    return f"{build.name}: {row if owner not in (Owner.GOAL, Owner.ENGINE) else owner.value}, {FIGURES[owner, key].label.lower()}"


def shown(stored: Stored, key: str, owner: Owner, system: UnitSystem) -> str:
    """The kept figure as a person reads it, or `not known`."""
    if key not in stored:
        return "not known"
    kind = FIGURES[owner, key].kind
    return f"{show(stored[key]['value'], kind, system)} {unit_symbol(kind, system)}".strip()


def keep_figure(member: Membership, build: Build, attempt: FieldEdit) -> FieldError | None:
    """Keep what was typed into one field, or say why not. An empty text takes the figure back to an estimate.

    Nothing is kept when the figure contradicts another one, or changed since the person saw it.
    """
    require_change(member)
    system = UnitSystem(member.user.unit_system)
    try:
        with transaction.atomic():
            return _keep(member, build, attempt, system)
    except QuantityError as error:
        return FieldError(attempt, told(str(error), system))


def _keep(member: Membership, build: Build, attempt: FieldEdit, system: UnitSystem) -> FieldError | None:
    row, owner = _holder(build, attempt.holder)
    kind = FIGURES.get((owner, attempt.key))
    if kind is None:
        raise QuantityError("There is no such figure here.")
    stored: Stored = row.figures
    if _is_kept(stored, attempt, kind, system):
        return None  # sent twice: Enter and leaving the field, or again after a lost answer
    if attempt.seen != fingerprint(stored, attempt.key):
        now = shown(stored, attempt.key, owner, system)
        sentence = f"Meanwhile this became {now}. Yours is kept in the field: press Enter to use it, or reload the page to take theirs."
        return FieldError(attempt, sentence, conflict=True)
    before = shown(stored, attempt.key, owner, system)
    if attempt.text.strip():
        typed = parse(attempt.text, kind.kind, system)
        kind.check(typed.value, system)
        basis = Basis(attempt.basis) if attempt.basis in set(Basis) else Basis.MEASURED
        now_text = timezone.now().isoformat(timespec="seconds")
        stored[attempt.key] = stored_figure(owner, attempt.key, typed.value, basis, typed.text, typed.unit, member.user.username, now_text)
    else:
        stored.pop(attempt.key, None)
    _check_pairs(owner, attempt.key, stored, system)
    row.save(update_fields=["figures"])
    if before != shown(stored, attempt.key, owner, system) or attempt.text.strip():
        journal(member, "figure", _about(build, row, attempt.key, owner), before, shown(stored, attempt.key, owner, system))
    Build.objects.filter(pk=build.pk).update(updated_at=timezone.now())
    return _contradiction(member, build, attempt)


def _is_kept(stored: Stored, attempt: FieldEdit, kind: FigureKind, system: UnitSystem) -> bool:
    """Whether the record already says just this."""
    kept = stored.get(attempt.key)
    if not attempt.text.strip():
        return kept is None
    try:
        value = parse(attempt.text, kind.kind, system).value
    except QuantityError:
        return False
    return kept is not None and kept["basis"] == attempt.basis and abs(kept["value"] - value) <= 1e-9 * abs(value)


def _check_pairs(owner: Owner, key: str, stored: Stored, system: UnitSystem) -> None:
    """Figures of one owner that must stand in an order."""
    pairs = [("clearance_intake_least", "clearance_intake_most"), ("clearance_exhaust_least", "clearance_exhaust_most")]
    pairs += [("shim_thinnest", "shim_thickest"), ("idle", "limiter"), ("goal_rpm", "over_rev"), ("solid_height", "load_height")]
    for low, high in pairs:
        if key in (low, high) and low in stored and high in stored and stored[low]["value"] >= stored[high]["value"]:
            if (low, high) == ("goal_rpm", "over_rev") and stored[low]["value"] == stored[high]["value"]:
                continue
            labels = FIGURES[owner, low], FIGURES[owner, high]
            unit = unit_symbol(labels[0].kind, system)
            figures = [show(stored[name]["value"], label.kind, system) for name, label in zip((low, high), labels, strict=True)]
            raise QuantityError(
                f"{labels[0].label} ({figures[0]} {unit}) must be below {labels[1].label.lower()} ({figures[1]} {unit}). Change the other one first."
            )


def _contradiction(member: Membership, build: Build, attempt: FieldEdit) -> FieldError | None:
    """Judge the build as it would be; roll back when its figures contradict one another and did not before."""
    fresh = build_or_404(member.workshop, build.pk)
    trouble = answer_for(fresh).contradiction
    if trouble and not answer_for(build).contradiction:
        transaction.set_rollback(True)
        return FieldError(attempt, f"{told(trouble, UnitSystem(member.user.unit_system))} Nothing was changed.")
    return None
