"""Proof in the real browser: every page on desk and phone, a gauge by keyboard, a pull and a run from files, the model anchored to what was heard."""

import math
import re

import pytest
from playwright.sync_api import Page, expect

from rocklash.answers import stand_ins
from rocklash.records.models import Observation, ProofKind, ProofTest
from tests.browser.conftest import sign_in, violations
from tests.browser.test_head_journey import on_the_phone
from valvetrain.formats import recording
from valvetrain.simulators.pull_sound import Giving, PullPlan, make

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]


def to_proof(page: Page, site: str, build: str) -> None:
    sign_in(page, site)
    page.get_by_role("link", name=build).click()
    page.locator("#rail").get_by_role("link", name=re.compile("Proof")).click()


def test_every_page_of_proof(page: Page, site: str, troubles: list[str]) -> None:
    to_proof(page, site, "Dunlin 598")
    expect(page.get_by_text("where it lives", exact=False).first).to_be_visible()
    for name, words in (
        ("Cylinders", "breather or crankcase"), ("Pulls", "later than before"), ("Runs", "Laid over one another"), ("Throttle", "worth"),
        ("Which test next", "One change at a time"), ("What it taught", "Your own hand"), ("After a failure", "What nobody can know"), ("At a glance", "Forecast and result"),
    ):  # fmt: skip
        page.get_by_role("link", name=name, exact=True).click()
        expect(page.get_by_text(words, exact=False).first).to_be_visible()
        page.wait_for_load_state("networkidle")
        assert violations(page) == [], name
        on_the_phone(page)


def test_a_gauge_by_keyboard(page: Page, site: str, troubles: list[str]) -> None:
    """From the first field on with Tab and Enter; a slip keeps what was typed and says what would be right."""
    to_proof(page, site, "Knot 389")
    page.get_by_role("link", name="Cylinders", exact=True).click()
    page.get_by_label("Cylinder 1", exact=True).or_(page.locator("input[name=dry_1]")).first.focus()
    page.keyboard.type("7.8 bra")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("bra")
    expect(page.locator("input[name=dry_1]")).to_have_value("7.8 bra")
    troubles[:] = [each for each in troubles if "422" not in each]
    page.locator("input[name=dry_1]").fill("7.8 7.9 bar")
    page.keyboard.press("Enter")
    expect(page.get_by_text("One cylinder: only the expected pressure", exact=False).first).to_be_visible()
    assert ProofTest.objects.filter(kind=ProofKind.COMPRESSION, build__name="Knot 389").count() == 1


def test_a_pull_and_a_run_from_files(page: Page, site: str, troubles: list[str]) -> None:
    to_proof(page, site, "Petrel 1498")
    page.get_by_role("link", name="Pulls", exact=True).click()
    angles = tuple(math.radians(each) for each in (0, 240, 480))
    made = make(PullPlan(angles=angles, top=8300.0 / 60.0, giving=Giving.CLATTER, seconds=11.0), 3)
    page.locator("#sound-file").set_input_files(
        {"name": "pull.wav", "mimeType": "audio/wav", "buffer": recording.write(made.samples, made.rate)}
    )
    page.get_by_role("button", name="Hear it").click()
    expect(page.get_by_text("with odds of", exact=False).first).to_be_visible(timeout=20_000)
    page.get_by_label("These valves floated").first.select_option("intake")
    page.get_by_role("button", name=re.compile("Anchor the model to 8,")).first.click()
    expect(page.get_by_text("the intake valves rests on it", exact=False)).to_be_visible()
    assert Observation.objects.filter(build__name="Petrel 1498", side="intake", in_use=True).count() == 1
    page.get_by_role("link", name="Runs", exact=True).click()
    page.locator("#run-file").set_input_files({"name": "run.csv", "mimeType": "text/csv", "buffer": stand_ins.file_of("run-holds", 3)[0]})
    page.get_by_role("button", name="Read the run").click()
    expect(page.get_by_role("heading", name="Laid over one another")).to_be_visible()
    assert violations(page) == []
    on_the_phone(page)
    expect(page.locator("#motion-pending")).to_have_count(
        0, timeout=60_000
    )  # when it is there the bench is drawn anew, and a plot begins whole
    page.get_by_text("Look into it").click()
    place = page.locator("[data-runplot]")
    expect(place.locator("canvas")).to_be_visible()
    place.focus()
    for key in ("ArrowRight", "ArrowRight", "+", "+"):
        page.keyboard.press(key)
    near = "() => { const p = document.querySelector('[data-runplot]'); return [p.plot.scales.x.max - p.plot.scales.x.min, p.whole[1] - p.whole[0]] }"
    seen, whole = page.evaluate(near)
    assert seen < 0.7 * whole
    page.keyboard.press("0")
    page.get_by_role("button", name="Show every sample").click()
    expect(page.get_by_role("button", name="Every sample is shown")).to_be_visible()
    assert violations(page) == []


