"""Lash beyond the single sheet, in the real browser: from the first reading to the signature without the mouse, plan and shelf included."""

import re

import pytest
from playwright.sync_api import APIResponse, Page, Route, expect

from rocklash.demo import load
from rocklash.records.models import JournalEntry, Reading, User
from tests.browser.conftest import sign_in, violations

pytestmark = [pytest.mark.browser, pytest.mark.django_db(transaction=True)]
_SLOW = 30_000
_SHEET = {"EX 1 left": ("0.16", "0.18"), "EX 1 right": ("0.20", "0.22"), "IN 1 left": ("0.07", "0.09"), "IN 1 right": ("0.13", "0.15")}


def _lash(page: Page, site: str, engine: str) -> None:
    sign_in(page, site)
    page.get_by_role("link", name=engine).click()
    page.locator("#rail").get_by_role("link", name=re.compile("Lash")).click()


def _type_round(page: Page, sheet: dict[str, tuple[str, str]], shim: dict[str, str] | None, done: str) -> None:
    """Read every valve by keyboard alone; the page decides which comes next."""
    for number in range(1, 5):
        name = page.locator(".lashpanel h2").first.inner_text()
        for text in (*sheet[name], *((shim[name],) if shim else ())):
            page.keyboard.type(text)
            page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name=f"{number} of 4 {done}")).to_be_visible(timeout=_SLOW)


def test_a_season_ends_with_a_signed_sheet_by_keyboard(page: Page, site: str, troubles: list[str]) -> None:
    _lash(page, site, "Sanderling 449")
    page.get_by_role("button", name="Begin a new sheet").press("Enter")
    expect(page.get_by_text("Stop 1 of 1: cylinder 1", exact=False)).to_be_visible(timeout=_SLOW)
    _type_round(page, _SHEET, {"EX 1 left": "2.510", "EX 1 right": "2.510", "IN 1 left": "2.430", "IN 1 right": "2.400"}, "read")
    expect(page.get_by_role("heading", name="Shim plan")).to_be_visible(timeout=_SLOW)
    expect(page.locator(".map.wide .h-ball").first).to_be_visible()
    assert violations(page) == []
    plan = {}
    for row in page.locator(".lashplan tbody tr").all():
        cells = row.locator("td").all_inner_texts()
        plan[cells[5]] = (cells[1], cells[7])
    page.get_by_role("button", name=re.compile("Shims are in: re-check")).press("Enter")
    expect(page.get_by_role("heading", name="0 of 4 re-checked")).to_be_visible(timeout=_SLOW)
    expect(page.get_by_role("heading", name="After the change")).to_be_visible()
    assert violations(page) == []
    for number in range(1, 5):
        name = page.locator(".lashpanel h2").first.inner_text()
        low, high = (float(part) for part in plan[name][1].split("–"))
        expect(page.get_by_text("should be", exact=False).first).to_be_visible()
        if name == "IN 1 left":  # by keyboard too: the box is next after the two fields of the shim
            page.get_by_label("a new valve went in").press("Space")
            expect(page.get_by_label("a new valve went in")).to_be_checked()
            page.get_by_label("thickest blade that goes in").focus()
        expect(page.get_by_label("shim fitted")).to_have_value(re.compile(plan[name][0].rstrip("0")))
        for text in (f"{low:.3f}", f"{high:.3f}"):
            page.keyboard.type(text)
            page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name=f"{number} of 4 re-checked")).to_be_visible(timeout=_SLOW)
    page.get_by_role("button", name="Sign off").press("Enter")
    expect(page.get_by_text("Signed", exact=True)).to_be_visible(timeout=_SLOW)
    assert Reading.objects.filter(renewed=True, position__name="IN 1 left").count() == 1
    page.get_by_role("link", name="Shelf").click()
    expect(page.get_by_text("came out, Sanderling 449", exact=False).first).to_be_visible()
    assert violations(page) == []


def test_an_engine_comes_for_its_clearances_alone(page: Page, site: str, troubles: list[str]) -> None:
    """From the board to the first state of a valve: name, limits of the manual, one reading."""
    sign_in(page, site)
    page.get_by_role("link", name="New engine").click()
    page.get_by_label("What do you call it?").fill("Wagtail 250")
    assert violations(page) == []
    page.get_by_role("button", name="Only set its clearances").click()
    expect(page.get_by_role("heading", name="What the manual allows")).to_be_visible(timeout=_SLOW)
    page.wait_for_load_state("networkidle")
    assert violations(page) == []
    for label, text in (("Intake clearance, least", "0.10"), ("Intake clearance, most", "6 thou"), ("Exhaust clearance, least", "0.20")):
        page.get_by_label(label, exact=False).fill(text)
        page.keyboard.press("Tab")
    page.get_by_label("Exhaust clearance, most", exact=False).fill("0.25")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="What the manual allows")).to_be_hidden(timeout=_SLOW)
    expect(page.locator(".lashpanel").get_by_text("limit 0.20–0.25 mm", exact=False)).to_be_visible()
    expect(page.locator("[data-unkept]:visible")).to_have_count(0)
    assert page.evaluate("Object.keys(localStorage).filter((key) => key.startsWith('draft:'))") == []
    page.get_by_label("thickest blade that goes in").focus()
    for text in ("0.18", "0.19", "2.5"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="1 of 4 read")).to_be_visible(timeout=_SLOW)
    expect(page.locator(".map.wide").get_by_text("tight by", exact=False).first).to_be_visible()


