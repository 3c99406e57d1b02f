"""What a figure was before: who changed it, when, from what to what."""

from dataclasses import dataclass

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.timezone import localtime

from rocklash.commands.figures import holder_of
from rocklash.desk.access import on_build
from rocklash.records.models import Build, FigureChange, Membership
from rocklash.records.selectors.journal import figure_changes
from valvetrain.parts.catalogue import FIGURES
from valvetrain.units import QuantityKind, UnitSystem, quantity


@dataclass(frozen=True, kw_only=True)
class PastRow:
    """One change of a figure as it is read."""

    when: str
    who: str
    before: str
    after: str
    back: str = ""


def _read(change: FigureChange | None, kind: QuantityKind, system: UnitSystem) -> str:
    if change is None or change.value is None:
        return "not known"
    typed = f" (typed {change.typed})" if change.typed else ""
    return f"{quantity(change.value, kind, system)}, {change.basis}{typed}"


def past_rows(changes: list[FigureChange], kind: QuantityKind, system: UnitSystem, *, may: bool = False) -> list[PastRow]:
    """The changes, newest first, each with what stood there before it, and that to put back for whoever `may`."""
    earlier = [*changes[1:], None]
    return [
        PastRow(
            when=f"{localtime(change.at):%d %b %Y %H:%M}",
            who=str(change.by or "somebody"),
            before=_read(before, kind, system),
            after=_read(change, kind, system),
            back=quantity(before.value, kind, system) if before is not None and before.value is not None and may else "",
        )
        for change, before in zip(changes, earlier, strict=True)
    ]


@on_build
def figure_history(request: HttpRequest, member: Membership, build: Build, holder: str, key: str) -> HttpResponse:
    """The history of one figure, to stand beside its field."""
    row, owner = holder_of(build, holder)
    kind = FIGURES.get((owner, key))
    changes = figure_changes(row, key) if kind else []
    rows = past_rows(changes, kind.kind, UnitSystem(member.user.unit_system), may=member.may_change) if kind else []
    return render(request, "ui/past.html", {"rows": rows, "label": kind.label if kind else key, "holder": holder, "key": key})
