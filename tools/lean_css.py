"""Keep of a style sheet only the rules that some page can use: elements, and classes that stand in a template, a script or a view-model."""

import re
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SITE = ROOT / "src/rocklash"
_CLASS = re.compile(r"\.(-?[_a-zA-Z][\w-]*)")
_WORD = re.compile(r"[a-zA-Z_][\w-]*")


def used_words() -> set[str]:
    """Every word that may be the name of a class."""
    files = [*SITE.rglob("*.html"), *SITE.rglob("static/js/*.js"), *SITE.rglob("*.py"), *SITE.rglob("static/css/*.css")]
    return {word for file in files for word in _WORD.findall(file.read_text(encoding="utf-8"))}


def _blocks(css: str) -> list[tuple[str, str]]:
    """(selector or at-rule, body) at the top level."""
    found, at = [], 0
    while at < len(css):
        opening = css.find("{", at)
        if opening < 0:
            break
        depth, place = 1, opening + 1
        while depth:
            depth += {"{": 1, "}": -1}.get(css[place], 0)
            place += 1
        found.append((css[at:opening].strip(), css[opening + 1 : place - 1]))
        at = place
    return found


def lean(css: str, words: set[str]) -> str:
    """The sheet without rules of classes that no word names, and without animations that nothing runs."""
    css = re.sub(r"/\*(?!!).*?\*/", "", css, flags=re.DOTALL)
    head = "".join(re.findall(r"/\*!.*?\*/", css, flags=re.DOTALL))
    css = re.sub(r"/\*!.*?\*/|@charset[^;]*;", "", css, flags=re.DOTALL)
    kept: list[str] = []
    for selector, body in _blocks(css):
        if selector.startswith(("@media", "@supports")):
            inner = lean(body, words)
            kept += [f"{selector}{{{inner}}}"] if inner else []
        elif selector.startswith("@"):
            kept.append(f"{selector}{{{body}}}")
        else:
            wanted = [each for each in selector.split(",") if set(_CLASS.findall(each)) <= words]
            kept += [f"{','.join(wanted)}{{{body}}}"] if wanted else []
    text = "".join(kept)
    for frames in re.findall(r"@(?:-webkit-)?keyframes ([\w-]+)", text):
        if not re.search(rf"animation[^;}}]*\b{re.escape(frames)}\b", re.sub(r"@keyframes.*?\}\}", "", text, flags=re.DOTALL)):
            text = re.sub(rf"@(?:-webkit-)?keyframes {re.escape(frames)}\{{(?:[^{{}}]*\{{[^{{}}]*\}})*\}}", "", text)
    return head + text


def main() -> None:
    source = ROOT / "node_modules/bootstrap/dist/css/bootstrap.min.css"
    there = SITE / "ui/static/vendor/bootstrap.min.css"
    css = (source if source.exists() else there).read_text(encoding="utf-8")
    there.write_text(lean(css, used_words()), encoding="utf-8")
    print(f"bootstrap: {len(css) // 1000} kB -> {there.stat().st_size // 1000} kB")


if __name__ == "__main__":
    main()
