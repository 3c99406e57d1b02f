"""A shop with an owner, a builder and a viewer, the Petrel build, and a stranger with a shop of their own."""

import re
from pathlib import Path
from typing import Any

import pytest
from django.test import Client, RequestFactory
from django.urls import get_resolver

from rocklash.answers import tasks
from rocklash.commands.builds import MakePractice, keep_record
from rocklash.demo import load
from rocklash.desk.bench import Bench
from rocklash.records.models import Build, Membership, Role, User, Workshop
from valvetrain.formats import build_file

DEMO = Path(load.__file__).parent / "builds"
# every station page of a build that shows itself without an over-rev case
PAGES = (
    "", "engine/", "goal/", "cams/", "cams/timing/", "springs/", "room/", "room/measure/", "room/gearing/", "lash/", "sheet/",
    "goal/breathing/", "cams/regrind/", "choose/materials/", "job/", "job/shop/", "job/shop/sheet/", "job/findings/", "job/valves/", "job/helpers/",
    "job/dates/", "job/symptoms/", "job/bench/", "job/wall/",
    "proof/", "proof/cylinders/", "proof/pulls/", "proof/runs/", "proof/throttle/", "proof/next/", "proof/learn/", "proof/failure/",
    "logbook/", "logbook/due/", "logbook/parts/", "logbook/wear/",
)  # fmt: skip
BACKEND = "django.contrib.auth.backends.ModelBackend"


def member_of(shop: Workshop, name: str, role: str) -> Membership:
    return Membership.objects.create(workshop=shop, user=User.objects.create_user(name, password="long-enough-1"), role=role)


@pytest.fixture(autouse=True)
def forget_motions() -> None:
    """What one test computed is no part of another's page."""
    tasks.forget("motion")


@pytest.fixture
def shop(db: None) -> Workshop:
    return Workshop.objects.create(name="Test Shed", slug="shed")


@pytest.fixture
def owner(shop: Workshop) -> Membership:
    return member_of(shop, "olga", Role.OWNER)


@pytest.fixture
def builder(shop: Workshop) -> Membership:
    return member_of(shop, "bert", Role.BUILDER)


@pytest.fixture
def viewer(shop: Workshop) -> Membership:
    return member_of(shop, "vera", Role.VIEWER)


@pytest.fixture
def stranger(db: None) -> Membership:
    return member_of(Workshop.objects.create(name="Other", slug="other"), "sam", Role.OWNER)


@pytest.fixture
def petrel(owner: Membership) -> Build:
    return keep_record(owner, build_file.read((DEMO / "petrel_1498.json").read_text(encoding="utf-8")))


class Reader(Client):
    """A client that reads what it is answered as a person does: an amount that nobody printed in the reader's units is a fault anywhere."""

    def request(self, **request: Any) -> Any:
        response = super().request(**request)
        if not response.streaming:
            assert "\ue000".encode() not in response.content
            assert b"&lt;Block Node" not in response.content  # a name of the context that a tag has taken
            if response.headers.get("Content-Type", "").startswith("text/html"):  # where a template breaks its line, a reader sees a space
                parts = re.split(rb"(<textarea.*?</textarea>)", response.content, flags=re.DOTALL)
                response.content = b"".join(part if part.startswith(b"<textarea") else part.replace(b"\n", b" ") for part in parts)
        return response


@pytest.fixture
def practice(builder: Membership, petrel: Build) -> Build:
    """A practice copy of the triple, where simulated instruments work."""
    copy = MakePractice(builder, petrel, {}, target=petrel).run().made
    assert isinstance(copy, Build)
    return copy


def client_for(member: Membership, *, htmx: bool = False) -> Client:
    client = Reader(headers={"HX-Request": "true"} if htmx else {})
    client.force_login(member.user, backend=BACKEND)
    return client


def address(build: Build, station: str = "") -> str:
    return f"/shop/{build.workshop.slug}/build/{build.pk}/{station}"


def bench_of(member: Membership, build: Build, path: str = "/") -> Bench:
    """A build at hand as a page has it."""
    get_resolver().url_patterns  # noqa: B018  (the stations register when the addresses are read)
    request = RequestFactory().get(path)
    request.user = member.user
    return Bench(request, member, build)
