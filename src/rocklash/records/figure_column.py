"""The one form in which figures lie in a `figures` column, and the way there and back."""

import hashlib
from typing import Any

from pydantic import BaseModel, ConfigDict

from rocklash.records.models import SetupSide, ValveFit
from valvetrain.parts.catalogue import FIGURES, Owner, usual_spread
from valvetrain.parts.figure import Basis, Figure, FigureMap

Stored = dict[str, dict[str, Any]]


class KeptFigure(BaseModel):
    """One figure as it is kept: SI value and spread (k = 2), how it is known, what was typed in which unit, by whom and when (ISO), and of a
    maker's figure the page of the manual."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    value: float
    spread: float
    basis: Basis
    typed: str = ""
    unit: str = ""
    by: str = ""
    at: str = ""
    page: str = ""

    def figure(self) -> Figure:
        """The core's figure."""
        return Figure(self.value, self.spread, self.basis)


def figures_of(stored: Stored, owner: Owner) -> dict[str, Figure]:
    """Core figures of a column. Raises ValueError for a key that the catalogue does not know, or a form that is not a KeptFigure's: a renamed
    key is carried over by a migration, never dropped in silence."""
    found = {}
    for key, row in stored.items():
        if (owner, key) not in FIGURES:
            raise ValueError(f"a {owner} holds “{key}”, which is no figure of the catalogue")
        found[key] = KeptFigure.model_validate(row).figure()
    return found


def stored_from(figures: FigureMap) -> Stored:
    """A column from core figures (import, templates): nothing was typed, so nothing is kept as typed."""
    return {
        key: KeptFigure(value=each.value, spread=each.spread, basis=each.basis).model_dump(mode="json") for key, each in figures.items()
    }


def stored_figure(
    owner: Owner,
    key: str,
    value: float,
    basis: Basis,
    *,
    typed: str = "",
    unit: str = "",
    by: str = "",
    at: str = "",
    spread: float | None = None,
) -> dict[str, Any]:
    """One entry of a column, with the spread usual for its basis unless one is given."""
    wide = usual_spread(FIGURES[owner, key], value, basis) if spread is None else spread
    return KeptFigure(value=value, spread=wide, basis=basis, typed=typed, unit=unit, by=by, at=at).model_dump(mode="json")


def fingerprint(stored: Stored, key: str) -> str:
    """What a person saw in a field: compared when they write, so that nobody overwrites somebody silently."""
    row = stored.get(key)
    return f"{row['value']:.9g} {row['basis']}" if row else "none"


def side_fingerprint(row: SetupSide) -> str:
    """What a person saw of a side of a set-up: its parts and how they are fitted."""
    parts = [getattr(row, f"{slot}_id") for slot in ("outer_spring", "inner_spring", "retainer", "keepers")]
    return hashlib.blake2b(repr((parts, sorted(row.figures.items()))).encode(), digest_size=8).hexdigest()


def fit_fingerprint(fit: ValveFit | None) -> str:
    """What a person saw of one valve's fit."""
    values = (fit.height, fit.protrusion, fit.drop, fit.shim) if fit else ()
    return "/".join("" if value is None else f"{value:.7f}" for value in values) or "none"
