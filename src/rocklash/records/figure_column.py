"""The one form in which figures lie in a `figures` column, and the way there and back."""

from typing import Any

from valvetrain.parts.catalogue import FIGURES, Owner, usual_spread
from valvetrain.parts.figure import Basis, Figure, FigureMap

Stored = dict[str, dict[str, Any]]


def figures_of(stored: Stored, owner: Owner) -> dict[str, Figure]:
    """Core figures of a column. Keys that the catalogue no longer knows are left out."""
    found = {}
    for key, row in stored.items():
        if (owner, key) in FIGURES:
            found[key] = Figure(row["value"], row["spread"], Basis(row["basis"]))
    return found


def stored_from(figures: FigureMap) -> Stored:
    """A column from core figures (import, templates): nothing was typed, so nothing is kept as typed."""
    return {
        key: {"value": f.value, "spread": f.spread, "basis": f.basis.value, "typed": "", "unit": "", "by": "", "at": ""}
        for key, f in figures.items()
    }


def stored_figure(owner: Owner, key: str, value: float, basis: Basis, typed: str, unit: str, by: str, at: str) -> dict[str, Any]:
    """One entry of a column, with the spread usual for its basis."""
    spread = usual_spread(FIGURES[owner, key], value, basis)
    return {"value": value, "spread": spread, "basis": basis.value, "typed": typed, "unit": unit, "by": by, "at": at}


def fingerprint(stored: Stored, key: str) -> str:
    """What a person saw in a field: compared when they write, so that nobody overwrites somebody silently."""
    row = stored.get(key)
    return f"{row['value']:.9g} {row['basis']}" if row else "none"
