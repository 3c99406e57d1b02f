"""make walk: six jobs of a new user and the looks of every main page, by script, on the demo's site; writes docs/walk.md.

A click is a press of a mouse or finger, a field is one that is typed or chosen in, a page is one that is loaded. The browser is the real one.
"""

import json
import re
import statistics
import subprocess
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING, Any

import demo_site
import prepare

if TYPE_CHECKING:
    from playwright.sync_api import Page

TARGET = prepare.ROOT / "docs/walk.md"
AXE = prepare.ROOT / "tests/browser/axe.min.js"
WIDTHS = {320: 640, 390: 844, 820: 1180, 1280: 800, 1920: 1080}
DRAWN = (
    "", "goal/breathing/", "cams/", "cams/regrind/", "springs/", "springs/speed/", "room/", "job/", "lash/", "lash/history/", "proof/", "proof/pulls/", "sheet/",
)  # fmt: skip
PLAIN = (
    "engine/", "goal/", "cams/timing/", "springs/valves/", "springs/force/", "room/measure/", "room/over-rev/", "room/gearing/", "choose/", "choose/materials/", "job/shop/",
    "job/valves/", "job/findings/", "lash/stops/", "lash/in/", "proof/cylinders/", "proof/runs/", "logbook/", "logbook/due/", "logbook/parts/", "logbook/wear/",
)  # fmt: skip
LIMITS = {"first verdict": (3, 12, 20), "clearances only": (3, 12, 20)}

# Pairs of words that lie over one another in a drawing, words under 12 px, words outside their drawing, and sideways scroll of the page.
LOOK = r"""() => {
  const seen = (e) => { const r = e.getBoundingClientRect(), s = getComputedStyle(e); return r.width > 0 && r.height > 0 && s.visibility !== "hidden" && +s.opacity > 0.05; };
  const found = { wide: Math.max(document.documentElement.scrollWidth - innerWidth, 0), over: [], small: [] };
  for (const svg of document.querySelectorAll("svg")) {
    if (!seen(svg) || svg.parentElement.closest("svg")) continue;
    const words = [...svg.querySelectorAll("text")].filter((e) => seen(e) && e.textContent.trim());
    const boxes = words.map((e) => e.getBoundingClientRect());
    words.forEach((e, i) => {
      const m = e.getScreenCTM(), px = parseFloat(getComputedStyle(e).fontSize) * Math.hypot(m.a, m.b);
      if (px < 11.9) found.small.push(`${e.textContent.trim().slice(0, 30)} ${px.toFixed(1)} px`);
      for (let j = i + 1; j < words.length; j++) {
        const a = boxes[i], b = boxes[j];
        if (Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1.5 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 4)
          found.over.push(`${e.textContent.trim().slice(0, 25)} / ${words[j].textContent.trim().slice(0, 25)}`);
      }
    });
  }
  return found;
}"""


class Hand:
    """A person at the browser, counted: pages loaded, fields filled, presses."""

    def __init__(self, page: "Page") -> None:
        self.page, self.pages, self.fields, self.clicks = page, 0, 0, 0
        page.on("framenavigated", self._turned)
        self.began = time.monotonic()

    def _turned(self, frame: Any) -> None:
        if frame == self.page.main_frame and frame.url.startswith("http"):
            self.pages += 1

    def press(self, what: Any) -> None:
        self.clicks += 1
        what.click()

    def fill(self, label: str, text: str, *, exact: bool = False) -> None:
        self.fields += 1
        self.clicks += 1
        self.page.get_by_label(label, exact=exact).first.fill(text)

    def pick(self, label: str) -> None:
        self.fields += 1
        self.clicks += 1
        self.page.get_by_label(label).check()

    def told(self) -> tuple[int, int, int, float]:
        return self.pages, self.fields, self.clicks, time.monotonic() - self.began


def _sign_in(page: "Page", base: str) -> None:
    page.goto(f"{base}/sign-in/")
    page.get_by_label("Name").fill("builder")
    page.get_by_label("Password").fill("harbour-light")
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url("**/shop/skerrow/")


def _first_verdict(page: "Page", hand: Hand) -> None:
    hand.press(page.get_by_role("link", name="New engine"))
    hand.pick("Push-rod kart single")
    hand.fill("What do you call it?", "Ruff 208")
    hand.fill("Highest engine speed it must hold", "6,100")
    hand.fill("Seat force, intake", "98")
    hand.fill("Spring rate, intake", "17.5")
    hand.fill("Retainer mass, intake", "11")
    hand.press(page.get_by_role("button", name="To the first verdict"))
    page.locator("h2.answer").wait_for()


def _clearances(page: "Page", hand: Hand) -> None:
    hand.press(page.get_by_role("link", name=re.compile("Set clearances")))
    hand.pick("Trail single, one camshaft, rockers")
    hand.fill("What do you call it?", "Dunnock 390")
    hand.press(page.get_by_role("button", name="To its clearances"))
    page.locator(".lashpanel").wait_for()


