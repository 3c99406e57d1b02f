"""Hostile input to every form, query and file of the registry: never a 500, never longer than two seconds.

The short form runs with the other tests; `make attack` sends ten thousand (ROCKLASH_ATTACK).
"""

import os
import random
import re
import time
from pathlib import Path
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import get_resolver
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis import strategies as st

from rocklash.answers import tasks
from rocklash.desk.registry import stations
from rocklash.records.models import Build, Membership
from tests.rocklash.conftest import address, client_for

HOSTILE: tuple[str, ...] = (
    "", " ", "0", "-1", "1e400", "nan", "inf", "-inf", "9" * 30, "9" * 5000, "\u0663", "\u00b2", "\u2460", "1\u0660", "1.5.5", "--5", "1,5", "½", "a" * 200_000, "\x00", "a\x00b", "\r", "a\rb",
    "\ud800", "\udfff\ud800", "é" * 3000, "'; DROP TABLE records_build; --", "<script>alert(1)</script>", "{{ 7*7 }}", "${7*7}", "../../etc/passwd", "%00", "%s%s%n", "=1+1", "@SUM(A1)", "true",
    "null", "[]", "{}", '{"a":' * 300, "2027-02-30", "0000-00-00", "9999-12-31", "1970-01-01T00:00", "12 parsecs", "1 mm mm", "5 N/mm/mm", "javascript:alert(1)", "//evil.example", "\\\\evil", "next",
    "intake", "exhaust", "keep", "figure", "engine", "goal", "part-1", "part-99999999999999999999", "1" * 19, str(2**63), str(2**31), "-0", "+5", "0x10", "1_000", "\ufeff5", "\u202e5", "𝟝",
)  # fmt: skip
NAMES: tuple[str, ...] = tuple(
    sorted(
        {name for path in Path("src/rocklash").rglob("*.py") for name in re.findall(r"(?:\.text|\.get|getlist|_field|sent)\(\s*\"([a-z_-]{1,24})\"", path.read_text(encoding="utf-8"))}
        | {name for path in Path("src/rocklash").rglob("*.html") for name in re.findall(r"name=\"([a-z_-]{1,24})\"", path.read_text(encoding="utf-8"))}
    )
)  # fmt: skip
FILES: tuple[bytes, ...] = (
    b"", b"\x00", b"PK\x03\x04", b"RIFF\x00\x00\x00\x00WAVE", b"\xff\xd8\xff\xe0", b"\x89PNG\r\n\x1a\n", b"a,b\r1,2\r3", b"time,rpm\n" + b"1,2\n" * 2000, b"\xff\xfe\x00\xd8", b"a," * 140_000, b'"' + b"x" * 140_000,
    b"{" * 5000, b'{"format": "rocklash.build/1", "name": "' + b"n" * 5000 + b'"}', b"spring,height mm,load N\n1,\xd9\xa3,5\n", b"angle,lift\n" + b"0,0\n" * 400, b"\x1f\x8b\x08", b"valve,goes\nEX 1,1e400\n",
)  # fmt: skip

get_resolver().url_patterns  # noqa: B018  (reads the registry)
ACTS = [
    (station.prefix + str(pattern.pattern), act)
    for station in stations()
    for pattern in station.urls
    if "<" not in str(pattern.pattern)
    for act in (*getattr(pattern.callback, "takes", {}), "")
]
# Papers are laid out and motions worked out by the workers, which the tests do not run: the asking process does it, and it takes what it takes.
WORK = (".pdf", "motion/")
ASKED = [station.prefix + str(pattern.pattern) for station in stations() for pattern in station.urls if "<" not in str(pattern.pattern)]
SHOP = ("", "new/", "import/", "people/", "shelf/", "shelf/bring-in/", "due/", "week/", "ran/", "search/")
ASKED = [where for where in ASKED if not where.endswith(WORK) or "ROCKLASH_ATTACK" not in os.environ]
COUNT = int(os.environ.get("ROCKLASH_ATTACK", "120"))
SECONDS = float(os.environ.get("ROCKLASH_ATTACK_SECONDS", "1e9"))  # after which no further input is sent


def _value(draw: random.Random, build: Build) -> str:
    real = draw.choice([str(build.pk), str(build.engine_id), "EX 1 fore", "2.5", "0.2", "7 mm", "1"])
    return draw.choice([*HOSTILE, real, real, real])


