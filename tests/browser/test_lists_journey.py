"""A long list is narrowed by a word, and a drawing is read as a table, by keyboard."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import sign_in, violations

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def shown(page: Page, pick: str) -> list[str]:
    """The choices of a select that can be seen."""
    return page.locator(pick).evaluate(
        "(select) => [...select.options].filter((option) => !option.hidden).map((option) => option.textContent.trim())"
    )  # type: ignore[no-any-return]


def test_a_long_list_is_narrowed_and_a_drawing_read_as_a_table(page: Page, site: str, troubles: list[str]) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Petrel 1498").click()
    page.goto(f"{page.url}springs/?side=intake")
    whole = shown(page, "#pick-retainer")
    kept = page.locator("#pick-retainer").evaluate("(select) => select.selectedOptions[0].textContent.trim()")
    field = page.get_by_label("Only parts with")
    field.fill("steel retainer")
    some = shown(page, "#pick-retainer")
    assert kept in some, "what is chosen is never hidden"
    assert 1 < len(some) < len(whole)
    assert all("steel" in name.lower() for name in some if name not in (kept, whole[0]))
    field.press("Enter")  # no form goes off
    expect(field).to_have_value("steel retainer")
    page.locator("#station nav a", has_text="Exhaust").first.click()
    expect(page).to_have_url(re.compile("side=exhaust"))
    expect(page.get_by_label("Only parts with")).to_be_visible()
    page.get_by_label("Only parts with").fill("no such part")
    expect(page.locator("[data-narrows] [role=status]")).to_have_text("none holds these words")
    page.get_by_label("Only parts with").press("Escape")
    assert len(shown(page, "#pick-retainer")) == len(whole)

    page.locator("summary", has_text="The forces, in figures").focus()
    page.keyboard.press("Enter")
    table = page.get_by_role("table", name="The forces, in figures")
    expect(table.get_by_role("rowheader", name="highest")).to_be_visible()
    assert violations(page) == []

    page.goto(f"{site}/glossary/")
    page.get_by_label("Only terms with").fill("coil bind")
    expect(page.get_by_role("term").filter(visible=True).first).to_contain_text("Coil bind")
    assert page.locator("section[data-narrowed-part]:visible").count() < page.locator("section[data-narrowed-part]").count()
    assert violations(page) == []
