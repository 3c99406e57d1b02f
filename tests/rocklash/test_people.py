"""People: names, doors, second factor, sessions, roles, links; nobody where they do not belong, and nobody locked out by a stranger."""

import base64
import re
from datetime import timedelta
from typing import Any

import pytest
from axes.models import AccessAttempt
from django.core import signing
from django.test import Client, override_settings
from django.utils import timezone
from django_otp.oath import totp
from django_otp.plugins.otp_static.models import StaticDevice
from django_otp.plugins.otp_totp.models import TOTPDevice

from rocklash.records.models import Invitation, JournalEntry, Membership, Role, User, Workshop
from rocklash.ui.names import likeness_of, normal, trouble_of
from tests.rocklash.conftest import BACKEND, address, client_for, member_of

PASSWORD = "long-enough-1"


def door(client: Client, name: str, password: str = PASSWORD, **more: str) -> Any:
    return client.post("/sign-in/", {"username": name, "password": password, **more})


def sent(member: Membership, act: str, **told: Any) -> Any:
    return client_for(member).post("/shop/shed/people/", {"act": act, **told})


@pytest.mark.parametrize("name", ["ol\u200bga", "\u202eolga", "olg\u0430", "оlga", "   ", "\u00ad", "...", "a\x07b"])
def test_names_that_deceive_are_refused(db: None, owner: Membership, name: str) -> None:
    before = User.objects.count()
    answer = Client().post("/start/", {"workshop": "W", "name": name, "password": "harbour-lantern-9"})
    assert answer.status_code == 422
    assert User.objects.count() == before


@pytest.mark.parametrize("name", ["Olga", "OLGA", "０lga", "ólga", "o1ga", "ol ga"])
def test_a_name_that_looks_like_another_is_taken(owner: Membership, name: str) -> None:
    answer = Client().post("/start/", {"workshop": "W", "name": name, "password": "harbour-lantern-9"})
    assert answer.status_code == 422
    assert "looks like a name" in answer.content.decode()


@pytest.mark.parametrize("name", ["Åse", "Łukasz", "Иван", "Ελένη", "李雷", "Anna-Lena B.", "jh2"])
def test_honest_names_of_all_alphabets_are_taken_in(db: None, name: str) -> None:
    assert trouble_of(normal(name)) == ""
    assert Client().post("/start/", {"workshop": "Werkstatt", "name": name, "password": "harbour-lantern-9"}).status_code == 302
    assert User.objects.get().likeness == likeness_of(name)


def test_the_password_is_never_the_name(db: None) -> None:
    answer = Client().post("/start/", {"workshop": "W", "name": "harbourlantern", "password": "harbourlantern"})
    assert answer.status_code == 422
    assert "too similar" in answer.content.decode()


def test_ten_workshops_an_hour_from_one_address_and_no_more(db: None) -> None:
    for number in range(10):
        assert (
            Client().post("/start/", {"workshop": "W", "name": f"person {number}x{number}", "password": "harbour-lantern-9"}).status_code
            == 302
        )
    answer = Client().post("/start/", {"workshop": "W", "name": "eleventh", "password": "harbour-lantern-9"})
    assert answer.status_code == 429
    assert "quarter of an hour" in answer.content.decode()
    assert (
        Client(REMOTE_ADDR="10.1.2.3").post("/start/", {"workshop": "W", "name": "twelfth", "password": "harbour-lantern-9"}).status_code
        == 302
    )


def test_behind_a_proxy_of_ones_own_the_caller_is_who_the_proxy_says(builder: Membership) -> None:
    with override_settings(PROXIES=1):
        for _ in range(5):
            door(Client(HTTP_X_FORWARDED_FOR="6.6.6.6, 203.0.113.7"), "bert", "wrong")
        assert {row.ip_address for row in AccessAttempt.objects.all()} == {"203.0.113.7"}
        assert door(Client(HTTP_X_FORWARDED_FOR="203.0.113.7"), "bert").status_code == 429
        assert door(Client(HTTP_X_FORWARDED_FOR="198.51.100.2"), "bert").status_code == 302  # the rightful one, from elsewhere
    with override_settings(PROXIES=0):  # nobody may name an address of their own choice
        door(Client(HTTP_X_FORWARDED_FOR="1.2.3.4", REMOTE_ADDR="192.0.2.9"), "bert", "wrong")
        assert AccessAttempt.objects.filter(ip_address="1.2.3.4").count() == 0