def _post(draw: random.Random, client: Client, build: Build, where: str, act: str) -> Any:
    names = draw.sample(NAMES, k=draw.randint(1, 14))
    data: dict[str, Any] = {
        name: _value(draw, build).encode("utf-8", "surrogatepass").decode("utf-8", "replace")
        if draw.random() < 0.5
        else _value(draw, build)
        for name in names
    }
    data = {name: value.encode("utf-8", "replace").decode() for name, value in data.items()}
    if act:
        data["act"] = act
    if draw.random() < 0.25:
        data["file"] = SimpleUploadedFile(draw.choice(["x.csv", "x.json", "x.wav", "x.jpg", "\u202ex", "x" * 200]), draw.choice(FILES))
    return client.post(where, data)


@pytest.fixture
def nobody_works(monkeypatch: pytest.MonkeyPatch) -> None:
    """Long work belongs to the workers, which these tests do not run: here it is asked for and never begun, so that what is timed is the answering."""
    monkeypatch.setattr(tasks._LocalJob, "_run", lambda _: None)


class _Count:
    """How many inputs were sent, since when."""

    def __init__(self) -> None:
        self.sent, self.first = 0, time.monotonic()


def _ask(draw: random.Random, client: Client, build: Build, number: int) -> tuple[str, Any]:
    """One hostile request: half of them to an act of a build's pages (each act at least twice before chance takes over), a quarter to the workshop's, a
    quarter with a query."""
    if number % 4 < 2:
        place, act = ACTS[number % len(ACTS)] if number < 2 * len(ACTS) else draw.choice(ACTS)
        where = address(build, place)
        return where, _post(draw, client, build, where, act)
    if number % 4 == 2:
        where = f"/shop/shed/{draw.choice(SHOP)}"
        return where, _post(draw, client, build, where, draw.choice(["", "keep", "archive", "key", "away", "restore"]))
    where = draw.choice([address(build, draw.choice(ASKED)), f"/shop/shed/{draw.choice(SHOP)}"])
    query = {name: _value(draw, build).encode("utf-8", "replace").decode()[:2000] for name in draw.sample(NAMES, k=draw.randint(1, 6))}
    return where, client.get(where, query)


@pytest.mark.usefixtures("nobody_works")
def test_hostile_input_is_answered_with_a_sentence_and_soon(petrel: Build, owner: Membership) -> None:
    """Every act of every page, over and over, with whatever a person or a script may send; every page asked with every query. Drawn by hypothesis, which names
    the draw that broke something."""
    client, count = client_for(owner), _Count()
    client.raise_request_exception = False

    @seed(int(os.environ.get("ROCKLASH_ATTACK_SEED", "5")))
    @settings(max_examples=COUNT, deadline=None, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck))
    @given(draw=st.randoms(use_true_random=True))
    def hostile(draw: random.Random) -> None:
        began = time.monotonic()
        if began - count.first > SECONDS:
            return
        where, answer = _ask(draw, client, petrel, count.sent)
        count.sent += 1
        took = time.monotonic() - began
        assert answer.status_code < 500, (where, answer.status_code, getattr(answer, "exc_info", None))
        assert took < 2.0 or where.endswith(WORK), (where, round(took, 1))

    hostile()
    if told := os.environ.get("ROCKLASH_ATTACK_TOLD"):
        Path(told).write_text(str(count.sent), encoding="ascii")
    assert count.sent >= min(COUNT, 100)


@pytest.mark.parametrize("name", ["x" * 5000, "a\x00b", "\u202eolga", "o\u200blga", "", " ", "9" * 400, "bert\r\n", "\u0430dmin"])
def test_odd_names_at_the_door(builder: Membership, name: str) -> None:
    client = Client(raise_request_exception=False)
    assert client.post("/sign-in/", {"username": name, "password": "x" * 5000}).status_code < 500
    assert client.post("/start/", {"workshop": name, "name": name, "password": "long-enough-" + "x" * 3000}).status_code < 500


@pytest.mark.parametrize(
    "where",
    [
        "/shop/sh%00ed/",
        "/shop/shed/build/999999999999999999999999/",
        "/join/%00/",
        "/join/" + "x" * 3000 + "/",
        "/sign-in/?next=bare",
        "/sign-in/?next=//evil.example/",
        "/sign-in/?next=%00",
        "/calendar/%00.ics",
        "/shop/shed/build/1/figure/x/%00/",
        "/\ud7ff",
        "/shop/shed/shelf/part/99999999999999999999/",
    ],
)
def test_odd_addresses(petrel: Build, builder: Membership, where: str) -> None:
    client = client_for(builder)
    client.raise_request_exception = False
    answer = client.get(where)
    assert answer.status_code < 500
    assert "evil" not in answer.get("Location", "")
