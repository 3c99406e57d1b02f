"""Read-only answers in JSON, to whoever brings a token of the workshop."""

from collections.abc import Callable
from datetime import date
from functools import wraps
from pathlib import Path
from typing import Any

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from pydantic import BaseModel

from rocklash.answers.due import refresh
from rocklash.answers.results import result_of
from rocklash.desk.machines import bearer_of, key_of
from rocklash.records.models import AccessKind, Build, DueState, Workshop
from rocklash.records.selectors import due as rows
from rocklash.records.selectors.builds import build_or_404, builds_listed
from rocklash.stations.api import schemas
from valvetrain import wording
from valvetrain.studies.checks.check import Check, Verdict
from valvetrain.studies.logbook.due import Unit
from valvetrain.units import UnitSystem, told

FILE = Path(__file__).parent / "openapi.json"
_AT_ONCE, _PAGE, _MOST = 25, 50, 200


def _answer(model: BaseModel, status: int = 200) -> HttpResponse:
    answer = HttpResponse(model.model_dump_json(), content_type="application/json", status=status)
    answer["Cache-Control"] = "private, no-store"
    return answer


def _wrong(words: str, status: int) -> HttpResponse:
    answer = _answer(schemas.Trouble(wrong=words), status)
    if status == 401:
        answer["WWW-Authenticate"] = 'Bearer realm="records"'
    return answer


class _Unreadable(Exception):  # noqa: N818  (carries a sentence)
    """Something asked for cannot be read."""


def by_token(view: Callable[..., BaseModel]) -> Callable[..., HttpResponse]:
    """Hand the view the workshop of the token; everything else is answered in JSON too."""

    @csrf_exempt  # nothing is changed here, and no cookie is looked at
    @wraps(view)
    def guarded(request: HttpRequest, **place: Any) -> HttpResponse:
        if request.method not in ("GET", "HEAD"):
            answer = _wrong("Nothing can be changed here: ask with GET.", 405)
            answer["Allow"] = "GET, HEAD"
            return answer
        key = key_of(AccessKind.API, bearer_of(request))
        if key is None:
            return _wrong("Send a token of the workshop: Authorization: Bearer and the token. Its owner makes one on What is due.", 401)
        try:
            return _answer(view(request, key.workshop, **place))
        except Http404:
            return _wrong("This workshop has no such engine.", 404)
        except _Unreadable as error:
            return _wrong(str(error), 400)

    return guarded


def _number(request: HttpRequest, name: str, usual: int, least: int, most: int) -> int:
    text = request.GET.get(name, "")
    if not text:
        return usual
    if not (text.isascii() and text.isdigit() and len(text) < 10 and least <= int(text) <= most):
        raise _Unreadable(f"{name} is a whole number from {least} to {most}.")
    return int(text)


def _line(build: Build) -> schemas.BuildLine:
    state: DueState | None = getattr(build, "due_state", None)
    return schemas.BuildLine(
        number=build.pk, name=build.name, engine=build.engine.description, use=build.use, archived=build.archived_at is not None,
        changed_at=build.updated_at, hours=state.hours if state else None,
    )  # fmt: skip


@by_token
def builds(request: HttpRequest, workshop: Workshop) -> schemas.BuildPage:
    """Engines, those changed last first."""
    offset, limit = _number(request, "offset", 0, 0, 10**6), _number(request, "limit", _PAGE, 1, _MOST)
    count, found = builds_listed(workshop, offset, limit, archived=request.GET.get("archived") == "yes")
    return schemas.BuildPage(count=count, offset=offset, builds=[_line(build) for build in found])


@by_token
def build(request: HttpRequest, workshop: Workshop, number: int) -> schemas.BuildLine:  # noqa: ARG001  (every view gets it)
    """One engine."""
    return _line(build_or_404(workshop, number))


def _check(check: Check) -> schemas.CheckItem:
    return schemas.CheckItem(
        code=check.code.value, title=wording.title(check), side=check.side.value if check.side else None, about=check.about, valve=check.worst,
        quantity=check.kind.name.lower(), figure=check.figure, limit=check.limit, margin=check.margin, spread=check.spread, verdict=check.verdict,
        based_on=check.basis,
    )  # fmt: skip


@by_token
def checks(request: HttpRequest, workshop: Workshop, number: int) -> schemas.BuildChecks:  # noqa: ARG001  (every view gets it)
    """The checks of one engine's proposed set-up."""
    found = build_or_404(workshop, number)
    answer = result_of(found)
    review = answer.review
    return schemas.BuildChecks(
        number=found.pk, name=found.name, verdict=review.proposed.verdict if review else Verdict.UNPROVEN,
        goal_speed=review.completed.goal.goal_rpm if review else None, contradiction=told(answer.contradiction, UnitSystem.METRIC),
        checks=[_check(check) for check in review.proposed.checks] if review else [],
    )  # fmt: skip


def _due(line: dict[str, Any]) -> schemas.DueItem:
    day = lambda text: date.fromisoformat(text) if text else None
    return schemas.DueItem(
        what=line["what"], state=line["state"], used=line["used"], least=line["least"], most=line["most"], unit=Unit(line["unit"]),
        first_day=day(line["first"]), last_day=day(line["last"]), says=line["whose"], why=line["why"], does=line["does"],
    )  # fmt: skip


@by_token
def due(request: HttpRequest, workshop: Workshop) -> schemas.DueList:  # noqa: ARG001  (every view gets it)
    """What is due on every engine."""
    left = refresh(workshop, timezone.localdate(), _AT_ONCE)
    found = [
        schemas.DueEngine(
            number=state.build_id,
            name=state.build.name,
            hours=state.hours,
            worked_out_at=state.at,
            due=[_due(line) for line in state.lines],
        )
        for state in rows.due_states(workshop)
    ]
    return schemas.DueList(left=left, engines=found)


def openapi(request: HttpRequest) -> FileResponse:  # noqa: ARG001
    """The description of all this; it tells nothing of any workshop."""
    return FileResponse(FILE.open("rb"), content_type="application/json")
