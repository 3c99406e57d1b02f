"""Two people on one sheet: nobody writes over somebody silently, and what is typed for a signed sheet begins no other."""

import inspect
import re
from typing import Any

import pytest
from django.test import Client
from django.urls import get_resolver
from django.utils import timezone
from tinyhtml5 import parse

from rocklash.commands.base import Command
from rocklash.records.models import Build, ClearanceSession, Engine, Finding, Membership, Position, SetupSide, ShimPin, ValveFit
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


def shown_form(client: Client, where: str, act: str, **wanted: str) -> dict[str, str]:
    """What the page's form of a command sends as it stands: what is hidden, filled in and chosen."""
    page = parse(client.get(where).content.decode(), namespace_html_elements=False)
    for form in page.iter("form"):
        sent = {
            field.get("name"): field.get("value") or ""
            for field in form.iter("input")
            if field.get("name") and field.get("type") not in ("checkbox", "radio", "file")
        }
        for field in form.iter("select"):
            picked = [each for each in field.iter("option") if each.get("selected") is not None] or list(field.iter("option"))[:1]
            sent[field.get("name")] = picked[0].get("value") or "" if picked else ""
        if sent.get("act") == act and all(sent.get(key) == value for key, value in wanted.items()):
            return sent
    raise AssertionError(f"no form {act} on {where}")


# page, command, which of its forms, what the first sends, what the second
OVER = [
    ("job/dates/", "promise", {}, {"promised": "2027-03-14"}, {"promised": "2027-04-01"}),
    ("job/dates/", "habits", {}, {"day_hours": "7"}, {"day_hours": "5"}),
    ("job/helpers/", "helper", {}, {"stages": "20 + 90"}, {"stages": "25 + 60"}),
    ("job/findings/", "settle", {}, {"settled": "ground off"}, {"settled": "left as it is"}),
    ("job/valves/", "place", {}, {"slot": "follower", "valve": "EX 1 fore", "came_from": "EX 2 fore"}, {"slot": "follower", "valve": "EX 1 fore", "came_from": "EX 3 fore"}),
    ("choose/family/", "family", {}, {"family": "triples"}, {"family": "fours"}),
    ("proof/next/", "table", {"key": "shim"}, {"minutes": "7"}, {"minutes": "9"}),
    ("logbook/parts/", "start", {}, {"had": "3 h"}, {"had": "9 h"}),
    ("springs/valves/", "lay", {}, {}, {}),
]  # fmt: skip


@pytest.mark.parametrize(("place", "act", "which", "first", "second"), OVER, ids=[act for _, act, *_ in OVER])
def test_whoever_comes_second_is_told_and_sends_again(
    petrel: Build,
    owner: Membership,
    client: Client,
    place: str,
    act: str,
    which: dict[str, str],
    first: dict[str, str],
    second: dict[str, str],
) -> None:
    """Both were shown the same; the first is kept, the second told; shown it anew, the second's takes its place."""
    other, where = client_for(owner), address(petrel, place)
    if place.startswith("job/"):
        client.post(
            address(petrel, "job/"),
            {
                "act": "begin-job",
                "kind": "springs",
                "here": "machine",
                "in_frame": "on",
                "has": ["liquid", "ratchet"],
                "asks": ["runs"],
                "renewed": ["spring"],
            },
        )
        Finding.objects.create(build=petrel, number=1, part="valve", words="a mark on the face")
    mine, theirs = shown_form(client, where, act, **which) | first, shown_form(other, where, act, **which) | second
    if act == "lay":
        side = SetupSide.objects.get(pk=mine["row"])
        ValveFit.objects.create(setup_side=side, position=Position.objects.filter(engine=petrel.engine, side=side.side)[0], shim=0.3e-3)
    else:
        assert client.post(where, mine).status_code in (200, 302)
    late = other.post(where, theirs)
    assert late.status_code == 409
    assert "Meanwhile" in late.content.decode()
    if act in ("family", "settle"):  # what is one word is told in the refusal
        assert f"this became “{next(iter(first.values()))}”" in late.content.decode()
    again = shown_form(other, where, act, **which)
    assert again["stands"] != theirs["stands"]
    assert other.post(where, again | second).status_code in (200, 302)
    assert shown_form(other, where, act, **which)["stands"] != again["stands"]
    assert other.post(where, again | second | {"once": theirs["once"]}).status_code == 409


# Commands that change what stands and need not look: each goes one way only, says what it wants whatever stands, or adds to what is there.
ONE_WAY = {
    "Archive", "Restore", "DeleteBuild", "HaveBack", "AskSearch", "StopSearch", "StrikeTrouble", "DropTrouble", "GotWait", "CloseJob", "StepOrder", "SetAside", "SignOff", "PutAway", "EndKey", "CloseCase", "UseObservation",
    "TakeFound", "TakeIn", "UseResults", "Tick", "TakeBack", "MoveStep", "TakeFromShelf", "PutOnShelf", "BeginRun", "EndRun", "KeepClaim", "Remove", "AddFlow", "AddSisterPart", "BeginRecheck", "BringInShelf", "Join", "LayBeside",
    "RemoveTest", "StartBuild", "KeepReading",  # readings carry the revision that was seen, one for each valve
}  # fmt: skip


def test_every_command_that_writes_over_something_looks_first() -> None:
    """Every command class of the stations: where it sets or puts a row, it looks at what was shown (`standing`, `changed`, `seen`), or is known to go one way."""
    get_resolver().url_patterns  # noqa: B018  (reads every station)
    blind = set()
    assert len(all_commands()) > 100
    for command in all_commands():
        lineage = [each for each in command.__mro__ if each.__module__.startswith("rocklash") and each is not Command]
        source = "".join(inspect.getsource(each) for each in lineage)
        looks = command.standing is not Command.standing or "self.changed(" in source or '"seen"' in source or "ImportReadings" in source
        if re.search(r"ledger\.(set|put)\(", source) and not looks:
            blind.add(command.__name__)
    assert " ".join(sorted(blind - ONE_WAY)) == ""


def all_commands() -> set[type[Command]]:
    found: set[type[Command]] = set()
    left = [Command]
    while left:
        for each in left.pop().__subclasses__():
            if each not in found and not each.__name__.startswith("_"):
                found.add(each)
            left.append(each)
    return {each for each in found if each.__module__.startswith("rocklash")}
