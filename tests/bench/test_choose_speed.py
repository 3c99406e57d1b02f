"""How fast a shelf is searched: sets through every check with spreads, by one process and by two; run with `make bench`."""

import multiprocessing
import time
from pathlib import Path
from threading import Barrier
from typing import Any

import pytest

from tests.bench.publish import publish
from tests.valvetrain.shelves import drawn_shelf
from valvetrain.formats import build_file
from valvetrain.parts.engine import Side
from valvetrain.studies.choose.proposal import bench_of
from valvetrain.studies.choose.search import merged, search_shard, shards_of
from valvetrain.studies.choose.slots import Slot, Wishes
from valvetrain.studies.choose.tables import Tables

pytestmark = pytest.mark.bench
PETREL = Path(__file__).resolve().parents[2] / "src/rocklash/demo/builds/petrel_1498.json"
MILLION = {
    Slot.CAM: 5, Slot.OUTER: 18, Slot.INNER: 4, Slot.RETAINER: 8, Slot.KEEPERS: 6, Slot.VALVE: 8, Slot.FOLLOWER: 4, Slot.SPRING_SHIM: 3,
}  # fmt: skip
TEN = MILLION | {Slot.OUTER: 36, Slot.VALVE: 22}
WISHES = Wishes(budget=300.0, days=35)


def _tables(counts: dict[Slot, int], seed: int = 3) -> Tables:
    record = build_file.read(PETREL.read_text(encoding="utf-8"))
    return Tables(bench_of(record, Side.EXHAUST), drawn_shelf(record, Side.EXHAUST, counts, seed))


def _highest() -> float:
    """MB this process held at most since it began; the usual count is handed on by the process that spawned it."""
    lines = Path("/proc/self/status").read_text(encoding="utf-8").splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("VmHWM")) / 1e3


def _share(args: tuple[int, int, dict[Slot, int], Barrier]) -> tuple[float, int, float]:
    """Every `of`th shard in a process of its own, after everything is warm: seconds, sets, MB."""
    number, of, counts, ready = args
    small = _tables({Slot.CAM: 1, Slot.OUTER: 1}, 1)
    for shard in shards_of(small):
        search_shard(small, shard, WISHES)
    ready.wait()
    began = time.perf_counter()
    tables = _tables(counts)
    about = max(4, tables.joins.trays[-1].left // 250_000)
    found = [search_shard(tables, shard, WISHES) for shard in shards_of(tables, about)[number::of]]
    total = merged(each for each in found if each)
    return time.perf_counter() - began, total.total, _highest()


def _run(of: int, counts: dict[Slot, int]) -> tuple[float, int, float]:
    """Seconds until the last of so many processes is through, sets, MB of the largest."""
    spawn = multiprocessing.get_context("spawn")
    with spawn.Manager() as manager, spawn.Pool(of) as pool:
        ready = manager.Barrier(of)
        rows = pool.map(_share, [(number, of, counts, ready) for number in range(of)], chunksize=1)
    return max(row[0] for row in rows), sum(row[1] for row in rows), max(row[2] for row in rows)


def _published(benchmark: Any, name: str, counts: dict[Slot, int], per: float, limit: float, rounds: int) -> None:
    publish(benchmark, name, "s", 1.0, limit=limit)
    rows = [_run(2, counts) for _ in range(rounds)]
    alone = _run(1, counts)
    seconds, sets, megabytes = sorted(rows)[len(rows) // 2]
    assert sets == alone[1]
    benchmark.extra_info["value"] = seconds * per / sets
    benchmark.extra_info["note"] = f"{sets:,} sets, {megabytes:.0f} MB; two processes are worth {alone[0] / seconds:.2f} of one"
    benchmark.pedantic(lambda: None, rounds=1)


def test_a_million_sets(benchmark: Any) -> None:
    _published(benchmark, "choose_1e6_s", MILLION, 1e6, 1.0, 3)


def test_ten_million_sets(benchmark: Any) -> None:
    _published(benchmark, "choose_1e7_s", TEN, 1e7, 10.0, 1)
