"""Answers packed for the way: read back by the library that browsers' own reader comes from, never by the packer."""

import brotli
import pytest
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.test import Client
from hypothesis import given
from hypothesis import strategies as st

from rocklash.desk.weight import Packing, by_brotli

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
