"""make changelog: gather the fragments of changes/ into CHANGELOG.md under the version of pyproject.toml, and remove them."""

import sys
import tomllib
from datetime import UTC, datetime
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
HEAD = "# Changes\n\nOne fragment a change lies in `changes/`; `make changelog` gathers them here.\n"


def main() -> int:
    fragments = sorted(path for path in (ROOT / "changes").glob("*.md") if path.name != "README.md")
    if not fragments:
        print("No fragment in changes/: nothing to gather.")
        return 0
    version = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]["version"]
    file = ROOT / "CHANGELOG.md"
    before = file.read_text(encoding="utf-8").removeprefix(HEAD) if file.exists() else ""
    lines = "\n".join(f"- {path.read_text(encoding='utf-8').strip()}" for path in fragments)
    file.write_text(f"{HEAD}\n## {version}, {datetime.now(UTC):%Y-%m-%d}\n\n{lines}\n{before}", encoding="utf-8")
    for path in fragments:
        path.unlink()
    print(f"{len(fragments)} changes gathered under {version}.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
