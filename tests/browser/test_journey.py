"""The slice as a builder walks it, in the real browser: no axe finding and no console error on any page."""

import math
import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import practise, sign_in, violations
from valvetrain.parts.cam_card import CamCard, from_card

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]

# valve by valve, exhaust first: goes, does not go, shim
READINGS = [
    ("0.24", "0.26", "2.655"), ("0.18", "0.20", "2.580"), ("0.30", "0.32", "2.700"), ("0.30", "0.32", "2.535"), ("0.20", "0.22", "2.665"),
    ("0.24", "0.26", "2.580"), ("0.16", "0.18", "2.615"), ("0.12", "0.14", "2.750"), ("0.18", "0.20", "2.675"), ("0.08", "0.10", "2.640"),
    ("0.16", "0.18", "2.600"), ("0.17", "0.19", "2.625"),
]  # fmt: skip
VALVES = [f"{side} {cylinder} {place}" for side in ("EX", "IN") for cylinder in (1, 2, 3) for place in ("fore", "aft")]


def open_petrel(page: Page, site: str) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Petrel 1498").click()
    expect(page.get_by_role("heading", name="Does not hold the goal yet.")).to_be_visible()


def _read_plan_and_recheck(page: Page) -> dict[str, tuple[str, list[str]]]:
    """Read twelve valves, fit what the plan says, read them again, without the mouse; returns size and promised interval by valve."""
    heading = page.locator(".lashpanel h2").first
    for number in range(1, 13):  # the page leads from stop to stop of the crank
        for text in READINGS[VALVES.index(heading.inner_text())]:
            page.keyboard.type(text)
            page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name=f"{number} of 12 read")).to_be_visible()
    expect(page.get_by_role("heading", name="Shim plan")).to_be_visible()
    expect(page.get_by_role("button", name="All read. Shims are in: re-check")).to_be_focused()
    assert violations(page) == []
    fitted = {}
    for row in page.locator(".lashplan tbody tr").all():
        cells = row.locator("td").all_inner_texts()
        fitted[cells[5]] = (cells[1], cells[7].split("–"))
    assert set(fitted) == set(VALVES)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="0 of 12 re-checked")).to_be_visible()
    for number in range(1, 13):
        size, promised = fitted[heading.inner_text()]
        expect(page.locator("input[name=shim]")).to_have_value(re.compile(size.rstrip("0")))
        for text in promised:
            page.keyboard.type(text)
            page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name=f"{number} of 12 re-checked")).to_be_visible()
    return fitted


def test_from_sign_in_to_a_printed_sheet(page: Page, site: str, troubles: list[str]) -> None:
    page.goto(f"{site}/sign-in/")
    assert violations(page) == []
    sign_in(page, site)
    assert violations(page) == []
    page.get_by_role("link", name="Petrel 1498").click()
    expect(page.get_by_role("heading", name="Does not hold the goal yet.")).to_be_visible()
    expect(page.locator("p.lead").first).to_contain_text("The intake seat is not held: 207 of 228 N needed")
    page.locator(".nextact a").click()  # the one next act leads to where it is done
    expect(page.locator("#rail a[aria-current]")).to_contain_text("Choose")
    page.go_back()
    expect(page.locator(".nextact a")).to_be_visible()
    assert violations(page) == []
    for station in ("Engine", "Goal", "Cams"):
        page.locator("#rail").get_by_role("link", name=re.compile(station)).click()
        expect(page.locator("#rail a[aria-current]")).to_contain_text(station)
        assert violations(page) == []

    page.locator("#rail").get_by_role("link", name=re.compile("Springs")).click()
    ladder = page.locator("#ladder .infigures table")
    before = ladder.text_content()
    expect(page.locator(".readout").filter(has_text="Intake seat force")).to_contain_text("short")
    page.get_by_label("Spring, outer").select_option(label="HD-52 outer, Halyard Spring Co.")
    expect(page.locator(".readout").filter(has_text="Intake seat force")).to_contain_text("marginal")
    assert ladder.text_content() != before
    # lifting off under boost asks as much of the exhaust: it needs the stronger pack too
    page.get_by_role("link", name="Exhaust", exact=True).click()
    expect(page.locator(".readout").filter(has_text="Exhaust seat force")).to_contain_text("short")
    page.get_by_label("Spring, outer").select_option(label="HD-52 outer, Halyard Spring Co.")
    expect(page.locator("#rail a").first).not_to_contain_text("not yet")
    page.get_by_role("link", name="Intake", exact=True).click()
    shim = page.get_by_label("Spring shim added", exact=True)
    shim.fill("0.2")
    shim.press("Enter")
    expect(page.locator(".readout").filter(has_text="Intake seat force")).to_contain_text("247")
    assert violations(page) == []

    page.locator("#rail").get_by_role("link", name=re.compile("Lash")).click()
    expect(page.locator("[data-first]")).to_be_focused()
    assert violations(page) == []
    fitted = _read_plan_and_recheck(page)
    expect(page.get_by_role("button", name="Sign off")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Signed")).to_be_visible()
    assert violations(page) == []

    page.get_by_role("link", name="Print the build sheet").click()
    rows = page.locator("table").first.locator("tbody tr")
    expect(rows).to_have_count(12)
    for number, valve in enumerate(VALVES):
        expect(rows.nth(number)).to_contain_text(fitted[valve][0])
    assert violations(page) == []
    answer = page.request.get(f"{page.url}build-sheet.pdf")
    assert answer.body().startswith(b"%PDF")


def test_arrows_walk_the_head_and_z_takes_back(page: Page, site: str, troubles: list[str]) -> None:
    open_petrel(page, site)
    page.locator("#rail").get_by_role("link", name=re.compile("Lash")).click()
    name = page.locator("form[data-reading]").locator("xpath=preceding::h2[1]")
    expect(name).to_have_text("EX 1 fore")
    for key, valve in (("ArrowRight", "EX 1 aft"), ("ArrowDown", "IN 1 aft"), ("ArrowLeft", "IN 1 fore"), ("ArrowUp", "EX 1 fore")):
        page.keyboard.press(key)
        expect(name).to_have_text(valve)
        expect(page.locator("[data-first]")).to_be_focused()
    for text in ("0.24", "0.26", "2.655"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="1 of 12 read")).to_be_visible()
    page.keyboard.press("z")
    expect(page.get_by_role("heading", name="0 of 12 read")).to_be_visible()
    expect(name).to_have_text("EX 1 fore")