def _engine_held(page: Page, site: str) -> list[tuple[Route, APIResponse]]:
    """The Engine station, where the first answer to something sent waits until the test lets it through."""
    sign_in(page, site)
    page.get_by_role("link", name="Knot 389").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Engine")).click()
    page.wait_for_load_state("networkidle")
    held: list[tuple[Route, APIResponse]] = []
    taken: list[Route] = []  # the second may come while the server still answers the first, and is not to be held as well

    def hold(route: Route) -> None:
        if route.request.method == "POST" and not taken:
            taken.append(route)
            held.append((route, route.fetch()))
        else:
            route.continue_()

    page.route("**/engine/", hold)
    return held


def _let_through(page: Page, held: list[tuple[Route, APIResponse]]) -> None:
    for _ in range(200):
        if held:
            break
        page.wait_for_timeout(100)
    route, answer = held[0]
    route.fulfill(response=answer)


def test_answers_that_cross_leave_the_bench_as_it_is_kept(page: Page, site: str, troubles: list[str]) -> None:
    """The answer to the first of two fields comes last, and knows nothing of the second: both stand there all the same, marked as kept."""
    held = _engine_held(page, site)
    for field, text in (("compression", "9.1"), ("idle", "1,390")):
        page.locator(f"#engine-{field}").fill(text)
        page.keyboard.press("Tab")
        page.wait_for_timeout(700)
    _let_through(page, held)
    page.wait_for_load_state("networkidle")
    expect(page.locator("#engine-compression")).to_have_value("9.1")
    expect(page.locator("#engine-idle")).to_have_value("1390")
    expect(page.locator("#ladder .open").get_by_text("1,390")).to_be_visible()
    expect(page.locator("[data-unkept]:visible")).to_have_count(0)
    assert page.evaluate("Object.keys(localStorage).filter((key) => key.startsWith('draft:'))") == []


@pytest.mark.parametrize("leave", ["Enter", "Tab"])
def test_an_answer_does_not_sweep_what_is_typed_meanwhile(page: Page, site: str, troubles: list[str], leave: str) -> None:
    """The answer to one field comes while the next is half typed: its text stays, and is kept however the hand leaves it."""
    held = _engine_held(page, site)
    page.locator("#engine-compression").fill("9.3")
    page.keyboard.press("Tab")
    idle = page.locator("#engine-idle")
    idle.click()
    idle.press("Control+a")
    idle.press_sequentially("1,4")
    page.wait_for_timeout(500)
    _let_through(page, held)
    page.wait_for_load_state("networkidle")
    expect(idle).to_have_value("1,4")
    idle.press_sequentially("10")
    idle.press(leave)
    expect(page.locator("#ladder .open").get_by_text("1,410")).to_be_visible()
    expect(page.locator("[data-unkept]:visible")).to_have_count(0)
    expect(page.locator("#engine-compression")).to_have_value("9.3")


def test_history_stops_and_a_file_in(page: Page, site: str, troubles: list[str]) -> None:
    _lash(page, site, "Sanderling 449")
    page.get_by_role("link", name="History").click()
    expect(page.get_by_text("Closed 0.06 mm in 4 h", exact=False)).to_be_visible()
    assert violations(page) == []
    page.get_by_role("link", name="Crank positions").click()
    expect(page.get_by_text("cylinder 1, TDC of compression")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("link", name="Import").click()
    text = "valve,goes,does not go,shim\nEX 1 left,0.20,0.22,2.5\nIN 1 left,0.12,0.14,2.5\n"
    page.get_by_label("File").set_input_files({"name": "sheet.csv", "mimeType": "text/csv", "buffer": text.encode()})
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_text("will be saved").first).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Save 2 readings").click()
    expect(page.get_by_text("2 readings saved", exact=False)).to_be_visible()


def test_one_valve_at_a_time_with_the_thumb(page: Page, site: str, troubles: list[str]) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    sign_in(page, site)
    page.get_by_role("link", name="Knot 389").click()
    page.get_by_role("button", name="Stations").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Lash")).click()
    for number in (1, 2):
        key = page.locator("[data-blade]").nth(5)
        box = key.bounding_box()
        assert box
        assert box["height"] >= 60
        key.click()
        page.get_by_role("button", name="record, go on").click()
        expect(page.get_by_role("heading", name=f"{number} of 2 read")).to_be_visible(timeout=_SLOW)
    expect(page.get_by_role("button", name=re.compile("All set and locked: read again"))).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert violations(page) == []


