"""How fast a build is advised, and how fast a lobe is ground; run with `make bench`."""

import time
from pathlib import Path
from typing import Any

import pytest

from tests.bench.publish import publish
from valvetrain.formats import build_file
from valvetrain.parts.engine import Side
from valvetrain.studies.advice.advice import advise
from valvetrain.studies.regrind.from_build import GrindWish, regrind
from valvetrain.studies.review.build import review

pytestmark = pytest.mark.bench
BUILDS = Path(__file__).resolve().parents[2] / "src/rocklash/demo/builds"


def _record(name: str) -> Any:
    return build_file.read((BUILDS / f"{name}.json").read_text(encoding="utf-8"))


def test_advice_for_a_build(benchmark: Any) -> None:
    """Everything: rules, schools, claims, fuel and areas, of a build that is reviewed."""
    record = _record("petrel_1498")
    found = review(record)
    publish(benchmark, "advice_ms", "ms", 1e3, limit=50.0)
    benchmark(advise, record, found)


def test_regrind_of_the_slowest_side(benchmark: Any) -> None:
    """The slowest of every side of the demo's engines, with its review of the build with the new cam in it; each side's median of three."""
    slowest, name = 0.0, ""
    for path in sorted(BUILDS.glob("*.json")):
        record = build_file.read(path.read_text(encoding="utf-8"))
        found = review(record)
        for side in Side:
            took = []
            for _ in range(3):
                begun = time.perf_counter()
                regrind(record, found, side, GrindWish())
                took.append(time.perf_counter() - begun)
            if sorted(took)[1] > slowest:
                slowest, name = sorted(took)[1], f"{record.name}, {side}"
    publish(benchmark, "regrind_s", "s", 1.0, limit=1.0)
    benchmark.extra_info["value"] = slowest
    benchmark.extra_info["note"] = name
    benchmark.pedantic(lambda: None, rounds=1)
