"""What the start commands lean on: ports, clusters, and saying exactly what is missing."""

import socket
from pathlib import Path

import pytest

from tools import cluster, prepare


def test_a_free_port_is_free_and_a_taken_one_is_seen() -> None:
    port = cluster.free_port()
    assert not cluster.port_open(port)
    with socket.socket() as listener:
        listener.bind(("127.0.0.1", port))
        listener.listen()
        assert cluster.port_open(port)


def test_missing_packages_are_named_to_who_may_not_install(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(prepare.os, "geteuid", lambda: 1000)
    with pytest.raises(SystemExit) as stopped:
        prepare.debian({"postgresql": "/nowhere/initdb", "bash": "/bin/bash"})
    assert "apt-get install postgresql" in str(stopped.value)
    assert "bash" not in str(stopped.value).replace("install as root", "")


def test_nothing_is_done_when_nothing_is_missing(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(prepare.subprocess, "run", lambda *_, **__: pytest.fail("must not run anything"))
    prepare.debian({"bash": "/bin/bash"})


def test_the_environment_keeps_byte_code_and_puts_the_source_on_the_path(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("PYTHONDONTWRITEBYTECODE", "1")
    made = prepare.environment({"X": "y"})
    assert "PYTHONDONTWRITEBYTECODE" not in made
    assert made["PYTHONPATH"].endswith("/src")
    assert made["X"] == "y"


def test_a_cluster_starts_is_taken_over_and_stops(tmp_path_factory: pytest.TempPathFactory) -> None:
    """Its own port, its own database; a second start finds the running one; after the block nothing listens."""
    folder = Path("/tmp") / f"rocklash-cluster-check-{cluster.free_port()}"
    try:
        with cluster.running(folder / "pg", durable=False) as server:
            assert cluster.port_open(server.port)
            assert cluster.start(folder / "pg", durable=False) == server
            assert server.environment()["ROCKLASH_DB_PORT"] == str(server.port)
        assert not cluster.port_open(server.port)
    finally:
        import shutil

        shutil.rmtree(folder, ignore_errors=True)
