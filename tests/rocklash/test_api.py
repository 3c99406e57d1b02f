"""Read-only records for machines: by token, in SI, as their description says, and nothing of another workshop."""

import json
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
from django.test import Client
from django.utils import timezone
from jsonschema import Draft202012Validator
from tools.openapi import text

from rocklash.desk.machines import fingerprint_of
from rocklash.records.models import AccessKey, AccessKind, Build, CareEntry, Membership, RunEntry
from rocklash.stations.api import views
from rocklash.stations.api.schemas import ANSWERS
from valvetrain.units import QuantityKind, UnitSystem, quantity

DESCRIPTION = json.loads(views.FILE.read_text(encoding="utf-8"))


@pytest.fixture
def token(petrel: Build, owner: Membership) -> str:
    secret = "a-secret-of-the-shed"
    AccessKey.objects.create(workshop=petrel.workshop, kind=AccessKind.API, name="sheet", digest=fingerprint_of(secret), by=owner.user)
    return secret


def asked(token: str, where: str, **query: Any) -> Any:
    return Client(headers={"Authorization": f"Bearer {token}"}).get(f"/api/v1/{where}", query)


def held(answer: Any, template: str) -> Any:
    """The answer, held against the description that ships by a validator of JSON Schema."""
    schema = DESCRIPTION["paths"][template]["get"]["responses"][str(answer.status_code)]["content"]["application/json"]["schema"]
    content = json.loads(answer.content)
    Draft202012Validator({**schema, "components": DESCRIPTION["components"]}).validate(content)
    return content


def test_the_description_that_ships_is_that_of_the_code() -> None:
    assert views.FILE.read_text(encoding="utf-8") == text()
    assert set(DESCRIPTION["paths"]) == set(ANSWERS)
    for schema in DESCRIPTION["components"]["schemas"].values():
        Draft202012Validator.check_schema(schema)
    assert json.loads(b"".join(Client().get("/api/v1/openapi.json").streaming_content)) == DESCRIPTION  # type: ignore[attr-defined]


def test_builds_checks_and_what_is_due_as_described(petrel: Build, token: str) -> None:
    CareEntry.objects.create(build=petrel, what="oil and filter", made_on=timezone.localdate() - timedelta(days=60), seconds=0.0)
    RunEntry.objects.create(build=petrel, made_on=timezone.localdate() - timedelta(days=3), seconds=70 * 3600.0)
    page = held(asked(token, "builds/"), "/api/v1/builds/")
    assert [(line["number"], line["name"]) for line in page["builds"]] == [(petrel.pk, "Petrel 1498")]
    assert held(asked(token, f"builds/{petrel.pk}/"), "/api/v1/builds/{number}/")["archived"] is False
    checks = held(asked(token, f"builds/{petrel.pk}/checks/"), "/api/v1/builds/{number}/checks/")
    assert len(checks["checks"]) > 10
    assert checks["goal_speed"] == pytest.approx(8400 / 60)
    by_name = {kind.name.lower(): kind for kind in QuantityKind}
    assert all(quantity(one["limit"], by_name[one["quantity"]], UnitSystem.METRIC) for one in checks["checks"])
    due = held(asked(token, "due/"), "/api/v1/due/")
    oil = next(row for row in due["engines"][0]["due"] if row["what"] == "oil and filter" and row["unit"] == "h")
    assert (oil["state"], oil["used"], oil["least"]) == ("over", 70.0, 20.0)


@pytest.mark.parametrize("header", ["", "Bearer", "Bearer wrong", "Basic a-secret-of-the-shed", "Bearer " + "x" * 5000, "bearer \u00e9"])
def test_without_its_token_nothing_is_told(petrel: Build, token: str, header: str) -> None:
    answer = Client(headers={"Authorization": header} if header else {}).get("/api/v1/builds/")
    assert held(answer, "/api/v1/builds/")["wrong"].startswith("Send a token")
    assert answer.status_code == 401
    assert "Petrel" not in answer.content.decode()


def test_a_key_of_the_calendar_or_of_another_shop_opens_nothing_here(
    petrel: Build, token: str, stranger: Membership, builder: Membership
) -> None:
    AccessKey.objects.create(workshop=petrel.workshop, kind=AccessKind.CALENDAR, name="c", digest=fingerprint_of("calendar-key"))
    assert asked("calendar-key", "builds/").status_code == 401
    AccessKey.objects.create(workshop=stranger.workshop, kind=AccessKind.API, name="o", digest=fingerprint_of("other-key"))
    assert json.loads(asked("other-key", "builds/").content)["count"] == 0
    for where in (f"builds/{petrel.pk}/", f"builds/{petrel.pk}/checks/"):
        assert held(asked("other-key", where), "/api/v1/builds/{number}/checks/")["wrong"]
        assert asked("other-key", where).status_code == 404
    assert json.loads(asked("other-key", "due/").content)["engines"] == []
    assert Client().get(f"/calendar/{token}.ics").status_code == 404
    AccessKey.objects.all().delete()
    assert asked(token, "builds/").status_code == 401


def test_nothing_can_be_changed_and_odd_questions_get_a_sentence(petrel: Build, token: str) -> None:
    client = Client(headers={"Authorization": f"Bearer {token}"}, enforce_csrf_checks=True)
    for method in ("post", "put", "patch", "delete"):
        answer = getattr(client, method)("/api/v1/builds/")
        assert held(answer, "/api/v1/builds/")["wrong"].startswith("Nothing can be changed")
        assert answer.status_code == 405
    for query in ({"limit": "0"}, {"limit": "9" * 40}, {"limit": "ten"}, {"offset": "-1"}, {"offset": "\u0663"}, {"limit": "5.5"}):
        answer = asked(token, "builds/", **query)
        assert answer.status_code == 400
        assert "whole number" in held(answer, "/api/v1/builds/")["wrong"]
    assert asked(token, f"builds/{'9' * 30}/").status_code in (401, 404)


def test_the_secret_is_kept_as_its_fingerprint_alone(petrel: Build, token: str) -> None:
    key = AccessKey.objects.get()
    assert token not in " ".join(str(value) for value in key.__dict__.values())
    assert key.used_at is None
    asked(token, "builds/")
    assert AccessKey.objects.get().used_at is not None
    assert Path(views.FILE).stat().st_size < 60_000
