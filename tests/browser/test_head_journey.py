"""Fuel, breathing, advice, regrind and machine shop in the real browser, on desk and phone."""

import re

import pytest
from playwright.sync_api import Page, expect

from rocklash.desk import frame
from tests.browser.conftest import sign_in, violations

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]
_WIDE = "document.documentElement.scrollWidth"


def to_station(page: Page, site: str, station: str) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Petrel 1498").click()
    page.locator("#rail").get_by_role("link", name=re.compile(station)).click()


def on_the_phone(page: Page) -> None:
    """Readable and without a finding at 390 px, and back on the desk. Each width has a ladder of its own, which is fetched: until it is there the page moves."""
    narrow = page.locator("#bench #ladder[data-narrow]")
    ladders = page.locator("#bench #ladder").count()
    page.set_viewport_size({"width": 390, "height": 844})
    expect(narrow).to_have_count(ladders)
    assert page.evaluate(_WIDE) <= 390
    assert violations(page) == []
    page.set_viewport_size({"width": 1280, "height": 800})
    expect(narrow).to_have_count(0)
    page.evaluate("() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")


def test_fuel_breathing_and_advice(page: Page, site: str, troubles: list[str]) -> None:
    to_station(page, site, "Goal")
    expect(page.get_by_text("Petrol of 98 octane: not proven.")).to_be_visible()
    page.get_by_label("Fuel it runs on").select_option("E85")
    expect(page.get_by_text("E85 of 98 octane", exact=False)).to_be_visible()
    assert violations(page) == []
    on_the_phone(page)
    page.get_by_role("link", name="Breathing and effort").click()
    expect(page.get_by_role("heading", name="How much work is enough")).to_be_visible()
    page.get_by_label("Throat under the seat").first.fill("32.5")
    page.get_by_label("Throat under the seat").first.press("Enter")
    expect(page.get_by_text("801.3 mm²").first).to_be_visible()
    page.get_by_text("Save a flow test").click()
    page.get_by_label("Port", exact=True).select_option("exhaust")
    page.get_by_label("Depression", exact=False).fill("7 kPa")
    page.get_by_label("Readings, typed or pasted", exact=False).fill("2 20\n2 30\n")
    page.get_by_role("button", name="Save the test").click()
    expect(page.get_by_text("does not increase at row 2", exact=False)).to_be_visible()
    expect(page.get_by_label("Readings, typed or pasted", exact=False)).to_have_value("2 20\n2 30\n")
    troubles[:] = [each for each in troubles if "422" not in each]  # the browser notes the refusal that was asked for
    page.get_by_label("Readings, typed or pasted", exact=False).fill("2 20\n4 38\n6 50\n")
    page.get_by_role("button", name="Save the test").click()
    expect(page.get_by_text("exhaust port, as it is now: 3 lifts", exact=False)).to_be_visible()
    assert violations(page) == []
    on_the_phone(page)
    page.locator("#rail").get_by_role("link", name=re.compile("Choose")).click()
    page.get_by_role("link", name="Materials and form").click()
    expect(page.locator("[data-rule=alcohol-guides]")).to_be_visible()
    page.get_by_label("Exhaust guides of").select_option("bronze")
    page.get_by_label("Intake guides of").select_option("bronze")
    expect(page.locator("[data-rule=alcohol-guides]")).to_have_count(0)
    expect(page.get_by_role("heading", name="What is often said")).to_be_visible()
    assert violations(page) == []
    on_the_phone(page)