def test_a_reading_outlives_the_end_of_its_session(page: Page, site: str) -> None:
    """Signed out by the clock while the blades are in the engine: the page stays, says so, and after signing in the figures stand there."""
    _lash(page, site, "Sanderling 449")
    page.get_by_role("button", name="Begin a new sheet").press("Enter")
    expect(page.get_by_text("Stop 1 of 1: cylinder 1", exact=False)).to_be_visible(timeout=_SLOW)
    name = page.locator(".lashpanel h2").first.inner_text()
    page.context.clear_cookies(name="sessionid")
    for text in ("0.16", "0.18", "2.510"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    door = page.get_by_role("dialog", name="Sign in again")
    expect(door).to_be_visible(timeout=_SLOW)
    assert page.locator(".lashpanel h2").first.inner_text() == name
    assert violations(page) == []
    assert not Reading.objects.exclude(session__signed_at__isnull=False).exists()
    door.get_by_label("Name").fill("builder")
    door.get_by_label("Password").fill("not this one")
    door.get_by_role("button", name="Sign in").click()
    expect(door.get_by_role("alert")).to_contain_text("do not belong together")
    door.get_by_label("Password").fill(load.PASSWORD)
    door.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="1 of 4 read")).to_be_visible(timeout=_SLOW)
    expect(door).to_be_hidden()
    reading = Reading.objects.filter(session__signed_at__isnull=True).get()
    assert reading.goes == pytest.approx(0.16e-3)
    assert reading.stops == pytest.approx(0.18e-3)


def test_somebody_else_on_the_same_tablet_sends_nothing_of_it(page: Page, site: str) -> None:
    """The session ends, another person signs in over the page: the page is theirs, and what the first one typed waits for the first one alone."""
    _lash(page, site, "Sanderling 449")
    page.get_by_role("button", name="Begin a new sheet").press("Enter")
    expect(page.get_by_text("Stop 1 of 1: cylinder 1", exact=False)).to_be_visible(timeout=_SLOW)
    page.context.clear_cookies(name="sessionid")
    for text in ("0.16", "0.18", "2.510"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    door = page.get_by_role("dialog", name="Sign in again")
    expect(door).to_be_visible(timeout=_SLOW)
    door.get_by_label("Name").fill("owner")
    door.get_by_label("Password").fill(load.PASSWORD)
    door.get_by_role("button", name="Sign in").click()
    expect(door).to_be_hidden(timeout=_SLOW)
    expect(page.locator("body")).to_have_attribute("data-person", str(User.objects.get(username="owner").pk), timeout=_SLOW)
    assert page.evaluate("[...document.querySelectorAll('main [data-draft]')].filter((each) => each.value === '0.16').length") == 0
    assert not Reading.objects.filter(session__signed_at__isnull=True).exists()
    page.context.clear_cookies(name="sessionid")
    sign_in(page, site)
    page.get_by_role("link", name="Sanderling 449").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Lash")).click()
    expect(page.get_by_label("thickest blade that goes in")).to_have_value("0.16")


def test_readings_without_a_line_wait_and_go_out_once(page: Page, site: str) -> None:
    """Two fields typed without a connection, the page left and opened again: both are sent by themselves when it is back, in order, each once."""
    sign_in(page, site)
    page.get_by_role("link", name="Petrel 1498").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Springs")).click()
    page.context.set_offline(True)
    places = {}
    for label, text in (("Spring shim added", "0.3"), ("Retainer to seal, valve closed", "11.5")):
        field = page.get_by_label(label, exact=True).first
        places[label] = page.locator(f"#{field.get_attribute('id')}")
        field.fill(text)
        field.press("Enter")
    expect(page.locator("[data-waits]")).to_have_text("2 entries wait.", timeout=_SLOW)
    page.context.set_offline(False)
    expect(page.locator("[data-offline]")).to_be_hidden(timeout=_SLOW)
    expect(places["Spring shim added"]).to_have_attribute("value", "0.3", timeout=_SLOW)
    expect(places["Retainer to seal, valve closed"]).to_have_attribute("value", "11.5", timeout=_SLOW)
    lines = JournalEntry.objects.filter(verb="figure", build__name="Petrel 1498").order_by("pk")
    assert [line.after.split()[0] for line in lines] == ["0.30", "11.50"]


def test_every_text_has_a_draft_until_it_is_sent(page: Page, site: str) -> None:
    sign_in(page, site)
    page.get_by_role("link", name="Sanderling 449").click()
    page.locator("#rail").get_by_role("link", name=re.compile("Logbook")).click()
    note = page.get_by_label("What is to be remembered")
    note.fill("half a thought")
    page.reload()
    expect(note).to_have_value("half a thought")
    page.locator("form", has=note).get_by_role("button", name="Save").click()
    expect(page.get_by_text("half a thought").first).to_be_visible()
    expect(note).to_have_value("")
    assert page.evaluate("Object.keys(localStorage).filter((name) => name.startsWith('loose:'))") == []
