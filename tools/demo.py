"""make demo: install, start PostgreSQL and the web server on loopback, load the demo once, and say where it is."""

import contextlib
import functools
import os
import pwd
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import cluster
import prepare

ROOT = prepare.ROOT
DATA = ROOT / "var/demo"
WELCOME = """
  Rock Lash is at  http://127.0.0.1:{port}/

  owner    harbour-light    may do everything, and invite
  builder  harbour-light    may change everything but people
  helper   harbour-light    may look

  Ctrl-C stops it.
"""


def _manage(bin_folder: Path, environment: dict[str, str], *arguments: str) -> None:
    subprocess.run([str(bin_folder / "python"), str(ROOT / "manage.py"), *arguments], check=True, env=environment)


def _migrations() -> str:
    return ",".join(sorted(file.name for file in (ROOT / "src/rocklash/records/migrations").glob("0*.py")))


def _styles() -> str:
    """What styles and scripts there are, by their names, sizes and times."""
    files = sorted((ROOT / "src/rocklash/ui/static").rglob("*"))
    return "\n".join(f"{file.name} {file.stat().st_size} {file.stat().st_mtime_ns}" for file in files if file.is_file())


@contextlib.contextmanager
def _collected(bin_folder: Path, environment: dict[str, str]) -> Iterator[None]:
    """Styles and scripts packed once for all who come, while what is done meanwhile is done; a stamp beside them spares the second start that."""
    now, stamp = _styles(), DATA / "static-stamp"
    if stamp.exists() and stamp.read_text() == now:
        yield
        return
    # the library brings scripts of its own, none of which is used
    command = [str(bin_folder / "python"), str(ROOT / "manage.py"), "collectstatic", "--noinput", "--clear", "-v", "0", "-i", "django_htmx"]
    collecting = subprocess.Popen(command, env=environment)
    try:
        yield
        if collecting.wait():
            raise subprocess.CalledProcessError(collecting.returncode, command)
    finally:
        collecting.kill()
    stamp.write_text(now)


def _bring_up_to_date(bin_folder: Path, environment: dict[str, str], server: cluster.Server) -> None:
    """Migrate and load once; a stamp beside the data spares the second start two runs of manage.py."""
    stamp = DATA / "stamp"
    now = f"{server.directory}:{_migrations()}"
    if stamp.exists() and stamp.read_text() == now:
        return
    _manage(bin_folder, environment, "upgrade", "-v", "0")
    _manage(bin_folder, environment, "load_demo")
    DATA.mkdir(parents=True, exist_ok=True)
    stamp.write_text(now)


def _answers(port: int) -> bool:
    """Whether the site itself answers: the port is open long before the workers have read the code."""
    if not cluster.port_open(port):
        return False
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=20) as answer:
            return int(answer.status) == 200
    except OSError:
        return False


@functools.cache
def _lesser() -> tuple[list[str], dict[str, str]]:
    """How the site's programs are begun: started as root, as a lesser account that can read the project and write backups; else as they are."""
    if os.geteuid() != 0:
        return [], {}
    account, backup, scratch = pwd.getpwnam("www-data"), ROOT / "var/backup", Path("/tmp/rocklash-www")
    words = ["setpriv", f"--reuid={account.pw_uid}", f"--regid={account.pw_gid}", "--clear-groups"]
    if subprocess.run(
        [*words, "test", "-x", str(prepare.VENV / "bin/python"), "-a", "-r", str(ROOT / "manage.py")], check=False, cwd="/"
    ).returncode:
        print("The project lies where only root can read: the site runs as root here. Move it, or start it as somebody else.", flush=True)
        return [], {}
    for folder in (backup, scratch):
        folder.mkdir(parents=True, exist_ok=True)
        for each in (folder, *folder.iterdir()):
            os.chown(each, account.pw_uid, account.pw_gid)
    return words, {"HOME": str(scratch), "XDG_CACHE_HOME": str(scratch)}


def _workers(bin_folder: Path, environment: dict[str, str]) -> list[subprocess.Popen[bytes]]:
    """`make demo WORKERS=2`: processes that take what lasts longer than a page may from the queue in the database."""
    lesser, more = _lesser()
    command = [*lesser, str(bin_folder / "python"), str(ROOT / "manage.py"), "run_worker"]
    count = int(os.environ.get("WORKERS") or "1")
    return [subprocess.Popen(command, env=environment | more, cwd=ROOT, start_new_session=True) for _ in range(count)]


def _watch(process: subprocess.Popen[bytes], database: int) -> int:
    """Until the site ends. A database that died is started again: what was acknowledged is in it."""
    while True:
        with contextlib.suppress(subprocess.TimeoutExpired):
            return process.wait(timeout=2.0)
        if cluster.port_open(database):
            continue
        try:
            cluster.start(DATA / "pg", durable=True)
        except (cluster.ClusterError, OSError) as error:
            print(f"The database is not there: {error}", flush=True)


def _serve(bin_folder: Path, environment: dict[str, str], port: int) -> int:
    lesser, more = _lesser()
    command = [
        *lesser, str(bin_folder / "gunicorn"), "--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "4", "--log-level", "warning",
        "--no-control-socket", "--preload", "rocklash.config.wsgi",
    ]  # fmt: skip
    process = subprocess.Popen(command, env=environment | more, cwd=ROOT, start_new_session=True)
    workers = _workers(bin_folder, environment)
    try:
        while not _answers(port):
            if process.poll() is not None:
                return process.returncode
            time.sleep(0.05)
        print(WELCOME.format(port=port), flush=True)
        return _watch(process, int(environment["ROCKLASH_DB_PORT"]))
    except KeyboardInterrupt:
        print("\nStopping ...", flush=True)
        return 0
    finally:
        for each in (process, *workers):
            with contextlib.suppress(ProcessLookupError):
                os.killpg(each.pid, signal.SIGTERM)
        for each in (process, *workers):
            with contextlib.suppress(subprocess.TimeoutExpired):
                each.wait(timeout=10)


def main() -> int:
    """Run the demo, or restore it with --reset."""
    # said outright: a shell that starts this in the background hands it a deaf ear for Ctrl-C
    signal.signal(signal.SIGINT, signal.default_int_handler)
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    prepare.debian(prepare.SERVER)
    bin_folder = prepare.python_packages()
    already = cluster.usable_directory(DATA / "pg") / "data/postmaster.pid"
    was_running = already.exists()
    server = cluster.start(DATA / "pg", durable=True)
    environment = prepare.environment(
        server.environment() | {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.dev", "ROCKLASH_STATIC": str(DATA / "static")}
    )
    try:
        if "--reset" in sys.argv:
            _manage(bin_folder, environment, "migrate", "-v", "0")
            _manage(bin_folder, environment, "load_demo", "--again")
            print("The demo workshop is as it was.")
            return 0
        with _collected(bin_folder, environment):
            _bring_up_to_date(bin_folder, environment, server)
        wanted = int(os.environ.get("ROCKLASH_PORT", "8470"))
        return _serve(bin_folder, environment, cluster.free_port() if cluster.port_open(wanted) else wanted)
    except KeyboardInterrupt:
        return 0
    finally:
        # a reset beside a running demo leaves that demo's server alone
        if not ("--reset" in sys.argv and was_running):
            with contextlib.suppress(cluster.ClusterError):
                cluster.stop(server)


if __name__ == "__main__":
    try:
        sys.exit(main())
    except cluster.ClusterError as error:
        sys.exit(str(error))
