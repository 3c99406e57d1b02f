"""make attack: hostile inputs, access cells, two hands on one row, and kills in the middle of writing; under five minutes, each with its count.

A short form of each runs with the tests; this one is for a look before a release.
"""

import http.cookiejar
import os
import random
import re
import signal
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from pathlib import Path

import cluster
import prepare

ROOT, PASSWORD = prepare.ROOT, "harbour-light"
HOSTILE, WRITES, KILLS = 5000, 250, 20  # inputs of each of two processes; runs entered between kills; kills


def _python(*words: str, environment: dict[str, str]) -> subprocess.Popen[str]:
    return subprocess.Popen(
        [str(prepare.VENV / "bin/python"), *words], cwd=ROOT, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )


class Hand:
    """A person at a browser, without the browser."""

    def __init__(self, base: str, name: str) -> None:
        self.base = base
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        page = self.get("/sign-in/")[1]
        self.token = re.search(r'csrfmiddlewaretoken" value="(\w+)"', page)[1]  # type: ignore[index]
        self.post("/sign-in/", username=name, password=PASSWORD)
        self.token = re.search(r'csrfmiddlewaretoken" value="(\w+)"', self.get("/shop/skerrow/")[1])[1]  # type: ignore[index]

    def _ask(self, request: urllib.request.Request | str) -> tuple[int, str]:
        try:
            with self.opener.open(request, timeout=30) as answer:
                return answer.status, answer.read().decode("utf-8", "replace")
        except urllib.error.HTTPError as error:
            return error.code, error.read().decode("utf-8", "replace")
        except OSError:
            return 0, ""

    def get(self, where: str) -> tuple[int, str]:
        return self._ask(self.base + where)

    def post(self, where: str, **told: str) -> tuple[int, str]:
        body = urllib.parse.urlencode({"csrfmiddlewaretoken": self.token, **told}).encode()
        return self._ask(urllib.request.Request(self.base + where, data=body, headers={"Referer": self.base + where}))


def _hostile(environment: dict[str, str], counts: dict[str, str]) -> bool:
    runs = [
        _python("-m", "pytest", "-q", "-x", "tests/rocklash/test_hostile.py", "-k", "hostile_input", "-p", "no:cacheprovider", environment=environment | {"ROCKLASH_ATTACK": str(HOSTILE), "ROCKLASH_ATTACK_SEED": seed, "ROCKLASH_DB_NAME": f"attack{seed}"})
        for seed in ("71", "72")
    ]  # fmt: skip
    said = [run.communicate()[0] for run in runs]
    good = all(run.returncode == 0 for run in runs)
    counts["hostile inputs"] = f"{2 * HOSTILE}, {'none a 500, none over 2 s' if good else 'FAILED'}"
    if not good:
        print("\n".join(text[-3000:] for text in said))
    return good


def _access(environment: dict[str, str], counts: dict[str, str]) -> bool:
    run = _python(
        "-m",
        "pytest",
        "-q",
        "tests/rocklash/test_doors.py",
        "tests/rocklash/test_people.py",
        "tests/rocklash/test_api.py",
        "-p",
        "no:cacheprovider",
        environment=environment,
    )
    said = run.communicate()[0]
    cells = re.search(r"(\d+) passed", said)
    counts["access cells"] = f"{cells[1] if cells else 0}, {'no leak' if run.returncode == 0 else 'FAILED'}"
    return run.returncode == 0