def test_typed_text_survives_a_reload_and_a_dropped_connection(page: Page, site: str) -> None:
    open_petrel(page, site)
    page.locator("#rail").get_by_role("link", name=re.compile("Springs")).click()
    field = page.get_by_label("Spring shim added", exact=True)
    field.fill("0.3")
    page.reload()
    expect(field).to_have_value("0.3")
    expect(page.locator("form").filter(has=field).locator("[data-unkept]")).to_be_visible()
    page.context.set_offline(True)
    field.fill("0.4")
    field.press("Enter")
    expect(page.locator("[data-offline]")).to_be_visible()
    expect(field).to_have_value("0.4")
    field.blur()
    page.context.set_offline(False)
    expect(page.locator("[data-offline]")).to_be_hidden()
    expect(field).to_have_attribute("value", "0.4")


def test_an_own_engine_from_nothing(page: Page, site: str, troubles: list[str]) -> None:
    page.goto(f"{site}/sign-in/")
    page.get_by_role("link", name="Start a workshop").click()
    assert violations(page) == []
    page.get_by_label("Name of the workshop").fill("Ness Boats")
    page.get_by_label("Your sign-in name").fill("runa")
    page.get_by_label("Password").fill("correct-horse-9")
    page.get_by_role("button", name="Start, then name the first engine").click()
    page.get_by_label("What do you call it?").fill("Turnstone 207")
    page.get_by_label("push-rod: camshaft below").check()
    expect(page.get_by_label("rocker", exact=True)).to_be_checked()
    expect(page.get_by_label("shim under bucket")).to_be_hidden()  # there is none with push-rods
    page.get_by_label("Highest engine speed it must hold, rpm").fill("5,600")
    page.reload()
    expect(page.get_by_label("What do you call it?")).to_have_value("Turnstone 207")
    expect(page.get_by_label("push-rod: camshaft below")).to_be_checked()
    assert violations(page) == []
    page.get_by_role("button", name="To the first verdict").click()
    expect(page.locator("h2.answer").first).to_be_visible()
    expect(page.get_by_text("Measure next")).to_be_visible()
    assert violations(page) == []
    page.locator("#rail").get_by_role("link", name=re.compile("Engine")).click()
    stroke = page.get_by_label("Stroke", exact=True)
    expect(stroke).to_have_value("")
    stroke.fill("2 1/8 in")
    stroke.press("Enter")
    expect(stroke).to_have_value("53.975")


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_pages_on_a_phone(page: Page, site: str, troubles: list[str], theme: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    sign_in(page, site)
    page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
    page.get_by_role("link", name="Petrel 1498").click()
    for station in ("Engine", "Goal", "Cams", "Springs", "Lash"):
        page.get_by_role("button", name="Stations").click()
        page.locator("#rail").get_by_role("link", name=re.compile(station)).click()
        expect(page.locator("#rail a[aria-current]")).to_contain_text(station)
        wider = page.locator("html").evaluate("page => page.scrollWidth - page.clientWidth")
        assert wider <= 0, f"{station} is {wider} px wider than the phone"
        assert violations(page) == []
    page.get_by_role("button", name=re.compile("^0.24")).click()
    expect(page.locator("input[name=goes]")).to_have_value("0.24")
    expect(page.locator("input[name=stops]")).to_have_value("0.26")


def test_the_pages_beside_the_bench(page: Page, site: str, troubles: list[str]) -> None:
    """People with an invitation, the page of a joiner, an address that leads nowhere."""
    sign_in(page, site, "owner")
    page.get_by_role("link", name="People").click()
    page.get_by_role("button", name="Make a link").click()
    link = page.get_by_text("/join/").inner_text().split()[-1]
    assert violations(page) == []
    page.get_by_role("button", name="dark").click()
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")
    assert violations(page) == []
    page.goto(link)
    expect(page.get_by_role("heading", name="Join Skerrow Engine Shed as builder")).to_be_visible()
    assert violations(page) == []
    nowhere = page.goto(f"{site}/shop/elsewhere/")
    assert nowhere is not None
    assert nowhere.status == 404
    assert violations(page) == []
    troubles.clear()  # the browser itself reports the 404 that was asked for


def test_a_degree_wheel_log_is_kept_with_its_cam(page: Page, site: str, troubles: list[str], tmp_path: Path) -> None:
    """A log of a known lobe (9.60 mm, 258 degrees at 1 mm, closed form of the card) is chosen, fitted and told."""
    truth = from_card(CamCard(9.6e-3, ((1e-3, math.radians(258)),), 0.3e-3, 0.018e-3 * 180 / math.pi))
    cam = np.radians(np.arange(-115.0, 115.01, 1.0))
    lift = np.interp(np.abs(cam), truth.angle, truth.lift, right=0.0) + np.random.default_rng(1).normal(0.0, 0.01e-3, len(cam))
    lift[50] += 0.4e-3
    rows = (f"{2 * math.degrees(a) + 106:.1f};{v * 1e3:.3f}" for a, v in zip(cam, lift, strict=True))
    log = tmp_path / "log.csv"
    log.write_text("crank deg;lift (mm)\n" + "\n".join(rows), encoding="utf-8")
    sign_in(page, site)
    page.get_by_role("link", name="Dunlin 598").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Cams")).click()
    page.get_by_role("link", name="how A is known").click()
    page.get_by_label("or a CSV file").set_input_files(log)
    assert violations(page) == []
    page.locator("form", has=page.get_by_label("or a CSV file")).get_by_role("button", name="Fit and save as measured").click()
    expect(page.get_by_text("wheel, good: 231 readings, 1 left out")).to_be_visible()
    assert abs(float(page.get_by_label("Full lift", exact=False).first.input_value()) - 9.6) < 0.03
    assert violations(page) == []


def test_cams_by_the_keyboard_and_the_simulated_wheel(page: Page, site: str, troubles: list[str]) -> None:
    """Arrow keys move the brass line and turn the lobe; the wheel's readings arrive; a cam is laid beside; timing names the slot."""
    sign_in(page, site)
    page.get_by_role("link", name="Dunlin 598").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Cams")).click()
    said = page.locator("#turn-said")
    before, turned = said.inner_text(), page.locator("[data-lobe]").get_attribute("transform")
    page.locator("body").press("ArrowRight")
    assert said.inner_text() != before
    assert page.locator("[data-lobe]").get_attribute("transform") != turned
    assert page.locator("[data-text='A']").first.inner_html().startswith("A ")
    page.get_by_role("slider", name="Crank angle").press("ArrowLeft")
    assert violations(page) == []
    page.get_by_label("Lay another intake cam beside them").select_option(label="Voe grind 22 intake")
    expect(page.get_by_role("button", name="Make C the proposed cam")).to_be_visible()
    page.get_by_label("Duration at a lift of").fill("50 thou")
    page.get_by_label("Duration at a lift of").press("Enter")
    expect(page.get_by_text("Duration at 1.27 mm").first).to_be_visible()
    page.get_by_role("link", name="how A is known").click()
    expect(page.get_by_text("what it reads is true of no engine")).to_be_visible()
    practise(page)
    page.locator("#rail").get_by_role("link", name=re.compile("Cams")).click()
    page.get_by_role("link", name="how A is known").click()
    page.get_by_role("button", name="Turn the simulated wheel").click()
    expect(page.get_by_text("the wheel is turning")).to_be_visible()
    page.get_by_role("button", name="Stop the wheel").click()
    expect(page.get_by_text(", stopped")).to_be_visible()
    page.get_by_role("button", name="Turn another simulated wheel").click()
    expect(page.get_by_text("pass complete")).to_be_visible(timeout=30_000)
    assert violations(page) == []
    page.locator("#wheel").get_by_role("button", name="Fit and save as measured").click()
    expect(page.get_by_text(re.compile("wheel, good: .* left out"))).to_be_visible()
    with page.expect_download() as held:
        page.get_by_role("link", name="Outline, DXF").click()
    assert held.value.suggested_filename.endswith(".dxf")
    page.get_by_role("link", name="Back to the comparison").click()
    page.get_by_role("link", name="Time the cams").click()
    page.get_by_label("First reading").fill("70")
    page.get_by_label("Second reading").fill("150")
    page.get_by_role("button", name="Record").click()
    expect(page.get_by_text(re.compile("slot moves|within a degree|slots move|less than half")).first).to_be_visible()
    assert violations(page) == []
