"""make screenshots: one PNG per main view from the demo data, on a cluster of its own, into docs/screenshots."""

import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import demo_site
import prepare

if TYPE_CHECKING:
    from playwright.sync_api import Page

ROOT = prepare.ROOT
TARGET = ROOT / "docs/screenshots"


def _cams(page: "Page", keep: Callable[[str], None]) -> None:
    """The comparison, and one cam with a log of the simulated wheel, which is set aside again."""
    keep("cams")
    page.locator("#rail").get_by_role("link", name="Overview").click()
    page.get_by_role("button", name="Make a practice copy").click()
    page.locator("#rail").get_by_role("link", name="Cams").click()
    page.get_by_role("link", name="how A is known").click()
    page.get_by_role("button", name="Turn the simulated wheel").click()
    page.get_by_text("pass complete").wait_for(timeout=60_000)
    page.locator("#wheel").get_by_role("button", name="Fit and save as measured").click()
    page.get_by_role("button", name="Set the points aside, use the card").click()


def _springs(page: "Page", petrel: str, keep: Callable[[str], None]) -> None:
    """The stack once its motion is there, and At speed."""
    page.goto(f"{petrel}springs/?side=exhaust")
    page.locator("#ladder .infigures tr", has_text="float at speed").first.wait_for(state="attached", timeout=60_000)
    keep("springs")
    page.get_by_role("link", name="At speed", exact=True).click()
    page.locator("svg.revmap").wait_for(timeout=60_000)
    keep("at-speed")


def _head(page: "Page", petrel: str, keep: Callable[[str], None]) -> None:
    """What the valves let pass, advice, and the way of the job."""
    for name, where in (
        ("breathing", "goal/breathing/"),
        ("materials", "choose/materials/"),
        ("job", "job/"),
    ):
        page.goto(f"{petrel}{where}")
        keep(name)


def _room(page: "Page", petrel: str, keep: Callable[[str], None]) -> None:
    """Every gap once the motion is there."""
    page.goto(f"{petrel}room/")
    page.locator("svg.waterfall").first.wait_for(timeout=60_000)
    keep("room")


def _proof(page: "Page", dunlin: str, keep: Callable[[str], None]) -> None:
    """Before and after, at a glance."""
    page.goto(f"{dunlin}proof/")
    page.get_by_role("heading", name="Forecast and result").wait_for()
    keep("proof")


def _logbook(page: "Page", base: str, keep: Callable[[str], None]) -> None:
    """What is due on an engine after a season."""
    page.goto(f"{base}/shop/skerrow/")
    page.get_by_role("link", name="Sanderling 449").click()
    page.goto(f"{page.url}logbook/due/")
    page.get_by_text("Oil and filter").first.wait_for()
    keep("logbook")


def _choose(page: "Page", petrel: str, base: str, keep: Callable[[str], None]) -> None:
    """The shelf, and the search prepared on Petrel with its followers left alone."""
    page.goto(f"{base}/shop/skerrow/shelf/?kind=spring")
    keep("shelf")
    page.goto(f"{petrel}choose/?side=exhaust")
    page.get_by_label("follower", exact=False).uncheck()
    page.get_by_role("button", name="Search").click()
    page.locator(".hero").wait_for(timeout=120_000)
    page.locator(".running").wait_for(state="detached", timeout=120_000)
    keep("choose")


_SIZES = ["2.655", "2.580", "2.700", "2.535", "2.665", "2.580", "2.615", "2.750", "2.675", "2.640", "2.600", "2.625"]
_GAPS = [0.24, 0.18, 0.30, 0.30, 0.20, 0.24, 0.16, 0.12, 0.18, 0.08, 0.16, 0.17]
_VALVES = [f"{side} {cylinder} {place}" for side in ("EX", "IN") for cylinder in (1, 2, 3) for place in ("fore", "aft")]


def _lash(page: "Page", petrel: str, keep: Callable[[str], None]) -> None:
    """A whole sheet, read from stop to stop as the page leads, with its plan."""
    page.goto(f"{petrel}lash/")
    for number in range(1, 13):
        here = _VALVES.index(page.locator(".lashpanel h2").first.inner_text())
        for text in (f"{_GAPS[here]:.2f}", f"{_GAPS[here] + 0.02:.2f}", _SIZES[here]):
            page.keyboard.type(text)
            page.keyboard.press("Enter")
        page.get_by_role("heading", name=f"{number} of 12 read").wait_for()
    page.get_by_role("heading", name="Shim plan").wait_for(timeout=60_000)
    keep("lash")


def _take(base: str) -> None:
    """Runs inside .venv: drive Chromium over the demo."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as player:
        quiet = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-sync"]
        browser = player.chromium.launch(executable_path="/usr/bin/chromium", args=quiet)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()

        def keep(name: str) -> None:
            page.wait_for_load_state("networkidle")
            page.screenshot(path=TARGET / f"{name}.png")

        page.goto(f"{base}/sign-in/")
        page.get_by_label("Name").fill("builder")
        page.get_by_label("Password").fill("harbour-light")
        page.get_by_role("button", name="Sign in").click()
        keep("board")
        page.get_by_role("link", name="Petrel 1498").click()
        petrel = page.url
        keep("overview")
        for name in ("engine", "goal"):
            page.goto(f"{petrel}{name}/")
            keep(name)
        page.goto(f"{base}/shop/skerrow/new/")
        page.get_by_label("Push-rod kart single").check()
        keep("new-engine")
        page.goto(f"{base}/shop/skerrow/")
        page.get_by_role("link", name="Dunlin 598").click()
        dunlin = page.url
        page.goto(f"{dunlin}cams/")
        _cams(page, keep)
        _springs(page, petrel, keep)
        _room(page, petrel, keep)
        _proof(page, dunlin, keep)
        _logbook(page, base, keep)
        _head(page, petrel, keep)
        _choose(page, petrel, base, keep)
        _lash(page, petrel, keep)
        page.goto(f"{petrel}sheet/")
        keep("build-sheet")
        page.set_viewport_size({"width": 390, "height": 844})
        page.goto(f"{petrel}lash/")
        keep("lash-phone")
        browser.close()


def main() -> int:
    if len(sys.argv) > 1:
        TARGET.mkdir(parents=True, exist_ok=True)
        _take(sys.argv[1])
        return 0
    with demo_site.running("shots") as (base, environment, bin_folder):
        take = [str(bin_folder / "python"), str(Path(__file__).resolve()), base]
        subprocess.run(take, check=True, env=environment, cwd=ROOT)
    print(f"{len(list(TARGET.glob('*.png')))} pictures in docs/screenshots")
    return 0


if __name__ == "__main__":
    sys.exit(main())
