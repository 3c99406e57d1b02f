"""What the records look like to a machine. All figures are SI: m, N, kg, Pa, s, and 1/s for speeds of the crank; hours where the name says so."""

from datetime import date, datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.logbook.due import State, Unit

_STATES: list[Any] = [state.name.lower() for state in State]


class _Plain(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class BuildLine(_Plain):
    """One engine on the board, or in the archive."""

    number: int = Field(description="names it in the addresses")
    name: str
    engine: str = Field(description="its description")
    use: str
    archived: bool
    changed_at: datetime
    hours: float | None = Field(description="running hours, as last worked out")


class BuildPage(_Plain):
    """A page of engines, those changed last first."""

    count: int
    offset: int
    builds: list[BuildLine]


class DueItem(_Plain):
    """One thing that is due or will be; `used`, `least` and `most` count `unit`."""

    what: str
    state: str = Field(json_schema_extra={"enum": _STATES})
    used: float | None
    least: float
    most: float
    unit: Unit
    first_day: date | None = Field(description="from when on it is due")
    last_day: date | None = Field(description="by when at the latest, where that is known")
    says: str = Field(description="who says so")
    why: str
    does: str


class DueEngine(_Plain):
    """What is due on one engine."""

    number: int
    name: str
    hours: float
    worked_out_at: datetime
    due: list[DueItem]


class DueList(_Plain):
    """What is due on every engine, the most urgent first. `left` engines are not worked out yet today."""

    left: int
    engines: list[DueEngine]


class CheckItem(_Plain):
    """One check of the proposed set-up: the figure, its limit, what is left to it, and how far about 95 % reach from the figure towards the limit."""

    code: str
    title: str
    side: Literal["intake", "exhaust"] | None
    about: str
    valve: str
    quantity: str = Field(description="what is measured: length, force, speed, ratio ...")
    figure: float
    limit: float
    margin: float
    spread: float
    verdict: Verdict
    based_on: str


class BuildChecks(_Plain):
    """An engine with its checks; `contradiction` says why there are none."""

    number: int
    name: str
    verdict: Verdict
    goal_speed: float | None = Field(description="1/s")
    contradiction: str
    checks: list[CheckItem]


class Trouble(_Plain):
    """Why there is no answer, and what would be right."""

    wrong: str


ANSWERS: dict[str, tuple[str, type[BaseModel]]] = {
    "/api/v1/builds/": ("Engines, those changed last first", BuildPage),
    "/api/v1/builds/{number}/": ("One engine", BuildLine),
    "/api/v1/builds/{number}/checks/": ("Its checks", BuildChecks),
    "/api/v1/due/": ("What is due on every engine", DueList),
}
_QUERY: dict[str, list[tuple[str, str, dict[str, Any]]]] = {
    "/api/v1/builds/": [
        ("offset", "how many to leave out", {"type": "integer", "minimum": 0, "default": 0}),
        ("limit", "how many at most", {"type": "integer", "minimum": 1, "maximum": 200, "default": 50}),
        ("archived", "the archive in place of the board", {"type": "string", "enum": ["yes"]}),
    ]
}


def description(version: str) -> dict[str, Any]:
    """The whole as OpenAPI 3.1."""
    schemas: dict[str, Any] = {}

    def reference(model: type[BaseModel]) -> dict[str, str]:
        made = model.model_json_schema(ref_template="#/components/schemas/{model}", mode="serialization")
        schemas.update(made.pop("$defs", {}))
        schemas[model.__name__] = made
        return {"$ref": f"#/components/schemas/{model.__name__}"}

    def said(words: str, model: type[BaseModel]) -> dict[str, Any]:
        return {"description": words, "content": {"application/json": {"schema": reference(model)}}}

    paths = {}
    for where, (words, model) in ANSWERS.items():
        asked = [
            {"name": name, "in": "query", "required": False, "description": told, "schema": schema}
            for name, told, schema in _QUERY.get(where, [])
        ]
        if "{number}" in where:
            asked.append({"name": "number", "in": "path", "required": True, "schema": {"type": "integer"}})
        answers = {
            "200": said(words, model),
            "400": said("Something asked for cannot be read", Trouble),
            "401": said("No token, or one that was ended", Trouble),
        }
        if "{number}" in where:
            answers["404"] = said("No such engine in this workshop", Trouble)
        answers["405"] = said("Nothing can be changed here", Trouble)
        paths[where] = {"get": {"summary": words, "parameters": asked, "responses": answers}}
    return {
        "openapi": "3.1.0",
        "info": {"title": "Rock Lash, records of a workshop", "version": version, "description": "Read only. Figures are SI."},
        "security": [{"token": []}],
        "paths": paths,
        "components": {"schemas": dict(sorted(schemas.items())), "securitySchemes": {"token": {"type": "http", "scheme": "bearer"}}},
    }
