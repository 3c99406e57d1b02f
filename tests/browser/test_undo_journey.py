"""Typed, looked up, undone: a figure with its history beside it, by keyboard."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import sign_in, violations

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def test_a_figure_is_typed_looked_up_and_undone(page: Page, site: str, troubles: list[str]) -> None:
    sign_in(page, site, "builder")
    page.get_by_role("link", name="Petrel 1498").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Engine")).click()
    field = page.get_by_role("textbox", name="Connecting rod")
    before = field.input_value()
    field.fill("122.4")
    field.press("Enter")
    undo = page.get_by_role("button", name="Undo: figure")
    expect(undo).to_be_visible()
    was = page.get_by_role("button", name="Connecting rod: what it was before")
    was.press("Enter")
    expect(page.locator(".past-list")).to_contain_text("typed 122.4")
    was.press("Enter")
    undo.press("Enter")
    expect(page.get_by_role("textbox", name="Connecting rod")).to_have_value(before)
    expect(page.get_by_role("button", name="Undo: figure")).to_have_count(0)
    assert violations(page) == []
    assert troubles == []
