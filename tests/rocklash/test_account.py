"""People: signing in and out, starting, joining, and sentences for what goes wrong."""

import re

import pytest
from django.test import Client

from rocklash.records.models import Invitation, Membership, Role, User, Workshop
from tests.rocklash.conftest import client_for, member_of

GOOD = "correct-horse-9"


def invite(owner: Membership, role: str) -> str:
    page = client_for(owner).post("/shop/shed/people/", {"role": role}).content.decode()
    found = re.search(r"/join/[\w-]+/", page)
    assert found
    return found.group()


def test_sign_in_leads_to_the_board_and_out_again(builder: Membership) -> None:
    client = Client()
    answer = client.post("/sign-in/", {"username": "bert", "password": "long-enough-1"}, follow=True)
    assert answer.redirect_chain[-1][0] == "/shop/shed/"
    assert "No engine is on the bench yet" in answer.content.decode()
    assert client.post("/sign-out/", follow=True).redirect_chain[-1][0] == "/sign-in/"
    assert client.get("/shop/shed/").status_code == 302


def test_a_wrong_password_gives_nothing_away(builder: Membership) -> None:
    texts = []
    for name in ("bert", "nobody"):
        page = Client().post("/sign-in/", {"username": name, "password": "wrong"}).content.decode()
        found = re.search(r'role="alert">([^<]+)', page)
        assert found
        texts.append(found.group(1))
    assert texts[0] == texts[1]


def test_after_signing_in_the_page_asked_for_opens_but_no_foreign_one(builder: Membership) -> None:
    data = {"username": "bert", "password": "long-enough-1"}
    assert Client().post("/sign-in/", data | {"next": "/shop/shed/people/"})["Location"] == "/shop/shed/people/"
    assert Client().post("/sign-in/", data | {"next": "https://elsewhere.example/"})["Location"] == "/"


@pytest.mark.parametrize(
    ("change", "part"),
    [
        ({"name": "BERT"}, "is taken"),
        ({"password": "short"}, "at least 10"),
        ({"password": "password1234"}, "too common"),
        ({"workshop": ""}, "required"),
        ({"workshop": "x" * 81}, "80"),
    ],
)
def test_a_start_that_cannot_be_keeps_what_was_typed(builder: Membership, change: dict[str, str], part: str) -> None:
    data = {"workshop": "Ness Boats", "name": "runa", "password": GOOD} | change
    answer = Client().post("/start/", data)
    assert answer.status_code == 422
    page = answer.content.decode()
    assert part in page
    assert f'value="{data["name"]}"' in page
    assert GOOD not in page  # a password is never sent back
    assert Workshop.objects.count() == 1


def test_two_workshops_of_one_name_get_addresses_of_their_own(db: None) -> None:
    for name in ("ann", "ben"):
        assert Client().post("/start/", {"workshop": "Ness Boats", "name": name, "password": GOOD}).status_code == 302
    assert set(Workshop.objects.values_list("slug", flat=True)) == {"ness-boats", "ness-boats-2"}
    assert set(Membership.objects.values_list("role", flat=True)) == {Role.OWNER}


def test_a_workshop_named_in_signs_still_gets_an_address(db: None) -> None:
    Client().post("/start/", {"workshop": "★★★", "name": "ann", "password": GOOD})
    assert Workshop.objects.get().slug == "workshop"


def test_somebody_signed_in_joins_with_one_click(owner: Membership, stranger: Membership) -> None:
    link = invite(owner, "builder")
    client = client_for(stranger)
    assert "You are signed in as sam" in client.get(link).content.decode()
    assert client.post(link)["Location"] == "/shop/shed/"
    assert Membership.objects.get(user=stranger.user, workshop__slug="shed").role == "builder"
    assert Invitation.objects.get().used_by == stranger.user


def test_a_member_who_uses_a_link_keeps_the_role_they_have(owner: Membership, viewer: Membership) -> None:
    client_for(viewer).post(invite(owner, "owner"))
    viewer.refresh_from_db()
    assert viewer.role == "viewer"


def test_a_joiner_with_a_taken_name_can_try_again_with_the_same_link(owner: Membership, builder: Membership) -> None:
    link = invite(owner, "viewer")
    assert Client().post(link, {"name": "bert", "password": GOOD}).status_code == 422
    assert Client().post(link, {"name": "bert2", "password": GOOD}).status_code == 302
    assert User.objects.get(username="bert2").memberships.get().role == "viewer"


def test_an_unknown_role_or_link_makes_nothing(owner: Membership) -> None:
    client_for(owner).post("/shop/shed/people/", {"role": "king"})
    assert not Invitation.objects.exists()
    assert Client().get("/join/no-such-link/").status_code == 410


def test_somebody_without_a_workshop_is_told_so(db: None) -> None:
    user = User.objects.create_user("lone", password=GOOD)
    client = Client()
    client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
    assert "Ask an owner for an invitation link" in client.get("/").content.decode()


def test_only_posts_switch_units_and_unknown_words_change_nothing(builder: Membership) -> None:
    client = client_for(builder)
    assert client.get("/units/").status_code == 405
    client.post("/units/", {"system": "cubits", "next": "/"})
    client.post("/theme/", {"theme": "pink", "next": "/"})
    builder.user.refresh_from_db()
    assert (builder.user.unit_system, builder.user.theme) == ("metric", "auto")


def test_a_form_without_its_token_is_answered_with_a_sentence(builder: Membership) -> None:
    client = Client(enforce_csrf_checks=True)
    client.force_login(builder.user, backend="django.contrib.auth.backends.ModelBackend")
    answer = client.post("/units/", {"system": "inch"})
    assert answer.status_code == 403
    assert "This page is too old" in answer.content.decode()


def test_units_of_one_person_are_not_those_of_another(builder: Membership, shop: Workshop) -> None:
    other = member_of(shop, "otto", Role.BUILDER)
    client_for(builder).post("/units/", {"system": "inch", "next": "/"})
    other.user.refresh_from_db()
    assert other.user.unit_system == "metric"
