"""The first minute of somebody new: a verdict on one's own figures, clearances only, a fix tried and taken, a build deleted and had back."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import sign_in, violations

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def test_first_verdict_with_own_springs_in_three_pages(page: Page, site: str, troubles: list[str]) -> None:
    """Board, New engine, overview: six fields and one tile, nine presses; the seat force typed is the one judged."""
    sign_in(page, site)
    pages: list[str] = []
    page.on("framenavigated", lambda frame: pages.append(frame.url) if frame == page.main_frame else None)
    page.get_by_role("link", name="New engine").click()
    page.get_by_label("Push-rod kart single").check()
    expect(page.get_by_label("lash cap")).to_be_checked()
    expect(page.get_by_label("Bore, mm")).to_have_value("69.00")
    assert violations(page) == []
    for label, text in {
        "What do you call it?": "Ruff 208", "Highest engine speed it must hold": "6,100", "Seat force, intake": "98",
        "Spring rate, intake": "17.5", "Retainer mass, intake": "11",
    }.items():  # fmt: skip
        page.get_by_label(label).fill(text)
    page.get_by_role("button", name="To the first verdict").click()
    expect(page.locator("h2.answer")).to_be_visible()
    assert len([url for url in pages if "motion" not in url]) == 2
    page.locator("details.held > summary").click()
    expect(page.locator("main")).to_contain_text("98")
    page.locator("#rail").get_by_role("link", name=re.compile("Springs")).click()
    page.locator("#figures-outer_spring summary").click()
    expect(page.get_by_label("Seat force, at installed height").first).to_have_value("98")


def test_only_its_clearances_in_three_pages_by_keyboard(page: Page, site: str, troubles: list[str]) -> None:
    """The key of the door, a tile, a name, Enter."""
    sign_in(page, site)
    expect(page.get_by_role("link", name="New engine")).to_be_visible()
    page.keyboard.press("2")
    page.wait_for_url(re.compile("why=clearances"))
    page.get_by_label("Trail single, one camshaft, rockers").check()
    page.get_by_label("What do you call it?").fill("Dunnock 390")
    page.get_by_label("What do you call it?").press("Enter")
    expect(page.locator(".lashpanel")).to_be_visible()
    expect(page.get_by_role("heading", name="Dunnock 390")).to_be_visible()


def test_a_fix_is_tried_and_taken_and_a_build_comes_back(page: Page, site: str, troubles: list[str]) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Petrel 1498").click()
    page.get_by_role("link", name=re.compile("Try it: Springs with")).first.click()
    trial = page.get_by_role("region", name="A fix tried")
    expect(trial).to_contain_text("nothing is saved")
    expect(page.locator("#ladder .l-tried").first).to_be_attached()
    assert violations(page) == []
    trial.get_by_role("button", name="Take it").click()
    page.wait_for_url(re.compile(r"build/\d+/$"))
    expect(page.locator("#rail")).to_contain_text("Undo: fix taken")
    page.get_by_role("button", name="Undo: fix taken").click()
    expect(page.locator("#rail")).not_to_contain_text("Undo: fix taken")
    page.goto(f"{site}/shop/skerrow/")
    page.get_by_role("link", name="Plover 305").click()
    page.get_by_text("Rename, copy, delete this build").click()
    page.get_by_label("Name", exact=True).fill("Plover, as found")
    page.get_by_role("button", name="Rename").click()
    expect(page.get_by_role("heading", name="Plover, as found")).to_be_visible()
    page.get_by_text("Rename, copy, delete this build").click()
    page.get_by_role("button", name="Delete this build").click()
    expect(page.get_by_text("Plover, as found is deleted.")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Plover, as found")).to_be_visible()


def test_a_term_is_explained_where_it_stands(page: Page, site: str, troubles: list[str]) -> None:
    """By keyboard: the button opens its line, Escape shuts it; the strip is put away and comes back when it is asked for."""
    sign_in(page, site)
    page.get_by_role("link", name="Turnstone 207").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Springs")).click()
    term = page.get_by_role("button", name="What is Coil bind?")
    term.focus()
    page.keyboard.press("Enter")
    expect(page.locator(".termline")).to_contain_text("All coils touch")
    assert violations(page) == []
    page.keyboard.press("Escape")
    expect(page.locator(".termline")).to_have_count(0)
    page.get_by_role("button", name="Put away").click()
    page.reload()
    expect(page.locator("[data-how]")).to_be_hidden()
    page.get_by_role("button", name="How this page works").click()
    expect(page.locator("[data-how]")).to_be_visible()


def test_words_keep_their_size_and_their_distance(page: Page, site: str, troubles: list[str]) -> None:
    """At three widths, on the pages with most drawings: no word under 12 px, none over another, no page wider than the screen."""
    sign_in(page, site)
    page.get_by_role("link", name="Avocet 636").click()
    home = page.url
    look = """() => {
      const found = [document.documentElement.scrollWidth > innerWidth ? ["wide", document.documentElement.scrollWidth] : []].filter((each) => each.length);
      for (const svg of document.querySelectorAll("main svg")) {
        const words = [...svg.querySelectorAll("text")].filter((e) => e.textContent.trim() && e.getBoundingClientRect().width && getComputedStyle(e).visibility !== "hidden");
        words.forEach((e, i) => {
          const m = e.getScreenCTM(), a = e.getBoundingClientRect();
          const px = parseFloat(getComputedStyle(e).fontSize) * Math.hypot(m.a, m.b);
          if (px < 11.9) found.push(["small", e.textContent, px]);
          for (const other of words.slice(i + 1)) {
            const b = other.getBoundingClientRect();
            if (Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1.5 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 4) found.push(["over", e.textContent, other.textContent]);
          }
        });
      }
      return found;
    }"""
    for width in (390, 820, 1280):
        page.set_viewport_size({"width": width, "height": 844})
        for station in ("", "cams/", "springs/", "room/", "lash/"):
            page.goto(f"{home}{station}")
            if page.locator("#motion-pending").count():
                page.locator("#motion-pending").first.wait_for(state="detached", timeout=60_000)
            page.wait_for_timeout(150)
            assert page.evaluate(look) == [], (width, station)
