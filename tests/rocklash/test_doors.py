"""Who gets in, who may change what, and what the browser is told."""

import itertools
import re
from pathlib import Path
from typing import Any

import pytest
from django.test import Client, override_settings
from django.urls import get_resolver
from django.utils import timezone

from rocklash.desk.registry import stations
from rocklash.records.models import Build, Invitation, JournalEntry, Membership, Reading, User, Workshop
from rocklash.stations.board.forms import ADJUSTERS, FOLLOWERS
from tests.rocklash.conftest import PAGES, address, client_for
from valvetrain.parts.engine import FITTING, Adjuster, Follower


def _pages() -> list[tuple[str, Any]]:
    """Every address of every station that needs no number of its own, from the registry, with its view."""
    return [
        (station.prefix + str(pattern.pattern), pattern.callback)
        for station in stations()
        for pattern in station.urls
        if "<" not in str(pattern.pattern)
    ]


get_resolver().url_patterns  # noqa: B018  (reads the registry)
STATIONS = [where for where, _ in _pages()]
TAKEN = [(where, act) for where, view in _pages() for act in getattr(view, "takes", {})]
MUTATIONS = [
    ("engine/", {"holder": "engine", "key": "bore", "text": "97", "basis": "measured", "seen": "0.096 card"}),
    ("engine/", {"valve": "1", "text": "0.1", "seen": "0.0000000"}),
    ("goal/", {"use": "drag", "seen": "rescue"}),
    ("springs/", {"row": "1", "slot": "retainer", "part": "1", "seen": "1"}),
    ("springs/speed/", {"act": "seen", "side": "intake", "role": "stock", "speed": "7900"}),
    ("springs/speed/", {"act": "use", "observation": "1", "use": "no"}),
    ("springs/valves/", {"act": "stand", "row": "1", "height": "37.4", "seen": "none"}),
    ("springs/valves/", {"act": "weigh", "row": "1", "slot": "valve", "mass": "42"}),
    ("springs/valves/", {"act": "swing", "row": "1", "way": "geometry", "mass": "30"}),
    ("springs/valves/", {"act": "lay", "row": "1"}),
    ("room/measure/", {"act": "read", "gap": "piston_to_valve", "way": "clay", "readings": "1.6"}),
    ("room/measure/", {"act": "drop", "reading": "1"}),
    ("room/measure/", {"act": "rods", "word": "titanium", "seen": ""}),
    ("room/measure/", {"holder": "engine", "key": "deck", "text": "0.4", "basis": "measured", "seen": "none"}),
    ("room/over-rev/", {"act": "begin", "peak": "9600"}),
    ("room/over-rev/", {"act": "found", "case": "1", "step": "drive", "finding": "marks", "seen": ""}),
    ("room/over-rev/", {"act": "close", "case": "1"}),
    ("room/gearing/", {"holder": "goal", "key": "road_speed", "text": "80", "basis": "card", "seen": "none"}),
    ("cams/", {"row": "1", "slot": "cam", "part": "1", "seen": "2"}),
    ("cams/", {"act": "beside", "row": "1", "letter": "B", "part": "1"}),
    ("cams/", {"act": "new", "row": "1", "name": "x"}),
    ("cams/timing/", {"act": "degree", "row": "1", "first": "70", "second": "140"}),
    ("lash/", {"act": "read", "valve": "1", "goes": "0.2", "stops": "0.22", "shim": "2.5", "source": "micrometer", "seen": "0"}),
    ("lash/", {"act": "instrument", "valve": "1", "seen": "0"}),
    ("lash/", {"act": "pin", "valve": "1", "how": "stays"}),
    ("lash/stops/", {"firing": "1-3-2"}),
    ("lash/shelf/", {"sizes": "2.5"}),
    ("lash/shelf/", {"act": "take", "row": "1"}),
    ("lash/shelf/", {"act": "shape", "takes": "round"}),
    ("lash/history/", {"fact": "material", "part": "1", "seen": "", "word": "titanium 6-4"}),
    ("lash/in/", {"act": "keep", "text": "valve,goes\nEX 1 fore,0.2\n"}),
    ("lash/", {"act": "take back"}),
    ("lash/", {"act": "manner", "aim": "loose end"}),
    ("lash/", {"act": "recheck"}),
    ("lash/", {"act": "sign"}),
    ("lash/", {"act": "again"}),
]


