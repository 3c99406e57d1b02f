"""docs/deploy.md as far as it goes on one machine: units, environment, collected files, containers as written, and the processes started as the units start them."""

import configparser
import gzip
import os
import re
import shlex
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
import yaml
from django.core.management import get_commands
from django.db import connection

ROOT = Path(__file__).resolve().parents[2]
UNITS = sorted((ROOT / "deploy/systemd").glob("*.service"))
HARDENED = {"NoNewPrivileges": "yes", "ProtectSystem": "strict", "ProtectHome": "yes", "PrivateTmp": "yes", "PrivateDevices": "yes", "RestrictSUIDSGID": "yes", "CapabilityBoundingSet": "", "UMask": "0077"}  # fmt: skip


def _unit(path: Path) -> configparser.ConfigParser:
    found = configparser.ConfigParser(strict=False, interpolation=None)
    found.optionxform = str  # type: ignore[assignment]
    found.read_string(path.read_text(encoding="utf-8"))
    return found


def _environment() -> dict[str, str]:
    lines = (ROOT / "deploy/systemd/rocklash.env.example").read_text(encoding="utf-8").splitlines()
    return dict(line.split("=", 1) for line in lines if line and not line.startswith("#"))


@pytest.mark.parametrize("path", UNITS, ids=lambda path: path.name)
def test_a_unit_is_no_root_hardened_and_names_what_exists(path: Path, tmp_path: Path) -> None:
    service = _unit(path)["Service"]
    assert service["User"] == "rocklash"
    assert {key: service[key] for key in HARDENED} == HARDENED
    words = shlex.split(service["ExecStart"])
    program = Path(words[0].replace("/opt/rocklash/.venv", sys.prefix))
    assert program.is_file()
    if "django" in words:
        assert words[words.index("django") + 1] in get_commands()
    if shutil.which("systemd-analyze"):
        copy = tmp_path / path.name.replace("@.", "@1.")
        copy.write_text(path.read_text(encoding="utf-8").replace("/opt/rocklash/.venv", sys.prefix).replace("WorkingDirectory=/opt/rocklash", f"WorkingDirectory={ROOT}"))  # fmt: skip
        for other in UNITS:
            (tmp_path / other.name).write_text(
                other.read_text(encoding="utf-8").replace("/opt/rocklash/.venv", sys.prefix), encoding="utf-8"
            )
        said = subprocess.run(
            ["systemd-analyze", "verify", "--recursive-errors=no", str(copy)], capture_output=True, text=True, check=False
        )
        assert said.returncode == 0, said.stderr
        safe = subprocess.run(
            ["systemd-analyze", "security", "--offline=true", "--threshold=30", str(copy)], capture_output=True, text=True, check=False
        )
        assert safe.returncode == 0, safe.stdout[-300:]


def test_the_environment_file_holds_what_prod_asks_for() -> None:
    told = (ROOT / "docs/settings.md").read_text(encoding="utf-8")
    environment = _environment()
    assert {"ROCKLASH_SECRET_KEY", "ROCKLASH_HOSTS", "ROCKLASH_DB_PASSWORD", "ROCKLASH_BACKUPS"} <= environment.keys()
    assert all(f"`{name}`" in told for name in environment if name.startswith("ROCKLASH_"))


def test_containers_as_written_hang_together() -> None:
    compose = yaml.safe_load((ROOT / "deploy/container/compose.yaml").read_text(encoding="utf-8"))
    services = compose["services"]
    for name, service in services.items():
        needed = service.get("depends_on", {})
        assert set(needed) <= set(services), name
        for volume in service.get("volumes", []):
            assert volume.split(":")[0] in compose["volumes"]
    for name in ("upgrade", "web", "worker"):
        assert services[name]["read_only"]
        assert services[name]["cap_drop"] == ["ALL"]
        assert (ROOT / "deploy/container" / services[name]["build"]["context"] / services[name]["build"]["dockerfile"]).resolve().is_file()
    made = (ROOT / "deploy/container/Containerfile").read_text(encoding="utf-8")
    assert "USER rocklash" in made
    assert made.index("USER rocklash") < made.index("CMD")
    for source in re.findall(r"^COPY ([^\n]+) \S+$", made, re.MULTILINE):
        for each in source.split():
            assert (ROOT / each).exists(), each
    door = (ROOT / "deploy/Caddyfile").read_text(encoding="utf-8")
    assert door.count("{") == door.count("}")
    assert "127.0.0.1:8470" in door
    assert "127.0.0.1:8470" in (ROOT / "deploy/systemd/rocklash-web.service").read_text(encoding="utf-8")