def test_tries_from_everywhere_close_the_name_but_to_a_device_it_knows(builder: Membership) -> None:
    known = Client()
    assert door(known, "bert").status_code == 302
    known.post("/sign-out/")
    for number in range(8):
        AccessAttempt.objects.create(
            username="bert",
            ip_address=f"203.0.113.{number}",
            failures_since_start=4,
            attempt_time=timezone.now(),
            get_data="",
            post_data="",
            http_accept="",
            path_info="",
        )
    answer = door(Client(), "bert")
    assert answer.status_code == 200
    assert "device you have used before" in answer.content.decode()
    assert door(known, "bert").status_code == 302
    forged = Client()
    forged.cookies["known"] = signing.get_cookie_signer(salt="another").sign("bert")
    assert door(forged, "bert").status_code == 200
    AccessAttempt.objects.update(attempt_time=timezone.now() - timedelta(hours=2))
    assert door(Client(), "bert").status_code == 302


def test_a_second_factor_is_asked_for_at_the_door(builder: Membership) -> None:
    client = client_for(builder)
    page = client.post("/account/", {"act": "second"})
    secret = re.search(r"hand: ([A-Z2-7=]+)", page.content.decode())
    assert secret
    key = base64.b32decode(secret[1])
    assert door(Client(), "bert").status_code == 302  # not confirmed yet: nothing is asked for
    codes = client.post("/account/", {"act": "confirm", "code": f"{totp(key):06d}"})
    kept = re.findall(r"<code>(\w+)</code>", codes.content.decode())
    assert len(kept) == 10
    assert "six figures" in door(Client(), "bert").content.decode()
    assert door(Client(), "bert", code="000000").status_code == 200
    TOTPDevice.objects.update(throttling_failure_count=0, last_t=-1)
    assert door(Client(), "bert", code=f"{totp(key):06d}").status_code == 302
    TOTPDevice.objects.update(throttling_failure_count=0)
    StaticDevice.objects.update(throttling_failure_count=0)
    assert door(Client(), "bert", code=kept[0]).status_code == 302
    assert door(Client(), "bert", code=kept[0]).status_code == 200  # each once
    assert client.post("/account/", {"act": "no second", "password": "wrong"}).status_code == 422
    assert client.post("/account/", {"act": "no second", "password": PASSWORD}).status_code == 200
    assert door(Client(), "bert").status_code == 302


def test_ones_own_password_ends_every_other_session(builder: Membership) -> None:
    here, there = Client(), Client()
    assert door(here, "bert").status_code == door(there, "bert").status_code == 302
    assert here.post("/account/", {"act": "password", "old": "wrong", "password": "harbour-lantern-9"}).status_code == 422
    assert here.post("/account/", {"act": "password", "old": PASSWORD, "password": "bert"}).status_code == 422
    assert here.post("/account/", {"act": "password", "old": PASSWORD, "password": "harbour-lantern-9"}).status_code == 200
    assert here.get("/shop/shed/").status_code == 200
    assert there.get("/shop/shed/").status_code == 302
    assert door(Client(), "bert", "harbour-lantern-9").status_code == 302


def test_sessions_are_listed_and_ended_elsewhere(builder: Membership, stranger: Membership) -> None:
    here, there = Client(), Client(HTTP_USER_AGENT="Mozilla/5.0 (Linux; Android 14) Chromium/130")
    door(here, "bert")
    door(there, "bert")
    page = here.get("/account/").content.decode()
    assert "Chromium or alike on Android" in page
    number = re.search(r'name="session" value="(\d+)"', page)
    assert number
    other = Client()
    door(other, "sam")
    other.post("/account/", {"act": "end", "session": number[1]})  # not theirs
    assert there.get("/shop/shed/").status_code == 200
    here.post("/account/", {"act": "end", "session": number[1]})
    assert there.get("/shop/shed/").status_code == 302
    assert here.get("/shop/shed/").status_code == 200


def test_a_member_is_removed_at_once_and_a_workshop_keeps_an_owner(owner: Membership, builder: Membership, viewer: Membership) -> None:
    client = client_for(builder)
    assert client.get("/shop/shed/").status_code == 200
    assert sent(builder, "remove", person=viewer.pk).status_code == 403
    assert sent(owner, "remove", person=builder.pk).status_code == 302
    assert client.get("/shop/shed/").status_code == 404
    assert sent(owner, "remove", person=owner.pk).status_code == 422
    assert sent(owner, "role", person=owner.pk, role="viewer").status_code == 422
    assert sent(owner, "role", person=viewer.pk, role="owner").status_code == 302
    assert Membership.objects.get(pk=viewer.pk).role == Role.OWNER
    assert sent(owner, "role", person=owner.pk, role="viewer").status_code == 302
    assert JournalEntry.objects.filter(verb__in=["removed", "role"]).count() == 3
    assert sent(viewer, "role", person="9" * 30, role="owner").status_code == 404


def test_an_invitation_is_listed_and_withdrawn(owner: Membership, builder: Membership) -> None:
    sent(owner, "invite", role="builder")
    row = Invitation.objects.get()
    assert client_for(builder).get("/shop/shed/people/").content.decode().count("Withdraw") == 0
    assert sent(builder, "withdraw", invitation=row.pk).status_code == 403
    assert sent(owner, "withdraw", invitation=row.pk).status_code == 302
    assert Client().get(f"/join/{row.token}/").status_code == 410


