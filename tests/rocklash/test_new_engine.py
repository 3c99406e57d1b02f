"""What brings an engine in, plausible engines to begin from, and what becomes of a build: renamed, copied, deleted and had back."""

import pytest
from django.test import Client
from django.urls import reverse

from rocklash.answers.rows import side_rows
from rocklash.records.models import Build, Membership, SetupRole
from rocklash.records.selectors.builds import build_or_404
from rocklash.stations.board.pages.doors import DOORS, fills
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.beginnings import BEGINNINGS
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import FITTING
from valvetrain.units import UnitSystem

NEW = "/shop/shed/new/"


def begun(client: Client, **typed: str) -> Build:
    words = {
        "name": "Ruff 208", "cylinders": "1", "gear": "push_rod", "valves_per_side": "1", "follower": "rocker", "adjuster": "lash_cap",
        "use": "road_race", "goal_rpm": "5600", "why": "raise",
    }  # fmt: skip
    answer = client.post(NEW, words | typed)
    assert answer.status_code == 302, answer.content.decode()[-3000:]
    return Build.objects.latest("pk")


@pytest.mark.parametrize("key", BEGINNINGS)
@pytest.mark.parametrize("system", list(UnitSystem))
def test_a_plausible_engine_gets_a_verdict_as_it_stands(builder: Membership, key: str, system: UnitSystem) -> None:
    """Every beginning goes through the form as the page fills it, in both systems; its figures are estimates, the goal is the person's."""
    builder.user.unit_system = system.value
    builder.user.save()
    client = client_for(builder)
    build = begun(client, like=key, **fills(system)[key])
    assert client.get(address(build)).status_code == 200
    assert {row["basis"] for row in build.engine.figures.values()} == {"estimate"}
    assert build.figures["goal_rpm"]["basis"] == "card"
    assert build.figures["goal_rpm"]["value"] == pytest.approx(BEGINNINGS[key].figures["goal_rpm"], rel=2e-3)


@pytest.mark.parametrize("each", BEGINNINGS.values(), ids=str)
def test_a_plausible_engine_exists(each: object) -> None:
    """Follower and adjuster go with the gear, and each figure lies in its bounds."""
    followers, adjusters = FITTING[each.kind.gear]  # type: ignore[attr-defined]
    assert each.kind.follower in followers and each.kind.adjuster in adjusters  # type: ignore[attr-defined]  # noqa: PT018
    for key, value in each.figures.items():  # type: ignore[attr-defined]
        FIGURES[Owner.GOAL if key in ("goal_rpm", "boost") else Owner.ENGINE, key].check(value)


def test_what_was_changed_of_a_plausible_engine_is_the_owners(builder: Membership) -> None:
    build = begun(client_for(builder), like="kart", bore="70.2", stroke="55.00", limiter="5,000")
    assert {key: row["basis"] for key, row in build.engine.figures.items()} == {"bore": "card", "stroke": "estimate", "limiter": "estimate"}


def test_what_is_known_of_springs_counts_on_both_sides(builder: Membership) -> None:
    """One side typed stands for the other; both typed stand each for itself, and the seat check prints what was typed."""
    client = client_for(builder)
    build = begun(client, seat_load_intake="98", rate_intake="17,5", rate_exhaust="19", mass_exhaust="11")
    rows = side_rows(build_or_404(build.workshop, build.pk))
    intake, exhaust = rows[SetupRole.STOCK, "intake"], rows[SetupRole.STOCK, "exhaust"]
    assert intake.outer_spring.figures["seat_load"]["value"] == exhaust.outer_spring.figures["seat_load"]["value"] == 98.0
    assert (intake.outer_spring.figures["rate"]["value"], exhaust.outer_spring.figures["rate"]["value"]) == (17500.0, 19000.0)
    assert intake.retainer.figures["mass"]["value"] == exhaust.retainer.figures["mass"]["value"] == 0.011
    assert "98 N" in client.get(address(build)).content.decode().replace("\u202f", " ")


def test_a_wrong_spring_figure_is_told_beside_it_and_nothing_typed_is_lost(builder: Membership) -> None:
    answer = client_for(builder).post(
        NEW, {"name": "Ruff 208", "gear": "dohc", "goal_rpm": "9800", "seat_load_intake": "98 mm", "why": "raise"}
    )
    page = answer.content.decode()
    assert answer.status_code == 422
    assert 'value="98 mm"' in page
    assert "Ruff 208" in page
    assert not Build.objects.exists()