def _site(environment: dict[str, str], port: int) -> subprocess.Popen[str]:
    site = subprocess.Popen(
        [str(prepare.VENV / "bin/gunicorn"), "--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "4", "--log-level", "critical", "--no-control-socket", "rocklash.config.wsgi"],
        cwd=ROOT, env=environment, start_new_session=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip
    end = time.monotonic() + 60
    while time.monotonic() < end:
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/ready/", timeout=5).close()
        except OSError:
            time.sleep(0.2)
        else:
            return site
    raise SystemExit("The site did not start.")


def _kill_worker(master: int) -> None:
    children = Path(f"/proc/{master}/task/{master}/children").read_text().split()
    if children:
        os.kill(int(random.choice(children)), signal.SIGKILL)  # noqa: S311


def _kept(environment: dict[str, str], question: str) -> int:
    words = [
        str(cluster.binaries() / "psql"),
        "-h",
        "127.0.0.1",
        "-p",
        environment["ROCKLASH_DB_PORT"],
        "-U",
        cluster.ROLE,
        "-d",
        "rocklash",
        "-tAc",
        question,
    ]
    return int(
        subprocess.run(
            words, env=environment | {"PGPASSWORD": environment["ROCKLASH_DB_PASSWORD"]}, check=True, capture_output=True, text=True
        ).stdout
    )


def _kills(folder: Path, environment: dict[str, str], counts: dict[str, str]) -> bool:
    """Runs entered while workers of the site and PostgreSQL's postmaster are killed with signal 9: what was acknowledged is there afterwards."""
    port = cluster.free_port()
    site = _site(environment, port)
    hand, acknowledged = Hand(f"http://127.0.0.1:{port}", "builder"), 0
    before = _kept(environment, "select count(*) from records_runentry where note = ''")
    stop = threading.Event()

    def harm() -> None:
        for number in range(KILLS):
            if stop.wait(0.7):
                return
            if number % 5 == 4:
                pid = int((folder / "data/postmaster.pid").read_text().split()[0])
                os.kill(pid, signal.SIGKILL)
                time.sleep(0.5)
                (folder / "data/postmaster.pid").unlink(missing_ok=True)
                cluster.start(folder, durable=True)
            else:
                _kill_worker(site.pid)

    thread = threading.Thread(target=harm, daemon=True)
    thread.start()
    for number in range(2 * WRITES):
        status, page = hand.post("/shop/skerrow/ran/", text="10 min on Petrel 1498", once=f"attack{number}")
        acknowledged += status == 200 and "Logbook of Petrel" in page
    stop.set()
    thread.join(timeout=30)
    os.killpg(site.pid, signal.SIGTERM)
    site.wait(timeout=20)
    kept = _kept(environment, "select count(*) from records_runentry where note = ''") - before
    counts["acknowledged under kill -9"] = f"{acknowledged} of {2 * WRITES} sent, {kept} kept, {max(0, acknowledged - kept)} lost"
    return acknowledged <= kept and acknowledged > WRITES // 2


def _both(hands: list[Hand], where: str, seen: str, speed: int) -> list[int]:
    """Both send a speed of their own for the figure that both were shown; what each was answered."""
    answers: list[int] = []

    def send(hand: Hand, text: str) -> None:
        answers.append(hand.post(where, holder="goal", key="goal_rpm", text=text, basis="card", seen=seen)[0])

    threads = [threading.Thread(target=send, args=(hand, str(speed + 2 * number))) for number, hand in enumerate(hands)]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    return answers


def _races(environment: dict[str, str], counts: dict[str, str]) -> bool:
    """Two people on one figure, again and again: whoever comes second is told so, and nothing is written over in silence."""
    port = cluster.free_port()
    site = _site(environment, port)
    base = f"http://127.0.0.1:{port}"
    hands = [Hand(base, "builder"), Hand(base, "owner")]
    build = re.search(r"/build/(\d+)/[^>]*>Knot 389", hands[0].get("/shop/skerrow/")[1])[1]  # type: ignore[index]
    where, silent, told = f"/shop/skerrow/build/{build}/goal/", 0, 0
    for number in range(WRITES):
        page = hands[0].get(where)[1]
        seen = re.search(r'name="key" value="goal_rpm">\s*<input[^>]*name="seen" value="([^"]*)"', page)
        if seen is None:
            break
        answers = _both(hands, where, seen[1], 5000 + 4 * number)
        told += answers.count(409)
        silent += answers.count(200) == 2
    os.killpg(site.pid, signal.SIGTERM)
    site.wait(timeout=20)
    counts["interleaved writes"] = f"{2 * WRITES}, {told} told of the other, {silent} written over in silence"
    return silent == 0 and told > WRITES // 2


def main() -> int:
    prepare.debian(prepare.SERVER)
    prepare.python_packages()
    began, counts, good = time.monotonic(), dict[str, str](), True
    with tempfile.TemporaryDirectory(prefix="rocklash-attack-", dir="/tmp") as name:
        Path(name).chmod(0o755)
        folder = Path(name) / "pg"
        with cluster.running(folder, durable=True) as server:
            test = prepare.environment(
                server.environment() | {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.test", "DJANGO_ALLOW_ASYNC_UNSAFE": "true"}
            )
            site = prepare.environment(
                server.environment()
                | {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.dev", "ROCKLASH_BACKUPS": "", "ROCKLASH_WORKERS": "never"}
            )
            for command in ("migrate", "load_demo"):
                subprocess.run(
                    [str(prepare.VENV / "bin/python"), "manage.py", command, "-v", "0"],
                    cwd=ROOT,
                    env=site | {"ROCKLASH_STATEMENT_SECONDS": "0"},
                    check=True,
                    stdout=subprocess.DEVNULL,
                )
            for step in (
                lambda: _hostile(test, counts),
                lambda: _access(test, counts),
                lambda: _races(site, counts),
                lambda: _kills(folder, site, counts),
            ):
                good = step() and good
    for what, words in counts.items():
        print(f"{what}: {words}")
    print(f"{time.monotonic() - began:.0f} s")
    return 0 if good else 1


if __name__ == "__main__":
    try:
        sys.exit(main())
    except cluster.ClusterError as error:
        sys.exit(str(error))
