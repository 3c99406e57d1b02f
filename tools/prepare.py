"""Install what is missing: Debian packages (as root; otherwise say which), .venv, pinned and hashed requirements.

Standard library only. A stamp of the lock file makes a second call take no time.
"""

import hashlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
VENV = ROOT / ".venv"
LOCK = ROOT / "requirements/dev.txt"

# package -> a file or program that shows it is there
SERVER = {
    "postgresql": "/usr/lib/postgresql/*/bin/initdb",
    "libpango-1.0-0": "/usr/lib/*/libpango-1.0.so.0",
    "libpangoft2-1.0-0": "/usr/lib/*/libpangoft2-1.0.so.0",
    "libharfbuzz-subset0": "/usr/lib/*/libharfbuzz-subset.so.0",
}
BROWSER = {"chromium": "/usr/bin/chromium"}


def _there(pattern: str) -> bool:
    return any(Path("/").glob(pattern.lstrip("/")))


def debian(wanted: dict[str, str]) -> None:
    """Install the missing of some Debian packages, or say exactly which to install and stop."""
    missing = [package for package, sign in wanted.items() if not _there(sign)]
    if not missing:
        return
    if os.geteuid() != 0 or not shutil.which("apt-get"):
        sys.exit(f"Missing on this machine: {', '.join(missing)}.\nInstall as root and start again:  apt-get install {' '.join(missing)}")
    print(f"Installing {', '.join(missing)} ...", flush=True)
    environment = os.environ | {"DEBIAN_FRONTEND": "noninteractive"}
    subprocess.run(["apt-get", "update", "-qq"], check=True, env=environment, stdout=subprocess.DEVNULL)
    command = ["apt-get", "install", "-y", "-qq", "--no-install-recommends", *missing]
    subprocess.run(command, check=True, env=environment, stdout=subprocess.DEVNULL)


def python_packages() -> Path:
    """Make .venv and bring it to the lock file; returns its bin folder."""
    stamp, want = VENV / "lock-stamp", hashlib.sha256(LOCK.read_bytes()).hexdigest()
    if stamp.exists() and stamp.read_text() == want:
        return VENV / "bin"
    if sys.version_info < (3, 11):  # noqa: UP036  (this runs on whatever Python the machine has)
        sys.exit("Python 3.11 or newer is needed.")
    print("Installing pinned requirements ...", flush=True)
    if not (VENV / "bin/python").exists():
        made = subprocess.run([sys.executable, "-m", "venv", str(VENV)], check=False)
        if made.returncode:
            sys.exit("Making .venv failed. On Debian, as root:  apt-get install python3-venv")
    if not (VENV / "bin/uv").exists():
        pip = [str(VENV / "bin/python"), "-m", "pip", "install", "-q", "--disable-pip-version-check", "--require-hashes"]
        subprocess.run([*pip, "-r", str(ROOT / "requirements/uv.txt")], check=True)
    sync = [str(VENV / "bin/uv"), "pip", "sync", "-q", "--require-hashes", "--python", str(VENV / "bin/python"), str(LOCK)]
    subprocess.run(sync, check=True)
    stamp.write_text(want)
    return VENV / "bin"


def environment(extra: dict[str, str]) -> dict[str, str]:
    """Environment for the project's programs; byte code is kept, which makes every start three times as quick."""
    kept = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
    # small dense fits on two BLAS threads of two busy cores take ten times as long as on one
    threads = dict.fromkeys(("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"), "1")
    return kept | threads | {"PYTHONPATH": str(ROOT / "src"), "PATH": f"{VENV / 'bin'}:{kept.get('PATH', '')}"} | extra
