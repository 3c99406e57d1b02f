"""Copy the browser assets that ship with the site from node_modules (npm ci first) into static/vendor, with licences."""

import shutil
from pathlib import Path

import lean_css

ROOT = Path(__file__).resolve().parent.parent
SOURCE, TARGET = ROOT / "node_modules", ROOT / "src/rocklash/ui/static/vendor"

FILES = {
    "htmx.org/dist/htmx.min.js": "htmx.min.js",
    "htmx.org/LICENSE": "licences/htmx.txt",
    "@alpinejs/csp/dist/cdn.min.js": "alpine-csp.min.js",
    "bootstrap/dist/css/bootstrap.min.css": "bootstrap.min.css",
    "bootstrap/LICENSE": "licences/bootstrap.txt",
    "uplot/dist/uPlot.iife.min.js": "uplot.min.js",
    "uplot/dist/uPlot.min.css": "uplot.min.css",
    "uplot/LICENSE": "licences/uplot.txt",
    "@fontsource/barlow-semi-condensed/LICENSE": "licences/barlow-semi-condensed.txt",
    **{
        f"@fontsource/barlow-semi-condensed/files/barlow-semi-condensed-{part}-{weight}-normal.woff2": f"fonts/barlow-semi-condensed-{part}-{weight}.woff2"
        for weight in (400, 600, 700)
        for part in ("latin",)
    },
}


# What a workshop in these letters writes: Latin with its accents, and the signs that the pages print.
SIGNS = [*range(0x20, 0x7F), *range(0xA0, 0x100), *map(ord, "–—‘’“”…−→←↑↓≥≤≈×√Δ✓·‑ŒœŠšŽžŁłĆćĐđ"), 0x2009, 0x202F]


def lean_fonts() -> None:
    """Keep of each font the signs above, and its kerning and figures; runs again on what it left without changing it."""
    from fontTools import subset  # in .venv, with the PDF renderer

    for file in sorted((TARGET / "fonts").glob("*.woff2")):
        options = subset.Options(
            flavor="woff2", layout_features=["kern", "tnum", "lnum", "mark", "ccmp"], hinting=False, name_IDs=[0, 1, 2, 13, 14]
        )
        font = subset.load_font(str(file), options)
        sieve = subset.Subsetter(options)
        sieve.populate(unicodes=SIGNS)
        sieve.subset(font)
        subset.save_font(font, str(file), options)


def main() -> None:
    shutil.rmtree(TARGET, ignore_errors=True)
    for source, target in FILES.items():
        place = TARGET / target
        place.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(SOURCE / source, place)
    shutil.copyfile(SOURCE / "axe-core/axe.min.js", ROOT / "tests/browser/axe.min.js")  # for the checks only, carries its licence
    # source maps are not shipped, so the pointers to them would be errors in the console
    for script in TARGET.glob("*"):
        if script.suffix in {".js", ".css"}:
            text = script.read_text(encoding="utf-8")
            cut = max(text.rfind("//# sourceMappingURL"), text.rfind("/*# sourceMappingURL"))
            if cut > 0:
                script.write_text(text[:cut].rstrip() + "\n", encoding="utf-8")
    (TARGET / "licences/alpinejs.txt").write_text("Alpine.js, MIT licence. Copyright Caleb Porzio and contributors.\n", encoding="utf-8")
    lean_fonts()
    lean_css.main()  # a tenth of Bootstrap is used: its reboot, and what pages name
    print(f"{len(FILES)} files in {TARGET.relative_to(ROOT)}")


if __name__ == "__main__":
    main()
