"""The real browser on the live site with the demo workshop; every page is watched for console errors."""

import re
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from django.core.signals import request_finished, request_started
from django.db import connection, transaction
from playwright.sync_api import ConsoleMessage, Page, expect

from rocklash.demo import load

expect.set_options(timeout=15_000)  # two processors are shared by site, browser and checks: what comes, comes within this

AXE = Path(__file__).with_name("axe.min.js").read_text(encoding="utf-8")


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    quiet = ["--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"]
    microphone = ["--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream"]  # the browser's own simulated one, which beeps
    return {"executable_path": "/usr/bin/chromium", "args": ["--no-sandbox", "--disable-gpu", *quiet, *microphone]}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, Any]:
    return {"viewport": {"width": 1280, "height": 800}}


_counting = threading.Lock()
_under_way = [0]  # requests that the server of the tests has begun and not ended


def _count(by: int) -> Callable[..., None]:
    def counted(**_: Any) -> None:
        with _counting:
            _under_way[0] += by

    return counted


_BEGUN, _ENDED = _count(1), _count(-1)


_LEFT = {"django_migrations", "django_content_type", "auth_permission"}  # made by Django itself after each test
_kept: dict[str, bytes] = {}


def _demo() -> None:
    """The demo workshop: loaded once, then brought back table by table as it was, which takes a tenth of the time."""
    if not _kept:
        load.load()
        with connection.cursor() as cursor:
            cursor.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public'")
            tables = [name for (name,) in cursor.fetchall() if name not in _LEFT]
            for name in tables:
                with cursor.cursor.copy(f"COPY {name} TO STDOUT (FORMAT BINARY)") as copy:
                    _kept[name] = b"".join(bytes(part) for part in copy)
        return
    with transaction.atomic(), connection.cursor() as cursor:  # references are checked at the end: any order will do
        for name, rows in _kept.items():
            with cursor.cursor.copy(f"COPY {name} FROM STDIN (FORMAT BINARY)") as copy:
                copy.write(rows)
        cursor.execute(
            "SELECT table_name FROM information_schema.columns WHERE table_schema = 'public' AND column_name = 'id' AND is_identity = 'YES'"
        )
        for (name,) in cursor.fetchall():
            cursor.execute(f"SELECT setval(pg_get_serial_sequence('{name}', 'id'), coalesce(max(id), 1)) FROM {name}")


@pytest.fixture
def site(live_server: Any, transactional_db: None, page: Page) -> Iterator[str]:
    """The address of the site with the demo workshop. At the end no request may be under way: tables that are emptied then would stand against it."""
    _demo()
    _under_way[0] = 0
    request_started.connect(_BEGUN)
    request_finished.connect(_ENDED)
    yield str(live_server.url)
    for each in page.context.pages:
        each.goto("about:blank")
    end = time.monotonic() + 20.0
    while _under_way[0] > 0 and time.monotonic() < end:
        time.sleep(0.05)
    time.sleep(0.05)
    request_started.disconnect(_BEGUN)
    request_finished.disconnect(_ENDED)


@pytest.fixture
def troubles(page: Page) -> Iterator[list[str]]:
    """Console errors and warnings of the page; the test ends with none."""
    found: list[str] = []

    def hear(message: ConsoleMessage) -> None:
        if message.type in {"error", "warning"}:
            found.append(message.text)

    page.on("console", hear)
    page.on("pageerror", lambda error: found.append(str(error)))
    yield found
    assert found == []


def violations(page: Page) -> list[str]:
    """axe's findings on the page as it stands, read through the debugging door, which the page's own policy does not bind."""
    session = page.context.new_cdp_session(page)
    session.send("Runtime.evaluate", {"expression": AXE})
    run = "axe.run(document, {resultTypes: ['violations']}).then(r => JSON.stringify(r.violations.map(v => v.id + ': ' + v.nodes.map(n => n.html.slice(0, 160) + ' ' + n.failureSummary).join(' | '))))"
    answer = session.send("Runtime.evaluate", {"expression": run, "awaitPromise": True})
    session.detach()
    import json

    return list(json.loads(answer["result"]["value"]))


def sign_in(page: Page, site: str, name: str = "builder") -> None:
    page.goto(f"{site}/sign-in/")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(load.PASSWORD)
    page.get_by_role("button", name="Sign in").click()


def practise(page: Page) -> None:
    """Make a practice copy of the build at hand, and go on in it."""
    page.locator("#rail").get_by_role("link", name=re.compile("Overview")).click()
    page.get_by_role("button", name="Make a practice copy").click()
    expect(page.get_by_text("Practice copy.", exact=False).first).to_be_visible()