def _door(page: "Page", hand: Hand, door: str, there: str) -> None:
    """One of the other doors, for an engine that stands on the board."""
    hand.press(page.get_by_role("link", name=re.compile(door)))
    hand.press(page.get_by_text("An engine that is on the board already"))
    hand.press(page.get_by_role("link", name="Knot 389"))
    page.wait_for_url(re.compile(there))


JOBS = {
    "first verdict": _first_verdict,
    "clearances only": _clearances,
    "missed shift": lambda page, hand: _door(page, hand, "Missed a shift", "room/over-rev/"),
    "spring test": lambda page, hand: _door(page, hand, "Test a spring", r"springs/part/\d+/"),
    "cam measured": lambda page, hand: _door(page, hand, "Measure a cam", r"cams/lobe/\d+/"),
    "compression": lambda page, hand: _door(page, hand, "Test compression", "proof/cylinders/"),
}


def _jobs(browser: Any, base: str) -> dict[str, tuple[int, int, int, float]]:
    """Each job by somebody who has just signed in and sees the board: pages from there on, the board not counted."""
    found = {}
    for name, job in JOBS.items():
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        _sign_in(page, base)
        hand = Hand(page)
        job(page, hand)
        found[name] = hand.told()
        page.context.close()
    return found


def _numbers(page: "Page", base: str) -> dict[str, str]:
    page.goto(f"{base}/shop/skerrow/")
    links = page.locator("a.name").evaluate_all("all => all.map((each) => [each.textContent, each.href])")
    return {name: re.search(r"build/(\d+)", url)[1] for name, url in links}  # type: ignore[index]


def _addresses(numbers: dict[str, str]) -> list[tuple[str, str]]:
    own = [("board", "/shop/skerrow/"), ("new engine", "/shop/skerrow/new/"), ("due", "/shop/skerrow/due/"), ("glossary", "/glossary/"), ("keys", "/keys/"), ("you", "/account/")]  # fmt: skip
    told = []
    for name, number in numbers.items():
        pages = DRAWN + (
            PLAIN if name.split()[0] in ("Petrel", "Turnstone") else ()
        )  # forms look alike whatever the engine; drawings do not
        told += [(f"{name.split()[0]} {page}", f"/shop/skerrow/build/{number}/{page}") for page in pages]
    return own + told


def _ready(page: "Page") -> None:
    page.wait_for_load_state()
    if page.locator("#motion-pending").count():
        page.locator("#motion-pending").first.wait_for(state="detached", timeout=60_000)
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => setTimeout(done, 60)))")


def _looks(page: "Page", base: str) -> dict[int, dict[str, list[str]]]:
    """What is wrong at each width, by kind; the brass line moved to both ends and the middle where there is one."""
    found = {}
    addresses = _addresses(_numbers(page, base))
    for width, height in WIDTHS.items():
        wrong: dict[str, list[str]] = {"wide": [], "over": [], "small": []}
        page.set_viewport_size({"width": width, "height": height})
        for name, url in addresses:
            page.goto(base + url)
            _ready(page)
            turns = page.locator("[data-turn]").count()
            for share in (0.15, 0.5, 0.85) if turns else (None,):
                if share is not None:
                    page.locator("[data-turn]").first.evaluate(
                        "(e, share) => { e.value = +e.min + share * (e.max - e.min); e.dispatchEvent(new Event('input', { bubbles: true })); }",
                        share,
                    )
                seen = page.evaluate(LOOK)
                if width == 390 and share in (None, 0.15):
                    wrong["small"] += [f"{name}: field {each}" for each in page.evaluate(FIELDS)]
                wrong["wide"] += [f"{name}: {seen['wide']} px"] if seen["wide"] else []
                wrong["over"] += [f"{name}: {each}" for each in seen["over"]]
                wrong["small"] += [f"{name}: {each}" for each in seen["small"]]
        found[width] = wrong
        print(f"{width} px: {', '.join(f'{kind} {len(all_)}' for kind, all_ in wrong.items())}", flush=True)
    return found


def _tall(page: "Page", base: str) -> dict[str, int]:
    """Height in px of each overview on a phone of 390 x 844, as it opens; the strip that can be put away put away."""
    page.set_viewport_size({"width": 390, "height": WIDTHS[390]})
    found = {}
    for name, number in _numbers(page, base).items():
        page.goto(f"{base}/shop/skerrow/build/{number}/")
        _ready(page)
        found[name] = int(page.evaluate("document.documentElement.scrollHeight"))
    return found


# Fields that ask for a figure, and are no help on a phone: small type makes the browser zoom, and a keyboard of letters comes up.
FIELDS = """() => [...document.querySelectorAll("#station input:not([type]), #station input[type=text], #station input[type=number], #station select")].filter((e) => {
  const s = getComputedStyle(e), r = e.getBoundingClientRect();
  return r.width > 0 && s.visibility !== "hidden" && (parseFloat(s.fontSize) < 15.9 || (e.type === "number" && e.inputMode !== "decimal" && e.inputMode !== "numeric"));
}).map((e) => `${e.id || e.name} ${getComputedStyle(e).fontSize} ${e.inputMode}`)"""


