"""Speed of the valve motion: the sweep, its distance to a C compiler's and to scipy's integrator, and the rigid Monte Carlo."""

import ctypes
import math
import shutil
import statistics
import subprocess
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.bench.publish import publish
from tests.bench.test_speed import PETREL
from tests.valvetrain.motion_reference import example, one_turn
from valvetrain.formats import build_file
from valvetrain.kernels import valve_motion as kernel
from valvetrain.parts.engine import Side
from valvetrain.studies.motion import sweep as motion
from valvetrain.studies.motion.float_spread import float_spread
from valvetrain.studies.motion.review import review_motion
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.side_figures import weakest

pytestmark = [pytest.mark.bench]
SPEEDS = np.linspace(4000.0, 16000.0, 60) / 60.0


def test_sweep_of_sixty_speeds(benchmark: Any) -> None:
    """60 speeds of a two-spring pack, 8 masses a spring, until surge of the turns before has died; warm."""
    case = example()
    motion.sweep(case, SPEEDS)
    publish(benchmark, "sweep_60_two_springs_ms", "ms", 1e3, limit=120.0)
    benchmark.pedantic(lambda: motion.sweep(case, SPEEDS), rounds=25, iterations=1)


def test_against_scipy(benchmark: Any) -> None:
    """The same equations in solve_ivp (RK45, as one would write it): one turn at three speeds, times the turns of all sixty."""
    case = example()
    motion.sweep(case, SPEEDS)
    begun = time.perf_counter()
    for _ in range(5):
        motion.sweep(case, SPEEDS)
    ours = (time.perf_counter() - begun) / 5
    turns = sum(
        motion._turns(case, float(SPEEDS[at : at + kernel.LANES].max())) * len(SPEEDS[at : at + kernel.LANES]) for at in range(0, 60, 16)
    )
    each = []
    for speed in (SPEEDS[5], SPEEDS[30], SPEEDS[55]):
        begun = time.perf_counter()
        one_turn(case, float(speed), np.linspace(-math.pi, 3.1, 100), method="RK45", tolerance=1e-6)
        each.append(time.perf_counter() - begun)
    theirs = statistics.mean(each) * turns
    publish(benchmark, "solve_ivp_share_of_1000th", "", 1.0, limit=1.0)
    benchmark.extra_info |= {"value": 1000.0 * ours / theirs, "note": f"solve_ivp {theirs:.0f} s, {theirs / ours:,.0f} times as long"}
    benchmark.pedantic(lambda: None, rounds=1)


def test_distance_to_c(benchmark: Any, tmp_path: Path) -> None:
    """The same march through a C compiler (-O3 -march=native -ffast-math) on the same states, one thread each; median ratio."""
    compiler = shutil.which("cc")
    if compiler is None:
        pytest.skip("no C compiler here")
    library = tmp_path / "limit.so"
    source = Path(__file__).parent / "motion_limit.c"
    subprocess.run([compiler, "-O3", "-march=native", "-ffast-math", "-shared", "-fPIC", str(source), "-o", str(library)], check=True)
    march = ctypes.CDLL(str(library)).march
    case, speeds, ratios = example(), SPEEDS[16:32], []
    steps = 720 * math.ceil((2.0 / speeds).max() / motion.step_limit(case, 8) / 720)
    lift, zone = motion._lift(case, steps)
    turns = motion._turns(case, float(speeds.max()))
    trace = np.zeros((11, 720, kernel.LANES))
    pointer = lambda array: array.ctypes.data_as(ctypes.c_void_p)
    for _ in range(15):
        ours, table, train = motion._prepare(case, 2.0 / speeds / steps, 8)
        theirs = ours.copy()
        flat = ours.reshape(-1)
        begun = time.perf_counter()
        kernel.march(flat, table, train, lift, zone, motion._modes(8), turns, steps // 720, trace)
        middle = time.perf_counter()
        march(
            pointer(theirs),
            pointer(table),
            ctypes.c_long(2),
            pointer(train),
            pointer(lift),
            pointer(zone),
            *map(ctypes.c_long, (8, steps, turns)),
        )
        ratios.append((middle - begun) / (time.perf_counter() - middle))
    assert np.allclose(ours[kernel.CONTACT_MOST], theirs[kernel.CONTACT_MOST], rtol=1e-3)
    publish(benchmark, "march_over_c", "times", 1.0, limit=3.0)
    benchmark.extra_info["value"] = statistics.median(ratios)
    benchmark.pedantic(lambda: None, rounds=1)


def test_ten_thousand_trains(benchmark: Any) -> None:
    """Rigid separation speed of 10,000 draws of the Petrel's exhaust, with what to measure next."""
    side = complete(build_file.read(PETREL.read_text(encoding="utf-8"))).proposed.sides[Side.EXHAUST]
    publish(benchmark, "float_10000_draws_ms", "ms", 1e3, limit=50.0)
    benchmark(lambda: float_spread(side, weakest(side)))


def test_motion_of_one_side_with_its_band(benchmark: Any) -> None:
    """What a changed part costs behind the page: sweep, onsets, and 32 draws for the band."""
    done = complete(build_file.read(PETREL.read_text(encoding="utf-8")))
    side = done.proposed.sides[Side.EXHAUST]
    publish(benchmark, "motion_of_a_side_ms", "ms", 1e3, limit=1000.0)
    benchmark.pedantic(lambda: review_motion(side, done.goal), rounds=7, iterations=1)