def test_an_owners_link_sets_a_password_once_and_opens_no_other_workshop(
    owner: Membership, builder: Membership, stranger: Membership
) -> None:
    signed_in = Client()
    door(signed_in, "bert")
    page = sent(owner, "reset", person=builder.pk).content.decode()
    link = re.search(r"http://testserver(/reset/[^<\s]+)", page)
    assert link
    assert Client().post(link[1], {"password": "short"}).status_code == 422
    assert Client().post(link[1], {"password": "harbour-lantern-9"}).status_code == 302
    assert Client().get(link[1]).status_code == 410
    assert signed_in.get("/shop/shed/").status_code == 302
    assert door(Client(), "bert", "harbour-lantern-9").status_code == 302
    Membership.objects.create(workshop=stranger.workshop, user=builder.user, role=Role.VIEWER)
    refused = sent(owner, "reset", person=builder.pk)
    assert refused.status_code == 422
    assert "not yours" in refused.content.decode()
    for wrong in ("/reset/x/y/", f"/reset/{'9' * 500}/a-b/", "/reset/MQ/set-password/"):
        assert Client().get(wrong).status_code == 410


def test_pages_of_a_person_stay_in_no_cache_and_every_answer_has_a_name(owner: Membership) -> None:
    client = client_for(owner)
    for where in ("/shop/shed/", "/account/", "/shop/shed/people/", "/shop/shed/people/journal/"):
        answer = client.get(where)
        assert answer["Cache-Control"] == "private, no-store"
        assert re.fullmatch(r"[0-9a-f]{12}", answer["X-Request-ID"])
    assert not Client().get("/sign-in/").has_header("X-Nothing")


def test_the_journal_is_for_owners_narrowed_and_as_a_table_without_formulas(owner: Membership, builder: Membership, petrel: Any) -> None:
    client = client_for(owner)
    JournalEntry.objects.create(workshop=owner.workshop, by=owner.user, verb="note", about="=HYPERLINK(1)", after="+A1")
    assert client_for(builder).get("/shop/shed/people/journal/").status_code == 403
    assert "HYPERLINK" in client.get("/shop/shed/people/journal/?q=hyper").content.decode()
    assert "HYPERLINK" not in client.get("/shop/shed/people/journal/?by=bert").content.decode()
    rows = client.get("/shop/shed/people/journal/?form=csv").content.decode().splitlines()
    assert rows[0] == "when,who,what,about,before,after"
    assert not any(cell.startswith(("=", "+", "@")) for row in rows for cell in row.split(","))


@pytest.mark.parametrize("target", ["bare", "//evil.example/", "https://evil.example/", "javascript:alert(1)", "\\\\evil", ""])
def test_switches_lead_nowhere_else(owner: Membership, target: str) -> None:
    assert client_for(owner).post("/units/", {"system": "inch", "next": target})["Location"] == "/"


def test_in_place_the_door_answers_without_a_page(builder: Membership) -> None:
    client = Client(headers={"X-In-Place": "yes"})
    form = client.get("/sign-in/")
    assert b"data-sign-in-here" in form.content
    assert b"<html" not in form.content
    wrong = door(client, "bert", "wrong")
    assert wrong.status_code == 422
    assert b"do not belong together" in wrong.content
    assert door(client, "bert").status_code == 204
    assert client.get("/shop/shed/").status_code == 200


def test_two_at_once_who_want_one_name(db: None, monkeypatch: pytest.MonkeyPatch) -> None:
    """Both forms found the name free; the database lets one in, the other is told."""
    monkeypatch.setattr("rocklash.stations.account.forms.looks_taken", lambda _: False)
    data = {"workshop": "W", "name": "tern", "password": "harbour-lantern-9"}
    assert Client().post("/start/", data).status_code == 302
    late = Client().post("/start/", data | {"name": "Tern"})
    assert late.status_code == 422
    assert "taken just now" in late.content.decode()
    assert Workshop.objects.count() == 1


def test_somebody_who_came_with_a_file_cannot_sign_in(owner: Membership) -> None:
    ghost = User(username="tern@shed", first_name="tern", is_active=False)
    ghost.set_unusable_password()
    ghost.save()
    Membership.objects.create(workshop=owner.workshop, user=ghost, role=Role.VIEWER)
    assert door(Client(), "tern@shed", "").status_code == 200
    client = Client()
    client.force_login(ghost, backend=BACKEND)
    assert client.get("/shop/shed/").status_code == 302  # an inactive person is nobody
    assert member_of(owner.workshop, "tern2", Role.VIEWER).user.is_active
    assert address
