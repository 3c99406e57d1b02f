"""What an engine's papers say, as view-models."""

import math
from dataclasses import dataclass

from rocklash.answers.job_facts import TORQUES
from rocklash.answers.results import BuildResult
from rocklash.commands.figures import FieldError
from rocklash.desk.fields import FieldView, field_views
from rocklash.records.models import Build
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.figure import Basis
from valvetrain.units import QuantityKind, UnitSystem, quantity


@dataclass(frozen=True, kw_only=True)
class MakerRow:
    """A figure that is its maker's, with the page of the manual."""

    holder: str
    key: str
    label: str
    figure: str
    page: str


@dataclass(frozen=True, kw_only=True)
class PapersPage:
    """Everything the page prints."""

    displacement: str
    allows: list[FieldView]
    torques: list[FieldView]
    maker: list[MakerRow]


def displacement_of(build: Build, system: UnitSystem) -> str:
    """Swept volume of the whole engine from bore and stroke as told; empty where one of them is not."""
    figures = build.engine.figures
    if not {"bore", "stroke"} <= figures.keys():
        return ""
    bore, stroke = figures["bore"]["value"], figures["stroke"]["value"]
    return quantity(build.engine.cylinders * math.pi / 4.0 * bore**2 * stroke, QuantityKind.VOLUME, system)


def papers_page(answer: BuildResult, build: Build, system: UnitSystem, trouble: FieldError | None) -> PapersPage:
    """View-model of the page."""
    completed = answer.review.completed.engine if answer.review else None

    def fields(keys: tuple[str, ...]) -> list[FieldView]:
        return field_views("engine", Owner.ENGINE, list(keys), build.engine.figures, completed, system, trouble)

    holders = (("engine", Owner.ENGINE, build.engine.figures), ("goal", Owner.GOAL, build.figures))
    maker = [
        MakerRow(
            holder=holder,
            key=key,
            label=FIGURES[owner, key].label,
            figure=quantity(figure["value"], FIGURES[owner, key].kind, system),
            page=figure.get("page", ""),
        )
        for holder, owner, stored in holders
        for key, figure in stored.items()
        if figure["basis"] == Basis.MAKER
    ]
    return PapersPage(
        displacement=displacement_of(build, system), allows=fields(("service_interval",)), torques=fields(TORQUES), maker=maker
    )