@pytest.mark.parametrize("why", DOORS)
def test_each_door_leads_where_that_work_begins(builder: Membership, petrel: Build, why: str) -> None:
    """For an engine on the board and for a new one, which needs its goal only where speed is what it came for."""
    client = client_for(builder)
    answer = client.get(reverse("door", args=["shed", why, petrel.pk]), follow=True)
    assert answer.status_code == 200
    assert answer.request["PATH_INFO"] == DOORS[why].url(builder, build_or_404(petrel.workshop, petrel.pk))
    assert f'href="?why={why}" aria-current="true"' in client.get(f"{NEW}?why={why}").content.decode().replace("  ", " ")
    words = {
        "name": "Ruff",
        "gear": "dohc",
        "cylinders": "1",
        "valves_per_side": "2",
        "follower": "bucket",
        "adjuster": "shim_under",
        "use": "street",
    }
    answer = client.post(NEW, words | {"why": why}, follow=True)
    assert answer.status_code == (422 if why == "raise" else 200)
    if why != "raise":
        made = Build.objects.latest("pk")
        assert answer.request["PATH_INFO"] == DOORS[why].url(builder, build_or_404(made.workshop, made.pk))


def test_a_strangers_door_is_shut(stranger: Membership, petrel: Build) -> None:
    assert client_for(stranger).get(reverse("door", args=["shed", "cam", petrel.pk])).status_code == 404
    assert client_for(stranger).get(reverse("door", args=["other", "cam", petrel.pk])).status_code == 404


def test_a_build_is_renamed_with_its_engine_and_the_second_is_told(builder: Membership, petrel: Build) -> None:
    client, was = client_for(builder), petrel.name
    page = client.get(address(petrel)).content.decode()
    form = page[page.index('value="rename"') - 400 : page.index('value="rename"') + 400]
    stands = form[form.index('name="stands" value="') + 21 :][:12]
    assert client.post(address(petrel), {"act": "rename", "name": "Petrel, after", "stands": stands}).status_code == 200
    petrel.refresh_from_db()
    assert (petrel.name, petrel.engine.name) == ("Petrel, after", "Petrel, after")
    late = client.post(address(petrel), {"act": "rename", "name": "Mine", "stands": stands})
    assert late.status_code == 409
    assert "this became “Petrel, after”" in late.content.decode()
    assert client.post(address(petrel), {"act": "rename", "name": " "}).status_code == 422
    assert was != "Petrel, after"


def test_a_what_if_leaves_its_build_alone(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    answer = client.post(address(petrel), {"act": "copy", "name": "Petrel at 9,000"})
    copy = Build.objects.latest("pk")
    assert answer.url == address(copy)
    client.post(address(copy, "goal/"), {"holder": "goal", "key": "goal_rpm", "text": "9000", "seen": "", "basis": "card"})
    petrel.refresh_from_db()
    copy.refresh_from_db()
    assert copy.name == "Petrel at 9,000"
    assert not copy.practice
    assert petrel.figures["goal_rpm"]["value"] == pytest.approx(8400 / 60)


def test_a_deleted_build_is_nowhere_and_stands_again_by_undo(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    answer = client.post(address(petrel), {"act": "delete"}, follow=True)
    page = answer.content.decode()
    assert f"{petrel.name} is deleted." in page
    assert client.get(address(petrel)).status_code == 404
    assert client.get(address(petrel, "lash/")).status_code == 404
    assert f">{petrel.name}</a>" not in client.get("/shop/shed/").content.decode()
    assert petrel.name not in client.get("/shop/shed/search/?q=Petrel").content.decode().split("<main")[1]
    assert f"{petrel.name}</b>" in client.get("/shop/shed/?show=deleted").content.decode()
    client.post("/shop/shed/", {"act": "have-back", "build": petrel.pk})
    assert client.get(address(petrel)).status_code == 200
    assert f">{petrel.name}</a>" in client.get("/shop/shed/").content.decode()


def test_only_who_may_change_deletes(viewer: Membership, stranger: Membership, petrel: Build) -> None:
    for act in ("delete", "rename", "copy"):
        assert client_for(viewer).post(address(petrel), {"act": act, "name": "x"}).status_code == 403
        assert client_for(stranger).post(address(petrel), {"act": act, "name": "x"}).status_code == 404
    assert client_for(viewer).post("/shop/shed/", {"act": "have-back", "build": petrel.pk}).status_code == 403
    petrel.refresh_from_db()
    assert petrel.deleted_at is None
