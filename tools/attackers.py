"""Who attacks: people at a browser without the browser, a site of one's own to be killed, and what is counted afterwards."""

import atexit
import contextlib
import http.cookiejar
import os
import re
import signal
import subprocess
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from html import unescape
from pathlib import Path

import cluster
import prepare

PASSWORD = "harbour-light"  # noqa: S105  (of the demo, which says so on its door)
Environment = dict[str, str]


class Hand:
    """A person who is signed in."""

    def __init__(self, base: str, name: str) -> None:
        self.base = base
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        self.token = ""
        self.post("/sign-in/", username=name, password=PASSWORD)
        self.get("/shop/skerrow/")

    def _ask(self, request: urllib.request.Request | str) -> tuple[int, str]:
        try:
            with self.opener.open(request, timeout=30) as answer:
                page = answer.read().decode("utf-8", "replace")
                found = re.search(r'csrfmiddlewaretoken" value="(\w+)"', page)
                self.token = found[1] if found else self.token
                return answer.status, page
        except urllib.error.HTTPError as error:
            return error.code, error.read().decode("utf-8", "replace")
        except OSError:
            return 0, ""

    def get(self, where: str) -> tuple[int, str]:
        """Status and page; 0 where nobody answers."""
        return self._ask(self.base + where)

    def post(self, where: str, **told: str) -> tuple[int, str]:
        """The same of a form."""
        if not self.token:
            self.get(where)
        body = urllib.parse.urlencode({"csrfmiddlewaretoken": self.token, **told}).encode()
        return self._ask(urllib.request.Request(self.base + where, data=body, headers={"Referer": self.base + where}))

    def form(self, where: str, mark: str) -> dict[str, str]:
        """Hidden and filled fields of the form on a page that holds a mark."""
        for form in re.findall(r"<form.*?</form>", self.get(where)[1], re.DOTALL):
            if mark in form:
                inputs = [dict(re.findall(r'([\w-]+)="([^"]*)"', tag)) for tag in re.findall(r"<input\b[^>]*>", form)]
                return {
                    each["name"]: unescape(each.get("value", ""))
                    for each in inputs
                    if "name" in each and each["name"] != "csrfmiddlewaretoken" and each.get("type") not in ("checkbox", "radio", "file")
                }
        return {}


def _end(group: int) -> None:
    with contextlib.suppress(ProcessLookupError):
        os.killpg(group, signal.SIGKILL)


class Site:
    """The site under gunicorn on a port of its own."""

    def __init__(self, environment: Environment) -> None:
        self.environment, self.port = environment, cluster.free_port()
        self.base = f"http://127.0.0.1:{self.port}"
        self.start()

    def start(self) -> None:
        """Begin, and wait until it is ready."""
        command = [
            str(prepare.VENV / "bin/gunicorn"),
            "--bind",
            f"127.0.0.1:{self.port}",
            "--workers",
            "2",
            "--threads",
            "4",
            "--log-level",
            "critical",
        ]
        self.process = subprocess.Popen(
            [*command, "--no-control-socket", "rocklash.config.wsgi"], cwd=prepare.ROOT, env=self.environment, start_new_session=True,
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        atexit.register(_end, self.process.pid)  # whatever becomes of the attack, nothing of it goes on
        end = time.monotonic() + 60
        while time.monotonic() < end:
            try:
                urllib.request.urlopen(f"{self.base}/ready/", timeout=5).close()
            except OSError:
                time.sleep(0.1)
            else:
                return
        raise SystemExit("The site did not start.")

    def workers(self) -> list[int]:
        """Its workers."""
        return [int(each) for each in Path(f"/proc/{self.process.pid}/task/{self.process.pid}/children").read_text().split()]

    def kill(self) -> None:
        """Master and workers at once."""
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        """In good order."""
        os.killpg(self.process.pid, signal.SIGTERM)
        self.process.wait(timeout=20)


def python(*words: str, environment: Environment) -> "subprocess.Popen[str]":
    """A program of the project."""
    return subprocess.Popen(
        [str(prepare.VENV / "bin/python"), *words], cwd=prepare.ROOT, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
        text=True,
    )  # fmt: skip


def ask_database(environment: Environment, question: str) -> str:
    """What psql answers."""
    words = ["-h", "127.0.0.1", "-p", environment["ROCKLASH_DB_PORT"], "-U", cluster.ROLE, "-d", "rocklash", "-tAc", question]
    told = environment | {"PGPASSWORD": environment["ROCKLASH_DB_PASSWORD"]}
    return subprocess.run([str(cluster.binaries() / "psql"), *words], env=told, check=True, capture_output=True, text=True).stdout.strip()


def digests(environment: Environment) -> dict[str, str]:
    """A digest of every table's rows."""
    tables = ask_database(environment, "select tablename from pg_tables where schemaname = 'public' order by 1").split()
    return {
        each: ask_database(environment, f"select count(*), md5(string_agg(t::text, '|' order by t::text)) from {each} t")  # noqa: S608
        for each in tables
    }


def together(*acts: "threading.Thread") -> None:
    """Threads begun and ended as one."""
    for each in acts:
        each.start()
    for each in acts:
        each.join()