def test_another_workshops_build_is_not_there(petrel: Build, stranger: Membership) -> None:
    client = client_for(stranger)
    for station in STATIONS:
        assert client.get(address(petrel, station)).status_code == 404, station
        assert client.get(f"/shop/{stranger.workshop.slug}/build/{petrel.pk}/{station}").status_code == 404, station


@pytest.mark.parametrize(("station", "data"), MUTATIONS)
def test_a_stranger_changes_nothing(petrel: Build, stranger: Membership, station: str, data: dict[str, str]) -> None:
    before = JournalEntry.objects.count()
    for path in (address(petrel, station), f"/shop/{stranger.workshop.slug}/build/{petrel.pk}/{station}"):
        assert client_for(stranger).post(path, data).status_code == 404
    assert JournalEntry.objects.count() == before


@pytest.mark.parametrize("station", sorted({station for station, _ in TAKEN}))
def test_every_command_of_every_page_is_shut_to_viewers_and_strangers(
    petrel: Build, viewer: Membership, stranger: Membership, station: str
) -> None:
    before = JournalEntry.objects.count()
    sees, knows_nobody, outside = client_for(viewer), client_for(stranger), Client()
    for act in (act for place, act in TAKEN if place == station):
        assert sees.post(address(petrel, station), {"act": act}).status_code == 403, act
        assert knows_nobody.post(address(petrel, station), {"act": act}).status_code == 404, act
        assert outside.post(address(petrel, station), {"act": act}).status_code == 302, act
        assert JournalEntry.objects.count() == before, act


def test_every_station_stands_in_the_registry() -> None:
    folders = {path.parent.name for path in Path("src/rocklash/stations").glob("*/station.py")}
    assert {station.key for station in stations()} == folders
    assert len(TAKEN) > 50


@pytest.mark.parametrize(("station", "data"), MUTATIONS)
def test_a_viewer_is_refused_with_a_sentence(petrel: Build, viewer: Membership, station: str, data: dict[str, str]) -> None:
    if "valve" in data:
        data = data | {"valve": str(petrel.engine.positions.first().pk)}  # type: ignore[union-attr]
    before = JournalEntry.objects.count()
    answer = client_for(viewer).post(address(petrel, station), data)
    assert answer.status_code == 403
    assert b"You are a viewer" in answer.content
    assert (JournalEntry.objects.count(), Reading.objects.count()) == (before, 0)


@pytest.mark.parametrize("station", STATIONS)
def test_a_viewer_sees_every_page(petrel: Build, viewer: Membership, station: str) -> None:
    assert client_for(viewer).get(address(petrel, station)).status_code == 200


def test_without_signing_in_there_is_only_the_door(petrel: Build) -> None:
    for station in STATIONS:
        answer = Client().get(address(petrel, station))
        assert answer.status_code == 302, station
        assert answer["Location"].startswith("/sign-in/"), station


def test_parts_and_rows_of_others_cannot_be_reached_through_an_own_build(petrel: Build, stranger: Membership, builder: Membership) -> None:
    foreign = Workshop.objects.get(slug="other").parts.create(kind="retainer", name="theirs")
    row = petrel.setups.get(role="proposed").sides.get(side="exhaust")
    data = {"row": row.pk, "slot": "retainer", "part": foreign.pk, "seen": row.retainer_id}
    assert client_for(builder).post(address(petrel, "springs/"), data).status_code == 404
    data = {"holder": f"part-{foreign.pk}", "key": "mass", "text": "5", "basis": "card", "seen": "none"}
    assert client_for(builder).post(address(petrel, "springs/"), data).status_code == 404


