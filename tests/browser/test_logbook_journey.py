"""The logbook in the real browser: two figures by keyboard, found again, done and undone; on desk and phone."""

import re

import pytest
from playwright.sync_api import Page, expect

from rocklash.records.models import RunEntry
from tests.browser.conftest import sign_in, violations
from tests.browser.test_head_journey import on_the_phone

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def test_a_run_is_kept_found_and_taken_back(page: Page, site: str, troubles: list[str]) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Sanderling 449").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Logbook")).click()
    expect(page.get_by_text("clearance sheet signed at 42 h")).to_be_visible()
    assert violations(page) == []
    before = RunEntry.objects.count()
    page.locator("#run-ran").focus()
    page.keyboard.type("1.5 h")
    page.keyboard.press("Enter")
    expect(page.locator(".bigfig").first).to_have_text("50.7")
    assert RunEntry.objects.count() == before + 1
    page.get_by_role("textbox", name="Find").fill("dust")
    page.get_by_role("button", name="Show").click()
    expect(page.get_by_text("two heats, dust")).to_be_visible()
    expect(page.get_by_text("felt flat")).to_have_count(0)
    page.get_by_role("button", name=re.compile("Undo: ran")).click()
    expect(page.locator(".bigfig").first).to_have_text("49.2")
    on_the_phone(page)


def test_what_is_due_is_done(page: Page, site: str, troubles: list[str]) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Sanderling 449").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Logbook")).click()
    page.get_by_role("link", name="What is due", exact=True).click()
    expect(page.get_by_text("due: oil and filter", exact=False)).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Done now: oil and filter").first.press("Enter")
    expect(page.get_by_text("nothing stands out", exact=False)).to_be_visible()
    page.get_by_role("button", name="Done now: valve springs").click()
    expect(page.get_by_text("Of 3 more nobody noted", exact=False)).to_be_visible()
    on_the_phone(page)
    page.get_by_role("link", name="What a use takes", exact=True).click()
    expect(page.get_by_text("never told as hours of life", exact=False)).to_be_visible()
    page.get_by_label("Hours", exact=True).fill("many")
    page.get_by_role("button", name="Count").click()
    expect(page.get_by_role("alert")).to_contain_text("Write hours")
    expect(page.get_by_label("Hours", exact=True)).to_have_value("many")
    assert violations(page) == []
    on_the_phone(page)
