"""Answers packed for the way: read back by the library that browsers' own reader comes from, never by the packer."""

import gzip
import re
from pathlib import Path

import brotli
import pytest
from django.contrib.staticfiles import finders
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.test import Client
from hypothesis import given
from hypothesis import strategies as st

from rocklash.demo import load
from rocklash.desk.weight import Packing, by_brotli
from rocklash.records.models import Build, Membership
from tests.rocklash.conftest import address, client_for

WORDS = "The intake seat is held with 21 N to spare. " * 40


def _packed(response: HttpResponse | StreamingHttpResponse, accepts: str) -> HttpResponse:
    request = HttpRequest()
    request.META["HTTP_ACCEPT_ENCODING"] = accepts
    return Packing(lambda _: response)(request)  # type: ignore[return-value]


@given(st.binary(max_size=4000), st.integers(1, 256))
def test_what_is_packed_and_padded_is_read_back(content: bytes, padded: int) -> None:
    """RFC 7932: a reader skips the block of metadata whatever stands in it."""
    stream = by_brotli(content, padded)
    assert brotli.decompress(stream) == content
    assert len(stream) > padded


@pytest.mark.parametrize(
    ("accepts", "wanted"),
    [
        ("gzip, deflate, br, zstd", "br"),
        ("br", "br"),
        ("br;q=0.5, gzip", "br"),
        ("gzip, br;q=0", "gzip"),
        ("br;q=0.0", None),
        ("gzip", "gzip"),
        ("zebra", None),
        ("", None),
    ],
)
def test_each_browser_gets_what_it_takes(accepts: str, wanted: str | None) -> None:
    answer = _packed(HttpResponse(WORDS, headers={"ETag": '"a"'}), accepts)
    assert answer.get("Content-Encoding") == wanted
    assert "Accept-Encoding" in answer["Vary"]  # so that no cache hands one browser what another takes
    if wanted:
        assert len(answer.content) < len(WORDS) / 4
        assert answer["ETag"] == 'W/"a"'
        assert answer["Content-Length"] == str(len(answer.content))
    if wanted == "br":
        assert brotli.decompress(answer.content).decode() == WORDS


def test_the_length_tells_nothing_twice() -> None:
    """What an eavesdropper would compare differs from answer to answer to the same words."""
    assert len({len(_packed(HttpResponse(WORDS), "br").content) for _ in range(40)}) > 15


def test_what_would_not_gain_goes_as_it_is() -> None:
    assert not _packed(HttpResponse("short"), "br").has_header("Content-Encoding")
    before = HttpResponse(b"\0" * 300, headers={"Content-Encoding": "gzip"})
    assert _packed(before, "br")["Content-Encoding"] == "gzip"
    noise = bytes(range(256))
    assert _packed(HttpResponse(noise), "br").content == noise
    assert _packed(StreamingHttpResponse(iter([WORDS.encode()])), "gzip, br")["Content-Encoding"] == "gzip"


@pytest.mark.django_db
def test_the_sign_in_page_comes_packed() -> None:
    answer = Client().get("/sign-in/", headers={"Accept-Encoding": "gzip, br"})
    assert answer["Content-Encoding"] == "br"
    assert "Sign in" in brotli.decompress(answer.content).decode()


@pytest.mark.django_db
def test_a_first_visit_fetches_less_than_a_hundred_and_twenty_kilobytes() -> None:
    """The overview of the demo's fullest engine with all that its head asks for, fonts and words of the glossary among it, by gzip, which is the
    larger of the two ways; a fifth of a kilobyte of head with each."""
    load.load()
    build = Build.objects.get(name="Petrel 1498")
    client = client_for(Membership.objects.get(workshop=build.workshop, role="builder"))
    page = client.get(address(build, "")).content
    wanted = set(re.findall(r'(?:href|src)="/static/([^"]+\.(?:css|js|svg))"', page.decode()))
    assert {"css/site.css", "vendor/htmx.min.js", "js/drafts.js"} <= wanted
    bodies = [page, client.get("/glossary/terms.json").content]
    for name in sorted(wanted):
        file = Path(finders.find(name) or "")
        body = file.read_bytes()
        bodies.append(body)
        bodies += [(file.parent / told).read_bytes() for told in re.findall(r'url\("?([^")]+\.woff2)', body.decode())]
    assert len(bodies) > len(wanted) + 4  # the four weights of the type
    assert sum(min(len(gzip.compress(body, 6)), len(body)) + 250 for body in bodies) < 120_000