def test_strict_policy_and_no_inline_script_or_style(petrel: Build, builder: Membership) -> None:
    client = client_for(builder)
    for station in (*PAGES, "room/over-rev/"):
        answer = client.get(address(petrel, station))
        policy = answer["Content-Security-Policy"]
        assert "script-src 'self'" in policy
        assert "unsafe" not in policy
        html = answer.content.decode()
        assert not re.search(r"<script(?![^>]*src=)(?![^>]*application/json)", html)
        assert not re.search(r"\sstyle=|\son(click|change|load)=", html)


def test_five_wrong_passwords_rest_the_name(builder: Membership) -> None:
    client = Client()
    for _ in range(5):
        client.post("/sign-in/", {"username": "bert", "password": "wrong"})
    answer = client.post("/sign-in/", {"username": "bert", "password": "long-enough-1"})
    assert answer.status_code == 429
    assert b"rests for a quarter of an hour" in answer.content


def test_start_a_workshop_and_come_to_a_verdict(db: None) -> None:
    client = Client()
    answer = client.post("/start/", {"workshop": "Ness Boats", "name": "runa", "password": "correct-horse-9"})
    assert answer["Location"] == "/shop/ness-boats/new/"
    data = {
        "name": "Plover 305", "cylinders": "1", "gear": "side_valve", "valves_per_side": "1", "follower": "tappet", "adjuster": "stem_grind",
        "use": "work", "goal_rpm": "4,200", "bore": "2 3/4 in", "stroke": "", "limiter": "3600", "boost": "",
    }  # fmt: skip
    answer = client.post(answer["Location"], data, follow=True)
    assert answer.status_code == 200
    build = Build.objects.get(name="Plover 305")
    assert build.workshop.slug == "ness-boats"
    assert build.engine.figures["bore"]["typed"] == "2 3/4 in"
    assert build.engine.figures["bore"]["value"] == pytest.approx(2.75 * 0.0254)
    assert build.engine.positions.count() == 2
    assert "estimate" in answer.content.decode()


def test_an_engine_that_comes_for_its_clearances_needs_no_goal(owner: Membership) -> None:
    data = {
        "name": "Wagtail 250", "cylinders": "1", "gear": "dohc", "valves_per_side": "2", "follower": "bucket", "adjuster": "shim_under",
        "use": "street", "goal_rpm": "", "bore": "", "stroke": "", "limiter": "", "boost": "", "only": "clearances",
    }  # fmt: skip
    client = client_for(owner)
    answer = client.post("/shop/shed/new/", data, follow=True)
    where = answer.redirect_chain[-1][0]
    assert where.endswith("/lash/")
    html = answer.content.decode()
    assert "What the manual allows" in html
    assert "Type the manual&#x27;s below" in html
    build = Build.objects.get(name="Wagtail 250")
    assert "goal_rpm" not in build.figures
    # a limit typed right there counts at once; a slip is told beside it and changes nothing
    field = {"holder": "engine", "key": "clearance_intake_most", "basis": "card", "seen": "none"}
    wrong = client.post(where, field | {"text": "6"})
    assert wrong.status_code == 422
    assert 'value="6"' in wrong.content.decode()
    for key, text in zip(
        ("intake_least", "intake_most", "exhaust_least", "exhaust_most"), ("0.10", ".006 in", "0.20", "0.25"), strict=True
    ):
        assert client.post(where, field | {"key": f"clearance_{key}", "text": text}).status_code == 200
    kept = Build.objects.get(name="Wagtail 250").engine.figures
    assert kept["clearance_intake_most"]["value"] == pytest.approx(0.1524e-3)
    html = client.get(where).content.decode()
    assert "What the manual allows" not in html
    assert "Change the limits" in html
    assert "What the manual allows" in client.get(f"{where}?limits=1").content.decode()


