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
    expect(page.get_by_text("due: clearances, by their drift, oil and filter", exact=False)).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Done now: oil and filter").first.press("Enter")
    expect(page.get_by_text("At 49.2 h due: clearances, by their drift. Of 4 more", exact=False)).to_be_visible()
    page.get_by_role("button", name="Done now: keepers and retainers").click()
    expect(page.get_by_text("Of 3 more nobody noted", exact=False)).to_be_visible()
    on_the_phone(page)
    page.get_by_label("What", exact=True).fill("reed valves")
    page.get_by_label("Every", exact=True).fill("25")
    page.get_by_role("button", name="Save the rule").click()
    expect(page.get_by_role("row", name=re.compile("Reed valves"))).to_be_visible()
    page.get_by_role("link", name="Parts and springs", exact=True).click()
    expect(page.get_by_role("heading", name=re.compile("Stock spring 449, exhaust and intake"))).to_be_visible()
    page.get_by_label("Price of a set").fill("96")
    page.get_by_label("lasts, h").fill("30 to 45")
    page.get_by_label("a season has, h").fill("50")
    page.get_by_role("button", name="Work it out").click()
    expect(page.get_by_text("1.1 to 1.7 sets a season, 107 to 160", exact=False)).to_be_visible()
    assert violations(page) == []
    on_the_phone(page)
    page.get_by_role("link", name="What a use takes", exact=True).click()
    expect(page.get_by_text("never given as hours of life", exact=False)).to_be_visible()
    page.get_by_label("Hours", exact=True).fill("many")
    page.get_by_role("button", name="Count").click()
    expect(page.get_by_role("alert")).to_contain_text("Write hours")
    expect(page.get_by_label("Hours", exact=True)).to_have_value("many")
    assert violations(page) == []
    on_the_phone(page)


def test_hours_in_two_taps_and_the_whole_shop_at_a_glance(page: Page, site: str, troubles: list[str]) -> None:
    """Two taps from anywhere; a line typed; the board narrowed by its address; something found; what is due on all; the week; archived and back."""
    sign_in(page, site)
    assert violations(page) == []
    on_the_phone(page)
    page.get_by_role("link", name="Sanderling 449").click()
    before = RunEntry.objects.count()
    page.get_by_role("link", name="+ hours").click()
    page.get_by_role("button", name="1.1 h on Sanderling 449").click()
    expect(page.get_by_role("link", name="Logbook of Sanderling 449")).to_be_visible()
    assert RunEntry.objects.count() == before + 1
    assert violations(page) == []
    page.goto(f"{site}/shop/skerrow/")
    page.get_by_role("link", name="+ hours").click()
    page.get_by_label("It ran", exact=True).fill("40 min on Ghost")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("no engine called")
    troubles[:] = [each for each in troubles if "422" not in each]
    expect(page.get_by_label("It ran", exact=True)).to_have_value("40 min on Ghost")
    page.get_by_label("It ran", exact=True).fill("40 min on knot")
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="Logbook of Knot 389")).to_be_visible()
    page.get_by_label("Engine or owner").fill("tormod")
    page.get_by_label("Engine or owner").press("Enter")
    expect(page).to_have_url(re.compile(r"q=tormod"))
    expect(page.get_by_role("link", name="Dunlin 598")).to_be_visible()
    expect(page.get_by_role("link", name="Knot 389", exact=True)).to_have_count(0)
    page.get_by_role("button", name="Archive: Dunlin 598").click()
    expect(page.get_by_text("No build like that")).to_be_visible()
    page.goto(f"{site}/shop/skerrow/?show=archive")
    page.get_by_role("button", name="Back on the board: Dunlin 598").click()
    page.get_by_label("Search everything").fill("flat above")
    page.get_by_label("Search everything").press("Enter")
    expect(page.get_by_role("link", name=re.compile("Felt flat above 10,000"))).to_be_visible()
    assert violations(page) == []
    on_the_phone(page)
    for where, words in (("due/", "Due on every engine"), ("week/", "Week from")):
        page.goto(f"{site}/shop/skerrow/{where}")
        expect(page.get_by_role("heading", name=re.compile(words))).to_be_visible()
        assert violations(page) == [], where
        on_the_phone(page)
