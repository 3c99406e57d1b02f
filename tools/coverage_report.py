"""make coverage: the core's and the site's tests with lines and branches counted; the figure goes to docs/coverage.md as it is."""

import json
import subprocess
import sys
import tempfile
from pathlib import Path

import cluster
import prepare

ROOT = prepare.ROOT


def main() -> int:
    prepare.debian(prepare.SERVER)
    tools = prepare.python_packages()
    with tempfile.TemporaryDirectory(prefix="rocklash-cov-", dir="/tmp") as folder:
        Path(folder).chmod(0o755)
        with cluster.running(Path(folder) / "pg", durable=False) as server:
            more = {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.test", "COVERAGE_FILE": f"{folder}/data"}
            environment = prepare.environment(server.environment() | more)
            run = [str(tools / "coverage"), "run", "-m", "pytest", "-q", "-n", "2", "-m", "not browser and not bench and not slow"]
            done = subprocess.run([*run, *sys.argv[1:]], cwd=ROOT, env=environment, check=False)
            subprocess.run([str(tools / "coverage"), "combine", "-q", folder], cwd=ROOT, env=environment, check=True)
            subprocess.run([str(tools / "coverage"), "json", "-q", "-o", f"{folder}/all.json"], cwd=ROOT, env=environment, check=True)
            found = json.loads(Path(f"{folder}/all.json").read_text(encoding="utf-8"))
    rows: dict[str, list[int]] = {}
    for name, file in found["files"].items():
        parts = Path(name).parts
        place = "/".join(parts[1:3]) if parts[1] == "valvetrain" else "/".join(parts[1 : 4 if parts[2] == "stations" else 3])
        place = place if "." not in place else "/".join(parts[1:2])
        have = rows.setdefault(place, [0, 0])
        sums = file["summary"]
        have[0] += sums["covered_lines"] + sums.get("covered_branches", 0)
        have[1] += sums["num_statements"] + sums.get("num_branches", 0)
    total = found["totals"]["percent_covered"]
    lines = [
        "# Coverage",
        "",
        f"Lines and branches run by the tests without the browser's: **{total:.1f} %** (`make coverage`). A figure, not a gate.",
        "",
    ]
    lines += ["| where | run |", "|---|---|", *(f"| {place} | {100 * a / max(b, 1):.0f} % |" for place, (a, b) in sorted(rows.items()))]
    (ROOT / "docs/coverage.md").write_text("\n".join(lines) + "\n", encoding="utf-8")
    return done.returncode


if __name__ == "__main__":
    try:
        sys.exit(main())
    except cluster.ClusterError as error:
        sys.exit(str(error))
