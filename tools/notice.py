"""make notice: NOTICE.md, whose work ships with this one or is installed for it, and under which licences."""

import json
import re
import sys
from importlib import metadata
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
HEAD = """# Third-party work

What the running site is made of beside its own code, each under its own licence. The licence of Rock Lash itself: *to be chosen by its owner*.

## Shipped in the browser (`src/rocklash/ui/static/vendor`, licences beside the files)

| package | version | licence |
|---|---|---|
"""


def _licence(found: metadata.Distribution) -> str:
    told = found.metadata.get("License-Expression") or ""
    kinds = [line.rpartition("::")[2].strip() for line in found.metadata.get_all("Classifier") or [] if line.startswith("License ::")]
    text = (found.metadata.get("License") or "").strip().splitlines()
    return told or ", ".join(kinds) or (text[0][:60] if text else "see the package")


def python_rows() -> list[tuple[str, str, str]]:
    """Name, version and licence of every package of the lock file."""
    names = re.findall(
        r"^([a-z0-9._-]+)(?:\[[a-z,]+\])?==([^ \\;]+)", (ROOT / "requirements/base.txt").read_text(encoding="utf-8"), re.MULTILINE
    )
    return [(name, version, _licence(metadata.distribution(name))) for name, version in names]


def browser_rows() -> list[tuple[str, str, str]]:
    """The same of what is vendored, from package.json and the licences copied with it."""
    wanted = json.loads((ROOT / "package.json").read_text(encoding="utf-8"))["dependencies"]
    licences = {
        "lucide-static": "ISC",
        "@alpinejs/csp": "MIT",
        "htmx.org": "0BSD",
        "bootstrap": "MIT",
        "axe-core": "MPL-2.0, for the tests only",
    }
    return [
        (name, version, licences.get(name, "OFL-1.1" if "font" in name else "see the file beside it")) for name, version in wanted.items()
    ]


def main() -> int:
    lines = [HEAD + "\n".join(f"| {' | '.join(row)} |" for row in browser_rows())]
    lines += ["\n## Installed for the server (`requirements/base.txt`)\n", "| package | version | licence |", "|---|---|---|"]
    lines += [f"| {' | '.join(row)} |" for row in python_rows()]
    (ROOT / "NOTICE.md").write_text("\n".join(lines) + "\n", encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
