"""Room in the real browser: the crank is stepped, a gap is read, an over-rev inspected; keyboard only where it can be."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import sign_in, violations

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]
_SLOW = 30_000


def _room(page: Page, site: str, engine: str) -> None:
    sign_in(page, site)
    page.get_by_role("link", name=engine).click()
    page.locator("#rail").get_by_role("link", name=re.compile("Room")).click()


def test_the_crank_moves_section_and_figures(page: Page, site: str, troubles: list[str]) -> None:
    _room(page, site, "Petrel 1498")
    expect(page.locator("svg.waterfall").first).to_be_visible(timeout=_SLOW)
    assert violations(page) == []
    piston = page.locator("[data-piston]")
    before = piston.get_attribute("transform")
    said = page.locator("[data-now='intake']").first
    now = said.inner_text()
    page.locator("body").press("Shift+ArrowRight")
    page.locator("body").press("Shift+ArrowRight")
    expect(piston).not_to_have_attribute("transform", before or "")
    expect(said).not_to_have_text(now)
    expect(page.locator("h2[data-crank]")).to_contain_text("after overlap TDC")
    box = page.locator("svg.roomsection").bounding_box()
    assert box
    at = piston.get_attribute("transform")
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2 - 120, box["y"] + box["height"] / 2)
    page.mouse.up()
    expect(piston).not_to_have_attribute("transform", at or "")
    page.get_by_role("link", name="show valve to valve").click()
    expect(page.locator("svg.phasermap")).to_have_attribute("aria-label", re.compile("Valve to valve"))
    page.set_viewport_size({"width": 390, "height": 844})
    assert violations(page) == []
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_a_gap_is_read_and_settles(page: Page, site: str) -> None:
    _room(page, site, "Dunlin 598")
    expect(page.get_by_text("Not known yet", exact=False)).to_be_visible()
    page.get_by_role("navigation", name="Room").get_by_role("link", name="Measure").click()
    assert violations(page) == []
    page.get_by_label("Valve", exact=True).select_option(label="IN 1 left")
    page.get_by_label("Reading,", exact=False).fill("one")
    page.get_by_role("button", name="Save these readings").click()
    expect(page.get_by_role("alert")).to_contain_text("is not a length")
    page.get_by_label("Reading,", exact=False).fill("1.72")
    page.get_by_role("button", name="Save these readings").click()
    expect(page.get_by_role("button", name="remove IN 1 left", exact=False)).to_be_visible()
    page.get_by_role("link", name="Every gap").click()
    expect(page.locator(".gaptable")).to_contain_text("clay, IN 1 left")


def test_an_over_rev_is_inspected(page: Page, site: str, troubles: list[str]) -> None:
    _room(page, site, "Dunlin 598")
    page.get_by_role("link", name="Over-rev").click()
    expect(page.get_by_text("Intake contact")).to_be_visible(timeout=_SLOW)
    expect(page.locator("#ladder .infigures tr", has_text="over-rev reached")).to_contain_text("12,070 to 13,410")
    assert violations(page) == []
    page.get_by_label("cylinder 1 Borescope", exact=False).select_option(label="bright witness mark")
    expect(page.get_by_text("It does not run: cylinder 1", exact=False)).to_be_visible(timeout=_SLOW)
    page.get_by_label("or the peak as logged, rpm").fill("12,900")
    page.get_by_role("button", name="Look into it").click()
    expect(page.get_by_text("12,771 to 13,029 rpm", exact=False)).to_be_visible(timeout=_SLOW)
    page.get_by_role("link", name="Gearing").click()
    expect(page.get_by_text("Sprockets that give it within the stock limiter")).to_be_visible()
    assert violations(page) == []
