"""make backup, make restore FILE=...: the demo's database, by the same commands as a server of one's own has."""

import os
import subprocess
import sys

import cluster
import prepare

DATA = prepare.ROOT / "var/demo/pg"


def main() -> int:
    """`backup`, or `restore` with a file."""
    bin_folder = prepare.python_packages()
    was_running = (cluster.usable_directory(DATA) / "data/postmaster.pid").exists()
    server = cluster.start(DATA, durable=True)
    try:
        environment = prepare.environment(server.environment() | {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.dev"})
        command = [str(bin_folder / "python"), str(prepare.ROOT / "manage.py"), *sys.argv[1:]]
        return subprocess.run(command, env=environment | {"PWD": os.getcwd()}, check=False).returncode
    finally:
        if not was_running:
            cluster.stop(server)


if __name__ == "__main__":
    try:
        sys.exit(main())
    except cluster.ClusterError as error:
        sys.exit(str(error))
