"""Write the description of the read-only records (OpenAPI) beside the code that answers; `make docs` runs it."""

import json
import sys
import tomllib
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))

from rocklash.stations.api.schemas import description  # noqa: E402


def text() -> str:
    """The description as it ships."""
    version = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]["version"]
    return json.dumps(description(version), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    (ROOT / "src/rocklash/stations/api/openapi.json").write_text(text(), encoding="utf-8")