def test_a_pull_is_recorded_in_the_browser(page: Page, site: str, troubles: list[str]) -> None:
    """The browser's own simulated microphone: what is recorded is a WAV file in the field, and is refused as no pull."""
    to_proof(page, site, "Dunlin 598")
    page.get_by_role("link", name="Pulls", exact=True).click()
    page.get_by_role("button", name="Record here").click()
    expect(page.locator("[data-recorded]")).to_contain_text("4 s", timeout=15_000)
    page.get_by_role("button", name="Stop").click()
    expect(page.locator("[data-recorded]")).to_contain_text("recorded")
    size, kind = page.evaluate("() => { const f = document.querySelector('#sound-file').files[0]; return [f.size, f.type] }")
    assert size > 3 * 40_000 * 2
    assert kind == "audio/wav"
    page.get_by_role("button", name="Hear it").click()
    expect(page.get_by_role("alert").first).to_contain_text(re.compile("No pull is heard|passes by|silent"), timeout=20_000)
    troubles[:] = [each for each in troubles if "422" not in each]


def test_a_long_recording_shows_its_progress_and_then_itself(page: Page, site: str, troubles: list[str]) -> None:
    """Worked out apart from the page: it says so, may be left out, and shows what was heard by itself when it is there."""
    to_proof(page, site, "Petrel 1498")
    page.get_by_role("link", name="Pulls", exact=True).click()
    angles = tuple(math.radians(each) for each in (0, 240, 480))
    for seed, leave in ((4, True), (5, False)):
        made = make(PullPlan(angles=angles, top=8300.0 / 60.0, giving=Giving.LIMITER, seconds=30.0), seed)
        sound = {"name": "long.wav", "mimeType": "audio/wav", "buffer": recording.write(made.samples, made.rate)}
        page.locator("#sound-file").set_input_files(sound)
        page.get_by_role("button", name="Hear it").click()
        if leave:
            page.get_by_role("button", name="Leave it out").click()
            expect(page.get_by_role("progressbar")).to_have_count(0)
            assert not ProofTest.objects.filter(build__name="Petrel 1498", kind=ProofKind.SOUND).exists()
    expect(page.get_by_text("with odds of", exact=False).first).to_be_visible(timeout=20_000)
    expect(page.get_by_role("progressbar")).to_have_count(0)
    assert "pending" not in ProofTest.objects.get(build__name="Petrel 1498", kind=ProofKind.SOUND).found
    assert violations(page) == []


def test_own_results_and_tables_are_kept_by_keyboard(page: Page, site: str, troubles: list[str]) -> None:
    to_proof(page, site, "Dunlin 598")
    page.get_by_role("link", name="What it taught", exact=True).click()
    recession = page.get_by_role("row", name=re.compile("recession")).get_by_label("from three results on")
    recession.focus()
    page.keyboard.press("Space")
    page.get_by_role("button", name="Save what counts").press("Enter")
    expect(recession).not_to_be_checked()
    page.get_by_role("link", name="Which test next", exact=True).click()
    first = page.locator("details.plan[open]").first
    first.get_by_text("Change this table").click()
    assert violations(page) == []
    first.locator("input.cell").first.fill("40")
    first.get_by_role("button", name="Save for this workshop").press("Enter")
    expect(page.get_by_text("this workshop’s own table", exact=False).first).to_be_visible()
    on_the_phone(page)
