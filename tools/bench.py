"""make bench: measure on a cluster of its own and write docs/performance.json and docs/performance.md."""

import json
import os
import platform
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import cluster
import prepare

ROOT = prepare.ROOT
HEAD = """# Speed

Measured by `make bench` (pytest-benchmark, medians unless said otherwise) on {cores} cores, Python {python}. Shared machines
are noisy: judge by ratios and limits, not by the last digit. `peer` is what a figure is compared with; `ratio` is value over peer.
As a measure of the machine itself, a loop of two million additions took {before:.3f} s before this run and {after:.3f} s after it.

| figure | value | limit or peer | ratio | note |
|---|---|---|---|---|
"""


def _loop() -> float:
    """Seconds of a plain loop, the best of five: how quick this machine is just now, whatever the project's code does."""
    found = []
    for _ in range(5):
        begun, total = time.perf_counter(), 0
        for number in range(2_000_000):
            total += number
        found.append(time.perf_counter() - begun)
    return min(found)


def main() -> int:
    prepare.debian(prepare.SERVER | prepare.BROWSER)
    prepare.python_packages()
    before = _loop()
    with tempfile.TemporaryDirectory(prefix="rocklash-bench-", dir="/tmp") as folder:
        Path(folder).chmod(0o755)
        with cluster.running(Path(folder) / "pg", durable=False) as server:
            settings = {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.test", "DJANGO_ALLOW_ASYNC_UNSAFE": "true"}
            out = Path(folder) / "bench.json"
            command = [str(prepare.VENV / "bin/python"), "-m", "pytest", "-q", "-m", "bench", "tests/bench", f"--benchmark-json={out}"]
            done = subprocess.run(command, cwd=ROOT, env=prepare.environment(server.environment() | settings), check=False)
            if done.returncode:
                return done.returncode
            measured = json.loads(out.read_text(encoding="utf-8"))["benchmarks"]
    rows, late = [], []
    text = HEAD.format(cores=os.cpu_count(), python=platform.python_version(), before=before, after=_loop())
    for row in measured:
        info = row["extra_info"]
        value = info.get("value", row["stats"]["median"] * info["factor"])
        ratio = value / info["limit"]
        rows.append(
            {
                "name": info["name"],
                "value": round(value, 3),
                "unit": info["unit"],
                "peer": f"limit {info['limit']:g} {info['unit']}",
                "ratio": round(ratio, 3),
            }
        )
        text += (
            f"| {info['name']} | {value:.1f} {info['unit']} | ≤ {info['limit']:g} {info['unit']} | {ratio:.2f} | {info.get('note', '')} |\n"
        )
        if ratio > 1.0:
            late.append(info["name"])
    (ROOT / "docs/performance.json").write_text(json.dumps(rows, indent=1) + "\n", encoding="utf-8")
    (ROOT / "docs/performance.md").write_text(text, encoding="utf-8")
    print(text)
    if late:
        print(f"Over its limit: {', '.join(late)}")
    return 1 if late else 0


if __name__ == "__main__":
    sys.exit(main())
