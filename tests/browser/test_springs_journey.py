"""Springs & masses in the real browser: the motion arrives by itself, a changed part redraws, springs are pressed, valves stand."""

import re

import pytest
from playwright.sync_api import Page, expect

from rocklash.demo import load
from rocklash.records.models import Observation
from tests.browser.conftest import practise, sign_in, violations

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]
_SLOW = 30_000  # ms; a first motion on a busy machine


def _springs(page: Page, site: str) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Petrel 1498").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Springs")).click()


def test_motion_arrives_and_a_changed_part_redraws_ladder_and_sweep(page: Page, site: str, troubles: list[str]) -> None:
    _springs(page, site)
    expect(page.locator("#ladder .infigures table")).to_contain_text("proposed exhaust float at speed", timeout=_SLOW)
    assert violations(page) == []
    page.get_by_role("navigation", name="Side").get_by_role("link", name="Exhaust").click()
    page.get_by_role("link", name="At speed", exact=True).click()
    expect(page.locator("svg.revmap")).to_be_visible(timeout=_SLOW)
    before = page.locator("#ladder .infigures table").text_content()
    assert violations(page) == []
    page.keyboard.press("ArrowRight")
    expect(page.locator("#turn-said")).to_contain_text("°")
    expect(page.locator("[data-bar='spring'] [data-figure]")).to_contain_text(re.compile(r"\d"))
    field = page.get_by_label("Train stiffness at the valve", exact=False)
    field.fill("45000")
    field.press("Enter")
    expect(page.locator("#ladder .infigures table")).not_to_have_text(before or "", timeout=_SLOW)
    expect(page.locator("#ladder .infigures table")).to_contain_text("proposed exhaust float at speed", timeout=_SLOW)
    expect(page.locator("svg.revmap")).to_be_visible(timeout=_SLOW)


def test_what_was_seen_anchors_the_next_springs(page: Page, site: str, troubles: list[str]) -> None:
    _springs(page, site)
    page.get_by_role("link", name="At speed", exact=True).click()
    expect(page.locator("svg.revmap")).to_be_visible(timeout=_SLOW)
    page.get_by_label("It gave up at, rpm").fill("8200")
    page.get_by_label("what shows it").fill("soft wall on the lake")
    page.get_by_role("button", name="Save as seen").click()
    expect(page.get_by_text(re.compile("the next springs lose contact from|It does not fit"))).to_be_visible(timeout=_SLOW)
    expect(page.get_by_text("soft wall on the lake")).to_be_visible()
    assert violations(page) == []


