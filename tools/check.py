"""make test: lint, types, contracts, then every test on a throw-away cluster. The counted result is the last line."""

import os
import re
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import cluster
import prepare

ROOT = prepare.ROOT


def _step(name: str, command: list[str], environment: dict[str, str]) -> bool:
    begun = time.monotonic()
    done = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, text=True, check=False)
    print(f"{'ok  ' if done.returncode == 0 else 'FAIL'} {name} ({time.monotonic() - begun:.1f} s)", flush=True)
    if done.returncode:
        print((done.stdout + done.stderr)[-8000:], flush=True)
    return done.returncode == 0


def _pytest(arguments: list[str], environment: dict[str, str]) -> tuple[bool, dict[str, int]]:
    command = [str(prepare.VENV / "bin/python"), "-m", "pytest", "-q", *arguments]
    process = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    tail = ""
    for line in process.stdout or ():
        print(line, end="", flush=True)
        tail = line if re.search(r"\d+ (passed|failed|error)", line) else tail
    counts = {word: int(number) for number, word in re.findall(r"(\d+) (passed|failed|skipped|error)", tail)}
    return process.wait() == 0, counts


def main() -> int:
    prepare.debian(prepare.SERVER | prepare.BROWSER)
    tools = prepare.python_packages()
    plain = prepare.environment({})
    good = all(
        [
            _step("lint: ruff", [str(tools / "ruff"), "check", "src", "tests", "tools"], plain),
            _step("format: ruff", [str(tools / "ruff"), "format", "--check", "src", "tests", "tools"], plain),
            _step("contracts: import-linter", [str(tools / "lint-imports")], plain),
        ]
    )
    with tempfile.TemporaryDirectory(prefix="rocklash-test-", dir="/tmp") as folder:
        Path(folder).chmod(0o755)
        with cluster.running(Path(folder) / "pg", durable=False) as server:
            settings = {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.test", "DJANGO_ALLOW_ASYNC_UNSAFE": "true"}
            environment = prepare.environment(server.environment() | settings)
            manage = [str(tools / "python"), "manage.py"]
            with ThreadPoolExecutor() as beside:  # types take one processor
                typed = beside.submit(_step, "types: mypy", [str(tools / "mypy")], environment)
                good = (
                    _step("migrations are complete", [*manage, "makemigrations", "--check", "--dry-run", "-v", "0"], environment) and good
                )
                good = _step("migrations run", [*manage, "migrate", "-v", "0"], environment) and good
                good = typed.result() and good
            environment["ROCKLASH_TEST_TEMPLATE"] = environment["ROCKLASH_DB_NAME"]  # migrated once; each test process copies it
            arguments = [argument for argument in sys.argv[1:] if argument != "--"]
            core_good, counts = _pytest(["-n", "2", "-m", "not browser and not bench", *arguments], environment)
            journeys = (
                "browser" if os.environ.get("CI") else "browser and not slow"
            )  # every kind of gear takes its time: a push runs them all
            browser_good, browser_counts = _pytest(["-n", "2", "-m", journeys, "tests/browser", *arguments], environment)
    total = {word: counts.get(word, 0) + browser_counts.get(word, 0) for word in ("passed", "failed", "skipped", "error")}
    good = good and core_good and browser_good
    failed = total["failed"] + total["error"] + (0 if good or total["failed"] + total["error"] else 1)
    print(f"\n{total['passed']} passed, {failed} failed, {total['skipped']} skipped", flush=True)
    return 0 if good else 1


if __name__ == "__main__":
    try:
        sys.exit(main())
    except cluster.ClusterError as error:
        sys.exit(str(error))
