"""make backup: dump the demo's or shop's database into var/backup with PostgreSQL's own tool (custom format).

Restore into an empty database with pg_restore.
"""

import subprocess
import sys
import time

import cluster
import prepare

DATA = prepare.ROOT / "var/demo/pg"
TARGET = prepare.ROOT / "var/backup"


def main() -> int:
    directory = cluster.usable_directory(DATA)
    was_running = (directory / "data/postmaster.pid").exists()
    server = cluster.start(DATA, durable=True)
    try:
        TARGET.mkdir(parents=True, exist_ok=True)
        place = TARGET / f"rocklash-{time.strftime('%Y%m%d-%H%M%S')}.dump"
        dump = [
            str(cluster.binaries() / "pg_dump"),
            "-h",
            "127.0.0.1",
            "-p",
            str(server.port),
            "-U",
            cluster.ROLE,
            "-Fc",
            "-f",
            str(place),
            "rocklash",
        ]
        subprocess.run(dump, check=True)
        print(f"Kept as {place.relative_to(prepare.ROOT)}, {place.stat().st_size // 1024} kB")
    finally:
        if not was_running:
            cluster.stop(server)
    return 0


if __name__ == "__main__":
    try:
        sys.exit(main())
    except (cluster.ClusterError, subprocess.CalledProcessError) as error:
        sys.exit(str(error))
