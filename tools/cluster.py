"""The project's own PostgreSQL cluster on loopback. Standard library only: it runs before anything is installed.

    with running(directory, durable=True) as server: ...   # server.environment() for the site

As root the server runs as user postgres, which must be able to reach the data directory; where it cannot (a home of mode
0700), the data lies under /var/lib instead.
"""

import contextlib
import hashlib
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

ROLE, KEEPER = "rocklash", "keeper"  # the site's own role owns its database and nothing else; the keeper makes roles


class ClusterError(Exception):
    """PostgreSQL could not be started; the message says what to do."""


@dataclass(frozen=True)
class Server:
    """A running server."""

    port: int
    directory: Path
    password: str = ""

    def environment(self, database: str = "rocklash") -> dict[str, str]:
        """Environment that points the site at this server."""
        return {
            "ROCKLASH_DB_HOST": "127.0.0.1", "ROCKLASH_DB_PORT": str(self.port), "ROCKLASH_DB_USER": ROLE, "ROCKLASH_DB_NAME": database,
            "ROCKLASH_DB_PASSWORD": self.password,
        }  # fmt: skip


def binaries() -> Path:
    """Folder of PostgreSQL's server programs, newest version first."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3]), reverse=True)
    if found:
        return found[0].parent
    on_path = shutil.which("initdb")
    if on_path:
        return Path(on_path).parent
    raise ClusterError("PostgreSQL's server is not installed. As root: apt-get install postgresql")


def free_port() -> int:
    """A TCP port nobody listens on just now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def port_open(port: int) -> bool:
    """Whether something listens on the port."""
    with socket.socket() as probe:
        probe.settimeout(0.5)
        return probe.connect_ex(("127.0.0.1", port)) == 0


def _as_server_user(command: list[str]) -> list[str]:
    return ["setpriv", "--reuid=postgres", "--regid=postgres", "--init-groups", *command] if os.geteuid() == 0 else command


def _run(command: list[str], *, cwd: Path) -> None:
    done = subprocess.run(_as_server_user(command), capture_output=True, text=True, cwd=cwd, check=False)
    if done.returncode:
        raise ClusterError(f"{Path(command[0]).name} failed: {(done.stderr or done.stdout).strip()[-800:]}")


def usable_directory(wanted: Path) -> Path:
    """`wanted`, or a directory that user postgres can reach where it cannot reach that one."""
    wanted.mkdir(parents=True, exist_ok=True)
    if os.geteuid() != 0:
        return wanted
    account = pwd.getpwnam("postgres")
    os.chown(wanted, account.pw_uid, account.pw_gid)
    reach = subprocess.run(_as_server_user(["test", "-w", str(wanted)]), check=False, cwd="/")
    if reach.returncode == 0:
        return wanted
    instead = Path("/var/lib") / f"rocklash-{hashlib.sha256(str(wanted).encode()).hexdigest()[:12]}"
    instead.mkdir(mode=0o700, exist_ok=True)
    os.chown(instead, account.pw_uid, account.pw_gid)
    return instead


def _password(directory: Path) -> str:
    """The password of both roles; none in a cluster that was made before there was one."""
    try:
        return (directory / "password").read_text().strip()
    except OSError:
        return ""


def _make_password(directory: Path) -> None:
    place = directory / "password"
    place.touch(mode=0o600)
    place.write_text(secrets.token_urlsafe(24) + "\n")
    if os.geteuid() == 0:
        account = pwd.getpwnam("postgres")
        os.chown(place, account.pw_uid, account.pw_gid)


def _remembered_port(directory: Path) -> int | None:
    try:
        return int((directory / "port").read_text())
    except (OSError, ValueError):
        return None


def start(wanted: Path, *, durable: bool) -> Server:
    """Start the cluster below `wanted`, making it first when it is not there; a running one is taken over."""
    bin_folder, directory = binaries(), usable_directory(wanted)
    data, log = directory / "data", directory / "log"
    if not (data / "PG_VERSION").exists():
        shutil.rmtree(data, ignore_errors=True)
        _make_password(directory)
        made = [str(bin_folder / "initdb"), "-D", str(data), "-U", KEEPER, "-A", "scram-sha-256", f"--pwfile={directory / 'password'}"]
        _run([*made, "-E", "UTF8", "--locale=C.UTF-8", "--no-sync"], cwd=directory)
    port = _remembered_port(directory)
    if port and (data / "postmaster.pid").exists() and port_open(port):
        return Server(port, directory, _password(directory))  # a stale pid file alone is no proof: the port is asked too
    if not port or port_open(port):
        port = free_port()
    options = [f"-p {port}", "-c listen_addresses=127.0.0.1", f"-c unix_socket_directories={directory}", "-c max_connections=60"]
    if not durable:  # the checks may lose their data in a power cut; the demo and a shop may not
        options += ["-c fsync=off", "-c synchronous_commit=off", "-c full_page_writes=off"]
    _run([str(bin_folder / "pg_ctl"), "-D", str(data), "-l", str(log), "-w", "-t", "60", "-o", " ".join(options), "start"], cwd=directory)
    (directory / "port").write_text(str(port))
    _make_database(bin_folder, directory, port)
    return Server(port, directory, _password(directory))


def _make_database(bin_folder: Path, directory: Path, port: int) -> None:
    deadline = time.monotonic() + 20
    while not port_open(port) and time.monotonic() < deadline:
        time.sleep(0.05)
    password = _password(directory)
    who = KEEPER if password else ROLE
    psql = [str(bin_folder / "psql"), "-h", "127.0.0.1", "-p", str(port), "-U", who, "-d", "postgres", "-v", "ON_ERROR_STOP=1", "-tA"]

    def ask(question: str) -> str:
        environment = os.environ | {"PGPASSWORD": password}
        done = subprocess.run([*psql, "-f", "-"], input=question, capture_output=True, text=True, check=False, cwd="/", env=environment)
        if done.returncode:
            raise ClusterError(f"The database could not be made: {done.stderr.strip()[-400:]}")
        return done.stdout.strip()

    if password and ask(f"select 1 from pg_roles where rolname = '{ROLE}'") != "1":  # noqa: S608  (a name of ours)
        ask(f"create role {ROLE} login createdb password '{password}'")
    if ask("select 1 from pg_database where datname = 'rocklash'") != "1":
        ask(f"create database rocklash owner {ROLE}")


def stop(server: Server) -> None:
    """Stop the cluster; waits for a clean end."""
    _run([str(binaries() / "pg_ctl"), "-D", str(server.directory / "data"), "-m", "fast", "-w", "stop"], cwd=server.directory)


@contextlib.contextmanager
def running(wanted: Path, *, durable: bool) -> Iterator[Server]:
    """A cluster for the length of a block."""
    server = start(wanted, durable=durable)
    try:
        yield server
    finally:
        with contextlib.suppress(ClusterError):
            stop(server)
