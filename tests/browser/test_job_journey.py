"""A job in the real browser: begun and worked by keyboard, a rule refused and gone against, the bench with its line cut, found and reported."""

import re

import pytest
from playwright.sync_api import Page, Route, expect

from rocklash.demo import load
from rocklash.records.models import Build, Finding, Job, JobTick
from tests.browser.conftest import sign_in, violations
from tests.browser.test_head_journey import on_the_phone, to_station

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def left_of(page: Page) -> int:
    return int((page.locator("[data-count]").text_content() or "").split()[0])


def test_the_pages_of_a_job(page: Page, site: str, troubles: list[str]) -> None:
    """Every page of the job under way: readable, no finding of the checker, on desk and phone; a rule refused, then gone against with a reason."""
    to_station(page, site, "Job")
    expect(page.get_by_text("Full head build:")).to_be_visible()
    expect(page.locator("#open-engine").get_by_text("keepers")).to_be_visible()
    assert violations(page) == []
    on_the_phone(page)
    page.get_by_role("button", name="IN 3 aft", exact=True).click()
    expect(page.get_by_text("8 of 12", exact=False).first).to_be_visible()
    page.get_by_role("link", name="Lower the head straight").click()
    page.get_by_role("button", name="Tick: done").click()
    expect(page.get_by_role("alert").first).to_contain_text("First:")
    page.get_by_label("Why it is right to go against it").fill("head is only tried on")
    page.get_by_role("button", name="Tick: done").click()
    expect(page.get_by_text("head is only tried on", exact=False).first).to_be_visible()
    troubles[:] = [each for each in troubles if "422" not in each]
    page.get_by_text("Something went wrong").click()
    page.get_by_label("What", exact=True).select_option("thread")
    page.get_by_role("button", name="Put its steps in here").click()
    expect(page.get_by_role("heading", name="Measure the depth that is left")).to_be_visible()
    for name, words in (
        ("Findings", "the gravest first"),
        ("Where parts went", "best part to the worst place"),
        ("Caps, bolts, air", "which go down first"),
        ("Dates and cost", "What it costs"),
    ):
        page.get_by_role("link", name=name, exact=True).click()
        expect(page.get_by_text(words, exact=False).first).to_be_visible()
        assert violations(page) == [], name
        on_the_phone(page)


def test_a_symptom_ends_in_a_job(page: Page, site: str, troubles: list[str]) -> None:
    to_station(page, site, "Job")
    page.get_by_role("link", name="Symptoms").click()
    page.get_by_role("link", name="Ticking at half the crank's speed").click()
    page.get_by_role("link", name="loudest at the cover").click()
    page.get_by_role("link", name="wide: set it").click()
    expect(page.get_by_text("Clearance too wide", exact=False).first).to_be_visible()
    assert violations(page) == []
    on_the_phone(page)


def test_a_whole_job_by_keyboard(page: Page, site: str, troubles: list[str]) -> None:
    """Knot's whole head build from the first step to the last, with nothing but keys."""
    sign_in(page, site)
    page.get_by_role("link", name="Knot 389").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Job")).focus()
    page.keyboard.press("Enter")
    page.get_by_label("The job", exact=True).focus()
    page.keyboard.type("Full head build")
    page.get_by_role("button", name="Compose the plan").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("0 of", exact=False).first).to_be_visible()
    page.get_by_role("link", name="At the bench").focus()
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_have_text("Agree what is done, up to which price, until when")
    assert violations(page) == []
    page.locator("[data-do]").focus()
    for _ in range(left_of(page)):
        before = left_of(page)
        page.keyboard.press("Space")
        expect(page.locator("[data-count]")).to_have_text(f"{before - 1} left")
        expect(page.locator("[data-held]")).to_be_hidden()
    expect(page.locator("h1")).to_have_text("Nothing is left to do.")
    assert page.locator("[data-refused]").is_hidden()
    job = Job.objects.get(build__name="Knot 389")
    assert JobTick.objects.filter(job=job).count() > 60
    page.get_by_role("link", name="Knot 389, plan").click()
    expect(page.get_by_text("Every step is done.")).to_be_visible()
    page.get_by_text("Close the job").click()
    page.get_by_role("button", name="Close it").click()
    expect(page.get_by_text("closed", exact=False).first).to_be_visible()


def test_the_bench_on_a_phone_with_its_line_cut(page: Page, site: str, troubles: list[str]) -> None:
    """Ticks without a line are held, survive a reload, and are sent once; one that a rule stands against comes back with the reason why."""
    to_station(page, site, "Job")
    page.set_viewport_size({"width": 390, "height": 844})
    job = Job.objects.get(build__name="Petrel 1498")
    page.get_by_role("link", name="At the bench").click()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []
    begun, first = JobTick.objects.filter(job=job).count(), left_of(page)

    def cut(route: Route) -> None:
        route.abort("internetdisconnected")

    page.route("**/job/tick/**", cut)
    for _ in range(3):
        page.locator("[data-do]").click()
    expect(page.locator("[data-held]")).to_contain_text("3 ticks held back")
    assert JobTick.objects.filter(job=job).count() == begun
    page.reload()
    expect(page.locator("[data-held]")).to_contain_text("3 ticks held back")
    assert left_of(page) == first - 3
    page.locator("[data-undo]").click()
    expect(page.locator("[data-held]")).to_contain_text("2 ticks held back")
    page.unroute("**/job/tick/**")
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("[data-held]")).to_be_hidden()
    assert JobTick.objects.filter(job=job).count() == begun + 2
    troubles[:] = [each for each in troubles if "ERR_INTERNET" not in each]
    for _ in range(40):  # walk far ahead: the head goes on while keepers are missing
        page.locator("[data-skip]").click()
    here = page.locator("h1").text_content() or ""
    page.locator("[data-do]").click()
    expect(page.locator("[data-refused]")).to_contain_text("First:")
    expect(page.locator("h1")).to_have_text(here)
    assert JobTick.objects.filter(job=job).count() == begun + 2
    troubles[:] = [each for each in troubles if "422" not in each]


def test_what_is_found_is_kept_with_its_picture(page: Page, site: str, troubles: list[str], tmp_path: "object") -> None:
    to_station(page, site, "Job")
    page.get_by_role("link", name="Findings", exact=True).click()
    page.get_by_label("Valve", exact=True).select_option("IN 2 fore")
    page.get_by_label("What you see").select_option("spr-rust")
    page.get_by_role("button", name="Save the finding").click()
    expect(page.get_by_role("heading", name="3 Spring, IN 2 fore")).to_be_visible()
    row = Finding.objects.get(build=Build.objects.get(name="Petrel 1498"), number=3)
    page.locator(f"#file-{row.pk}").set_input_files(load.HERE.parent / "ui/static/img/mark.svg")
    page.get_by_role("article", name="Finding 3").get_by_role("button", name="Add").click()
    expect(page.get_by_text("no photograph that can be read", exact=False)).to_be_visible()
    troubles[:] = [each for each in troubles if "422" not in each]
    assert violations(page) == []
