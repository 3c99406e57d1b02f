"""A column from a spreadsheet pasted over the valves: shown first, then put in and saved, one after another."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import sign_in, violations

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def paste(page: Page, selector: str, text: str) -> None:
    """What a hand does with the clipboard, which a headless browser has no key for."""
    page.locator(selector).focus()
    page.evaluate(
        """([selector, text]) => {
            const clip = new DataTransfer();
            clip.setData("text/plain", text);
            document.querySelector(selector).dispatchEvent(new ClipboardEvent("paste", { clipboardData: clip, bubbles: true, cancelable: true }));
        }""",
        [selector, text],
    )


def test_heights_pasted_from_a_spreadsheet(page: Page, site: str, troubles: list[str]) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Turnstone 207").click()
    page.goto(f"{page.url}springs/valves/?side=intake")
    expect(page.locator("table[data-paste]").first).to_be_visible()
    first = page.locator("table[data-paste] input[name=height]").first
    where = f"#{first.get_attribute('id')}"
    paste(page, where, "31,20\n31,25")
    dialog = page.get_by_role("dialog", name="What was pasted")
    expect(dialog).to_contain_text("31,20")
    expect(dialog).to_contain_text("1 too many for this table are left out: 31,25")  # one intake valve
    assert violations(page) == []
    dialog.get_by_role("button", name="Leave it").click()
    expect(first).not_to_have_value("31,20")
    paste(page, where, "31,20\n31,25")
    page.get_by_role("button", name="Put them in and save").click()
    expect(page.locator(where)).to_have_value(re.compile(r"^31\.20?$"))
    page.reload()
    expect(page.locator(where)).to_have_value(re.compile(r"^31\.20?$"))


def test_a_table_pasted_is_saved_valve_by_valve_and_stops_at_what_is_wrong(page: Page, site: str, troubles: list[str]) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Dunlin 598").click()
    page.goto(f"{page.url}springs/valves/?side=exhaust")
    heights = page.locator("table[data-paste] input[name=height]")
    ids = [f"#{heights.nth(number).get_attribute('id')}" for number in range(4)]
    paste(page, ids[0], "34.10\n34.15\nnonsense\n34.05\n")
    page.get_by_role("button", name="Put them in and save").click()
    expect(page.locator("#station .wrong[role=alert]")).to_contain_text("nonsense", timeout=20_000)
    page.reload()
    expect(page.locator(ids[0])).to_have_value(re.compile("^34.10?$"))
    expect(page.locator(ids[1])).to_have_value(re.compile("^34.15$"))
    assert page.locator(ids[3]).input_value() not in ("34.05", "34.050")  # what came after the fault was not sent
    troubles[:] = [each for each in troubles if "422" not in each]  # the browser tells of the refusal