def test_springs_are_pressed_and_valves_stand(page: Page, site: str, troubles: list[str]) -> None:
    _springs(page, site)
    page.get_by_role("link", name="open this spring: tester log, wire, life").first.click()
    assert violations(page) == []
    page.get_by_label("Readings, typed or pasted", exact=False).fill("37.2 176\n33.2 330\n28.2 523\n")
    page.get_by_role("button", name="Fit and save as measured").click()
    expect(page.get_by_text("the middle of the set gives", exact=False)).to_be_visible()
    practise(page)
    page.locator("#rail").get_by_role("link", name=re.compile("Springs")).click()
    page.get_by_role("link", name="open this spring: tester log, wire, life").first.click()
    page.get_by_role("button", name="Press a set on the simulated tester").click()
    expect(page.get_by_text("the tester is pressing", exact=False)).to_be_visible()
    page.get_by_role("button", name="Stop the tester").click()
    expect(page.get_by_role("button", name="Press another set on the simulated tester")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("link", name="Valve by valve").click()
    assert violations(page) == []
    height = page.get_by_label(re.compile("height shut")).first
    height.fill("37.9")
    height.press("Enter")
    expect(page.get_by_text("seat loads of this side differ by", exact=False)).to_be_visible()
    expect(page.get_by_label(re.compile("height shut")).first).to_have_value("37.9")
    page.get_by_role("link", name="Spring force and what it costs").click()
    expect(page.get_by_text("What the goal asks")).to_be_visible()
    assert violations(page) == []


def _back_in(page: Page) -> None:
    page.get_by_label("Name").fill("builder")
    page.get_by_label("Password").fill(load.PASSWORD)
    page.get_by_role("button", name="Sign in").click()


def test_what_stands_in_any_form_comes_back_after_signing_in_again(page: Page, site: str) -> None:
    """One form sent from within its page, one that leaves it: neither loses a word to the end of the session; kept forms do not come back."""
    _springs(page, site)
    page.get_by_role("link", name="At speed", exact=True).click()
    expect(page.locator("svg.revmap")).to_be_visible(timeout=_SLOW)
    page.wait_for_load_state("networkidle")
    page.context.clear_cookies(name="sessionid")
    page.get_by_label("It gave up at, rpm").fill("8230")
    page.get_by_label("what shows it").fill("soft wall on the lake")
    page.get_by_role("button", name="Save as seen").click()
    expect(page.get_by_role("dialog", name="Sign in again")).to_be_visible(timeout=_SLOW)
    _back_in(page)
    expect(page.get_by_text("soft wall on the lake").first).to_be_visible(timeout=_SLOW)  # sent by itself once its writer was back
    assert Observation.objects.filter(note="soft wall on the lake").count() == 1
    page.locator("#rail").get_by_role("link", name=re.compile("Springs")).click()
    page.get_by_role("link", name="open this spring: tester log, wire, life").first.click()
    rows = "37.2 178\n33.2 330\n28.2 521"
    page.wait_for_load_state("networkidle")
    page.context.clear_cookies(name="sessionid")
    page.locator("#log-text").fill(rows)
    page.get_by_role("button", name="Fit and save as measured").click()
    _back_in(page)
    expect(page.locator("#log-text")).to_have_value(rows)
    page.get_by_role("button", name="Fit and save as measured").click()
    expect(page.get_by_text("the middle of the set gives", exact=False)).to_be_visible(timeout=_SLOW)
    expect(page.locator("#log-text")).to_have_value("")


def test_a_new_part_waits_while_its_builder_signs_in_again(page: Page, site: str, troubles: list[str]) -> None:
    """Words, choice and tick come back, for the side they were meant for."""
    _springs(page, site)
    page.get_by_role("link", name="Intake", exact=True).click()
    page.get_by_role("link", name=re.compile("new, or copy and change.*Spring, outer")).click()
    page.get_by_label("Name").fill("Own set")
    page.get_by_label("Rate, N/mm").fill("39,5")
    page.get_by_label("These figures are from").select_option("measured")
    page.locator("#new-both").check()
    assert violations(page) == []
    page.context.clear_cookies(name="sessionid")
    page.get_by_role("button", name="Add it and put it in").click()
    _back_in(page)
    expect(page.get_by_label("Name")).to_have_value("Own set")
    expect(page.get_by_label("These figures are from")).to_have_value("measured")
    expect(page.locator("#new-both")).to_be_checked()
    page.get_by_role("button", name="Add it and put it in").click()
    expect(page.locator("#pick-outer_spring option:checked")).to_have_text("Own set")
    assert "side=intake" in page.url


def test_enter_in_a_changed_field_sends_it_once(page: Page, site: str, troubles: list[str]) -> None:
    """A change and a submit come in one breath: one sending; and Enter alone, later, sends again."""
    _springs(page, site)
    sent: list[str] = []
    page.on("request", lambda request: sent.append(request.post_data or "") if request.method == "POST" else None)
    for text, wanted in (("36.8", 1), ("36.9", 2)):
        field = page.locator("form[data-field] input[data-draft]").filter(visible=True).first
        field.fill(text)
        with page.expect_response(lambda answer: answer.request.method == "POST"):
            field.press("Enter")
        page.wait_for_timeout(400)  # a second sending would be on its way by then
        assert len(sent) == wanted
        assert f"text={text}" in sent[-1]
