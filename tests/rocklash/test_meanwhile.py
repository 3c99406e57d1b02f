"""Two people on one sheet: nobody writes over somebody silently, and what is typed for a signed sheet begins no other."""

from typing import Any

import pytest
from django.test import Client
from django.utils import timezone

from rocklash.records.models import Build, ClearanceSession, Engine, Membership, ShimPin
from tests.rocklash.conftest import address, client_for

SHOWN = {"was_method": "go_no_go", "was_aim": "middle", "was_hours": "", "was_temperature": "", "was_reason": ""}
FORM = {"act": "manner", "method": "go_no_go", "aim": "middle", "hours": "", "temperature": "", "reason": ""}


@pytest.fixture
def client(builder: Membership) -> Client:
    return client_for(builder)


def lash(client: Client, build: Build, **told: Any) -> Any:
    return client.post(address(build, "lash/"), told)


def test_two_who_change_two_things_of_a_sheet_keep_both(petrel: Build, client: Client, owner: Membership) -> None:
    assert lash(client, petrel, **(FORM | SHOWN | {"hours": "41.5"})).status_code == 200
    other = client_for(owner)  # still shows the sheet without hours
    assert lash(other, petrel, **(FORM | SHOWN | {"temperature": "18"})).status_code == 200
    sheet = ClearanceSession.objects.get()
    assert sheet.hours == 41.5
    assert sheet.temperature == pytest.approx(291.15)


@pytest.mark.parametrize(
    ("key", "mine", "theirs"),
    [("hours", "41.5", "39"), ("temperature", "18", "21"), ("reason", "tight ones close", "as always"), ("aim", "loose end", "own")],
)
def test_one_thing_changed_by_two_is_told_and_the_second_press_replaces(
    petrel: Build, client: Client, owner: Membership, key: str, mine: str, theirs: str
) -> None:
    assert lash(client, petrel, **(FORM | SHOWN | {key: theirs})).status_code == 200
    late = lash(client_for(owner), petrel, **(FORM | SHOWN | {key: mine}))
    assert late.status_code == 409
    assert "Meanwhile" in late.content.decode()
    assert lash(client_for(owner), petrel, **(FORM | SHOWN | {key: mine, f"was_{key}": theirs})).status_code == 200
    found = ClearanceSession.objects.get()
    assert {
        "hours": f"{found.hours or 0:g}",
        "temperature": f"{(found.temperature or 0) - 273.15:g}",
        "reason": found.reason,
        "aim": found.aim,
    }[key] == mine


def test_firing_order_and_shape_are_not_written_over(petrel: Build, client: Client) -> None:
    where = address(petrel, "lash/stops/")
    told = {"firing": "1-3-2", "lash_note": "", "was_firing": "1-2-3", "was_lash_note": ""}
    assert client.post(where, told).status_code in (200, 409)
    Engine.objects.filter(pk=petrel.engine_id).update(firing_order="1-3-2", clearance_note="cold")
    late = client.post(where, {"firing": "1-2-3", "was_firing": "1@0 2@240 3@480", "lash_note": "cold", "was_lash_note": "cold"})
    assert late.status_code == 409
    kept = client.post(where, {"firing": "1-3-2", "was_firing": "1-3-2", "lash_note": "cold, overnight", "was_lash_note": "cold"})
    assert kept.status_code == 200
    assert Engine.objects.get(pk=petrel.engine_id).clearance_note == "cold, overnight"
    Engine.objects.filter(pk=petrel.engine_id).update(shim_shape="9.5 mm round")
    shelf = address(petrel, "lash/shelf/")
    assert client.post(shelf, {"act": "shape", "takes": "7.5 mm", "was_takes": ""}).status_code == 409
    assert client.post(shelf, {"act": "shape", "takes": "7.5 mm", "was_takes": "9.5 mm round"}).status_code == 200


def test_pins_of_another_are_seen_first(petrel: Build, client: Client, owner: Membership) -> None:
    valve = petrel.engine.positions.first()
    assert valve is not None
    assert lash(client, petrel, act="pin", valve=valve.pk, how="stays", was_pins="").status_code == 200
    assert lash(client_for(owner), petrel, act="pin", valve=valve.pk, how="free", was_pins="").status_code == 409
    assert ShimPin.objects.count() == 1
    assert lash(client_for(owner), petrel, act="pin", valve=valve.pk, how="free", was_pins="stays").status_code == 200
    assert not ShimPin.objects.exists()


def test_what_comes_late_for_a_signed_sheet_begins_no_other(petrel: Build, client: Client, builder: Membership) -> None:
    sheet = ClearanceSession.objects.create(build=petrel, started_by=builder.user)
    valve = petrel.engine.positions.first()
    assert valve is not None
    ClearanceSession.objects.filter(pk=sheet.pk).update(signed_at=timezone.now(), signed_by=builder.user)
    reading = {"valve": valve.pk, "goes": "0.2", "stops": "0.22", "shim": "2.5", "source": "micrometer", "seen": "0"}
    for told in (
        {"act": "read"} | reading,
        FORM | {"hours": "9"},
        {"act": "pin", "valve": valve.pk, "how": "stays"},
        {"act": "sign"},
        {"act": "recheck"},
    ):
        late = lash(client, petrel, on=sheet.pk, **told)
        assert late.status_code == 409, told
        assert "was signed by bert" in late.content.decode()
    assert ClearanceSession.objects.count() == 1
    assert lash(client, petrel, act="again").status_code == 200
    assert ClearanceSession.objects.count() == 2
