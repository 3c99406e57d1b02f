"""The demo's site on a cluster and a port of its own, for scripts that look at it: what they leave behind goes with it."""

import contextlib
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import cluster
import prepare


@contextlib.contextmanager
def running(name: str) -> Iterator[tuple[str, dict[str, str], Path]]:
    """Address of the site, the environment it runs in, and the folder of its Python; stopped and removed at the end."""
    prepare.debian(prepare.SERVER | prepare.BROWSER)
    bin_folder = prepare.python_packages()
    with tempfile.TemporaryDirectory(prefix=f"rocklash-{name}-", dir="/tmp") as folder:
        Path(folder).chmod(0o755)
        with cluster.running(Path(folder) / "pg", durable=False) as server:
            environment = prepare.environment(server.environment() | {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.dev"})
            for command in (["migrate", "-v", "0"], ["load_demo"]):
                subprocess.run([str(bin_folder / "python"), "manage.py", *command], check=True, env=environment, cwd=prepare.ROOT)
            port = cluster.free_port()
            serve = [
                str(bin_folder / "gunicorn"), "-b", f"127.0.0.1:{port}", "--threads", "4", "--no-control-socket", "rocklash.config.wsgi",
            ]  # fmt: skip
            site = subprocess.Popen(serve, env=environment, cwd=prepare.ROOT, stderr=subprocess.DEVNULL)
            try:
                while not cluster.port_open(port):
                    time.sleep(0.05)
                yield f"http://127.0.0.1:{port}", environment, bin_folder
            finally:
                site.terminate()
                site.wait()