def test_every_make_up_the_core_knows_can_be_started(owner: Membership) -> None:
    """Each gear with each follower and adjuster that exists with it, as a person would choose it."""
    assert {value for value, _ in ADJUSTERS} == set(Adjuster)
    assert {value for value, _ in FOLLOWERS} == set(Follower)
    client = client_for(owner)
    count = 0
    for gear, (followers, adjusters) in FITTING.items():
        for follower, adjuster in itertools.product(followers, adjusters):
            data = {
                "name": f"Number {count}", "cylinders": "6", "gear": gear, "valves_per_side": "1", "follower": follower, "adjuster": adjuster,
                "use": "street", "goal_rpm": "7000", "only": "clearances",
            }  # fmt: skip
            answer = client.post("/shop/shed/new/", data, follow=True)
            assert answer.status_code == 200, (gear, follower, adjuster)
            assert answer.redirect_chain
            count += 1
    assert Build.objects.count() == count


@pytest.mark.parametrize(
    ("field", "value", "part"),
    [
        ("bore", "96 kg", "not a unit of a length"),
        ("bore", "960", "cannot be"),
        ("goal_rpm", "", "Say the highest speed it must hold"),
        ("follower", "tappet", "With this gear it is"),
    ],
)
def test_a_wrong_field_of_a_new_engine_keeps_the_others(owner: Membership, field: str, value: str, part: str) -> None:
    data = {
        "name": "Kept name", "cylinders": "2", "gear": "dohc", "valves_per_side": "2", "follower": "bucket", "adjuster": "shim_under",
        "use": "street", "goal_rpm": "11000", "bore": "", "stroke": "", "limiter": "", "boost": "",
    }  # fmt: skip
    answer = client_for(owner).post("/shop/shed/new/", data | {field: value})
    assert answer.status_code == 422
    html = answer.content.decode()
    assert part in html
    assert 'value="Kept name"' in html
    assert not Build.objects.exists()


def test_self_sign_up_can_be_switched_off(db: None) -> None:
    with override_settings(SELF_SIGN_UP=False):
        assert Client().get("/start/").status_code == 404
        assert Client().post("/start/", {"workshop": "x", "name": "y", "password": "correct-horse-9"}).status_code == 404
    assert not User.objects.exists()


def test_invitation_by_link_works_once(owner: Membership) -> None:
    answer = client_for(owner).post("/shop/shed/people/", {"role": "viewer"})
    link = re.search(r"/join/[\w-]+/", answer.content.decode())
    assert link
    client = Client()
    assert client.post(link.group(), {"name": "nils", "password": "correct-horse-9"}).status_code == 302
    assert Membership.objects.get(user__username="nils").role == "viewer"
    assert Client().post(link.group(), {"name": "late", "password": "correct-horse-9"}).status_code == 410
    assert not User.objects.filter(username="late").exists()


def test_an_old_invitation_is_over_and_only_owners_invite(owner: Membership, builder: Membership) -> None:
    assert client_for(builder).post("/shop/shed/people/", {"role": "owner"}).status_code == 403
    client_for(owner).post("/shop/shed/people/", {"role": "builder"})
    Invitation.objects.update(expires_at=timezone.now())
    assert Client().get(f"/join/{Invitation.objects.get().token}/").status_code == 410


def test_units_and_theme_switch_in_place(petrel: Build, builder: Membership) -> None:
    client = client_for(builder)
    answer = client.post("/units/", {"system": "inch", "next": address(petrel)}, follow=True)
    assert "lbf" in answer.content.decode()
    assert client.post("/units/", {"system": "inch", "next": "https://elsewhere.example/"})["Location"] == "/"
    client.post("/theme/", {"theme": "dark", "next": "/"})
    assert 'data-theme="dark"' in client.get(address(petrel)).content.decode()
    client.post("/theme/", {"theme": "dark", "next": "/"})
    assert 'data-theme="auto"' in client.get(address(petrel)).content.decode()