def test_a_lobe_is_ground_and_laid_beside(page: Page, site: str, troubles: list[str]) -> None:
    to_station(page, site, "Cams")
    page.get_by_role("link", name="Regrind").click()
    expect(page.get_by_text("more lift area", exact=False).first).to_be_visible()
    page.get_by_label("Duration added", exact=False).fill("lots")
    page.get_by_role("button", name="Compute the lobe").click()
    expect(page.get_by_text("is not an angle", exact=False)).to_be_visible()
    expect(page.get_by_label("Duration added", exact=False)).to_have_value("lots")
    page.get_by_label("Duration added", exact=False).fill("6")
    page.get_by_label("Springs and masses").select_option("middle")
    page.get_by_role("button", name="Compute the lobe").click()
    expect(page.get_by_role("heading", name="What holds it")).to_be_visible()
    assert violations(page) == []
    with page.expect_download() as got:
        page.get_by_role("link", name="Table for the grinder", exact=False).click()
    assert got.value.suggested_filename.endswith(".csv")
    on_the_phone(page)
    page.get_by_label("Call it").fill("Heron grind")
    page.get_by_role("button", name="Lay it beside the cams").click()
    expect(page.get_by_text("Heron grind", exact=False).first).to_be_visible()
    page.locator("#rail").get_by_role("link", name=re.compile("Cams")).click()
    expect(page.locator("select.pick").filter(has_text="Heron grind").first).to_be_visible()
    assert violations(page) == []


def test_the_machine_shop_is_asked_and_checked(page: Page, site: str, troubles: list[str]) -> None:
    to_station(page, site, "Job")
    page.get_by_role("link", name="Machine shop").click()
    expect(page.get_by_text("outside what was asked", exact=False)).to_be_visible()
    assert violations(page) == []
    on_the_phone(page)
    page.get_by_role("button", name="Checked: close the order").click()
    page.get_by_role("button", name="Begin another order").click()
    page.get_by_label("Hone the guides", exact=False).check()
    page.get_by_label("Machine shop", exact=True).fill("Marram Heads")
    page.get_by_role("button", name="Save the order").click()
    expect(page.get_by_text("The order for Marram Heads is being written", exact=False)).to_be_visible()
    field = page.get_by_label("EX 1 fore, stem protrusion, before")
    field.fill("38.31")
    field.press("Tab")
    page.get_by_role("button", name="The head goes to the shop").click()
    expect(page.get_by_text("At Marram Heads since", exact=False)).to_be_visible()
    page.get_by_role("button", name="It is back").click()
    back = page.get_by_label("EX 1 fore, stem protrusion, back")
    back.fill("38.62")
    back.press("Tab")
    expect(page.get_by_text("The valve sits deeper by 0.31 mm", exact=False)).to_be_visible()
    assert violations(page) == []
    page.get_by_role("link", name="sheet to print").click()
    expect(page.get_by_role("heading", name="What is asked")).to_be_visible()
    assert violations(page) == []


def test_a_refusal_is_not_swept_away_by_the_motion(page: Page, site: str, troubles: list[str], monkeypatch: pytest.MonkeyPatch) -> None:
    """What the page fetches by itself comes after the refusal: sentence, choice and texts stand, and texts come back after leaving the page."""
    to_station(page, site, "Goal")
    page.get_by_role("link", name="Breathing and effort").click()
    page.get_by_text("Save a flow test").click()
    page.get_by_label("Port", exact=True).select_option("exhaust")
    page.get_by_label("Depression", exact=False).fill("7 kPa")
    readings = page.get_by_label("Readings, typed or pasted", exact=False)
    readings.fill("2 20\n2 30\n")
    monkeypatch.setattr(frame, "pending", lambda _: "still")
    with page.expect_response(re.compile("/motion/")) as motion:
        page.get_by_role("button", name="Save the test").click()
    motion.value.finished()
    show = page.get_by_role("link", name="computed: show it")
    expect(show).to_be_visible()
    expect(page.get_by_text("does not increase at row 2", exact=False)).to_be_visible()
    expect(page.get_by_label("Port", exact=True)).to_have_value("exhaust")
    expect(page.get_by_label("Depression", exact=False)).to_have_value("7 kPa")
    expect(readings).to_have_value("2 20\n2 30\n")
    monkeypatch.undo()
    show.click()
    expect(page.get_by_text("does not increase at row 2", exact=False)).to_have_count(0)
    page.get_by_text("Save a flow test").click()
    expect(readings).to_have_value("2 20\n2 30\n")
    expect(page.get_by_label("Depression", exact=False)).to_have_value("7 kPa")
    troubles[:] = [each for each in troubles if "422" not in each]