def test_commands_of_the_page_exist() -> None:
    page = (ROOT / "docs/deploy.md").read_text(encoding="utf-8")
    for command in re.findall(r"(?:-m django|bin/python manage\.py) (\w+)", page):
        assert command in get_commands(), command
    for path in re.findall(r"deploy/[\w./*]+\w", page.replace("deploy/container/.env", "")):
        assert list(ROOT.glob(path)), path


def _port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@pytest.fixture
def server(tmp_path: Path, transactional_db: None) -> Iterator[tuple[str, dict[str, str]]]:
    """Collected, upgraded and started as the unit does it, but for the user: address and environment."""
    kept = {key: value for key, value in os.environ.items() if not key.startswith("DJANGO_")}
    environment = kept | _environment() | {
        "PYTHONPATH": str(ROOT / "src"), "ROCKLASH_SECRET_KEY": "k7-" * 30, "ROCKLASH_HOSTS": "bench.example.org", "ROCKLASH_STATIC": str(tmp_path / "static"),
        "ROCKLASH_DB_NAME": str(connection.settings_dict["NAME"]), "ROCKLASH_DB_PASSWORD": str(connection.settings_dict["PASSWORD"]), "ROCKLASH_REFUSE_ROOT": "false",
        "ROCKLASH_BACKUPS": str(tmp_path / "backup"), "NUMBA_CACHE_DIR": str(tmp_path / "compiled"),
    }  # fmt: skip
    run = lambda *words: subprocess.run(
        [sys.executable, "-m", "django", *words], env=environment, check=True, capture_output=True, cwd=ROOT
    )
    run("collectstatic", "--noinput", "-v", "0")
    run("upgrade", "-v", "0")
    port = _port()
    words = shlex.split(_unit(ROOT / "deploy/systemd/rocklash-web.service")["Service"]["ExecStart"])
    command = [word.replace("127.0.0.1:8470", f"127.0.0.1:{port}") for word in words[1:]]
    process = subprocess.Popen([f"{sys.prefix}/bin/gunicorn", *command], env=environment, cwd=ROOT, stderr=subprocess.PIPE)
    try:
        end = time.monotonic() + 60.0
        while time.monotonic() < end:
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    break
            assert process.poll() is None, process.stderr.read().decode() if process.stderr else ""
            time.sleep(0.1)
        yield f"http://127.0.0.1:{port}", environment
    finally:
        process.terminate()
        process.communicate(timeout=20)


def _ask(address: str, **headers: str) -> tuple[int, dict[str, str], bytes]:
    told = {"Host": "bench.example.org", "X-Forwarded-Proto": "https", **{key.replace("_", "-"): value for key, value in headers.items()}}
    with urllib.request.urlopen(urllib.request.Request(address, headers=told), timeout=60) as answer:
        return answer.status, dict(answer.headers), answer.read()


@pytest.mark.slow
def test_the_site_runs_as_its_unit_starts_it(server: tuple[str, dict[str, str]]) -> None:
    """Ready, compressed, under hashed names that never go stale, with HSTS; the database's role needs its password; root is refused."""
    address, environment = server
    assert _ask(f"{address}/ready/")[2] == b"ready"
    status, headers, body = _ask(f"{address}/sign-in/", Accept_Encoding="gzip")
    assert status == 200
    assert headers["Content-Encoding"] == "gzip"
    assert int(headers["Strict-Transport-Security"].split("max-age=")[1].split(";")[0]) >= 31536000
    style = re.search(r'href="(/static/css/site\.[0-9a-f]{12}\.css)"', gzip.decompress(body).decode())
    assert style
    _, told, packed = _ask(address + style[1], Accept_Encoding="gzip")
    assert told["Content-Encoding"] == "gzip"
    assert "immutable" in told["Cache-Control"]
    assert len(packed) < 40_000
    if connection.settings_dict["PASSWORD"]:
        wrong = subprocess.run([sys.executable, "-m", "django", "migrate", "--check"], env=environment | {"ROCKLASH_DB_PASSWORD": "wrong"}, capture_output=True, text=True, check=False, cwd=ROOT)  # fmt: skip
        assert "password authentication failed" in wrong.stderr
    if os.geteuid() == 0:
        refused = subprocess.run([sys.executable, "-c", "import rocklash.config.wsgi"], env=environment | {"ROCKLASH_REFUSE_ROOT": "true"}, capture_output=True, text=True, check=False, cwd=ROOT)  # fmt: skip
        assert "does not run as root" in refused.stderr