AXE_STATES = {
    "as it comes": "() => {}",
    "every fold open": "() => document.querySelectorAll('main details').forEach((each) => { each.open = true; })",
    "dark": "() => { document.documentElement.dataset.theme = 'dark'; }",
}


def _axe(page: "Page", base: str) -> list[str]:
    found, session = [], page.context.new_cdp_session(page)
    run = "axe.run(document, {resultTypes: ['violations']}).then((r) => JSON.stringify(r.violations.map((v) => v.id + ' ' + v.nodes[0].target)))"
    for width in (390, 1280):
        page.set_viewport_size({"width": width, "height": WIDTHS[width]})
        for name, url in _addresses({name: number for name, number in _numbers(page, base).items() if name[:6] in ("Petrel", "Turnst")}):
            page.goto(base + url)
            _ready(page)
            session.send("Runtime.evaluate", {"expression": AXE.read_text(encoding="utf-8")})
            for state, change in AXE_STATES.items():
                page.evaluate(change)
                answer = session.send("Runtime.evaluate", {"expression": run, "awaitPromise": True})
                found += [f"{width} {name}, {state}: {each}" for each in json.loads(answer["result"]["value"])]
    return found


SETTLED = """([id, text]) => new Promise((done) => {
  const field = document.getElementById(id), began = performance.now();
  const end = () => requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - began)));
  addEventListener("htmx:after:swap", end, { once: true, capture: true });
  field.value = text;
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.dispatchEvent(new Event("change", { bubbles: true }));
})"""


def _settled(page: "Page", base: str, numbers: dict[str, str]) -> list[float]:
    """Milliseconds from a changed field to the frame that shows its answer, after a first change that warms the server."""
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(f"{base}/shop/skerrow/build/{numbers['Turnstone 207']}/goal/")
    _ready(page)
    times = []
    for number in range(21):
        times.append(float(page.evaluate(SETTLED, ["goal-goal_rpm", str(5300 + 10 * number)])))
        page.wait_for_timeout(400)
    return times[1:]


def _written(jobs: dict[str, Any], looks: dict[int, Any], axe: list[str], settled: list[float], tall: dict[str, int]) -> str:
    lines = [
        "# A walk through the pages",
        "",
        "Written by `make walk`: a script at a real browser on the demo's site. Numbers are of the machine it ran on.",
        "",
    ]
    lines += ["| job, from the board | pages | fields | presses | s, by script |", "|---|---|---|---|---|"]
    lines += [f"| {name} | {told[0]} | {told[1]} | {told[2]} | {told[3]:.1f} |" for name, told in jobs.items()]
    lines += [
        "",
        "| width, px | pages wider than the screen | words over one another | words under 12 px, fields under 16 |",
        "|---|---|---|---|",
    ]
    lines += [f"| {width} | {len(wrong['wide'])} | {len(wrong['over'])} | {len(wrong['small'])} |" for width, wrong in looks.items()]
    middle = statistics.median(settled)
    worst = sorted(settled)[int(0.95 * len(settled)) - 1]
    lines += [
        "",
        f"axe: {len(axe)} findings at 390 and 1280 px: as it comes, with every fold open, and dark.",
        "",
        f"An overview on a phone of 390 x 844 is {min(tall.values())} to {max(tall.values())} px long: {max(tall.values()) / WIDTHS[390]:.1f} screens at most.",
        "",
        f"A changed field is settled, from input to painted, in {middle:.0f} ms (median of {len(settled)}; p95 {worst:.0f} ms).",
    ]
    return "\n".join(lines) + "\n"


def _walk(base: str) -> int:
    """Runs inside .venv: drive Chromium over the demo."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as player:
        quiet = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-sync"]
        browser = player.chromium.launch(executable_path="/usr/bin/chromium", args=quiet)
        page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
        _sign_in(page, base)
        settled = _settled(page, base, _numbers(page, base))
        jobs = _jobs(browser, base)
        axe = _axe(page, base)
        looks, tall = _looks(page, base), _tall(page, base)
        browser.close()
    TARGET.write_text(_written(jobs, looks, axe, settled, tall), encoding="utf-8")
    print(TARGET.read_text(encoding="utf-8"))
    wrong = [f"{width} {kind}: {each}" for width, found in looks.items() for kind, all_ in found.items() for each in all_] + axe
    wrong += [
        f"{name}: {jobs[name]} is more than {limit}"
        for name, limit in LIMITS.items()
        if any(a > b for a, b in zip(jobs[name], limit, strict=False))
    ]
    wrong += [f"390 overview of {name}: {height} px is more than two screens" for name, height in tall.items() if height > 2 * WIDTHS[390]]
    for each in wrong[:60]:
        print(each)
    return 1 if wrong else 0


def main() -> int:
    if len(sys.argv) > 1:
        return _walk(sys.argv[1])
    with demo_site.running("walk") as (base, environment, bin_folder):
        return subprocess.run(
            [str(bin_folder / "python"), str(Path(__file__).resolve()), base], check=False, env=environment, cwd=prepare.ROOT
        ).returncode


if __name__ == "__main__":
    sys.exit(main())
