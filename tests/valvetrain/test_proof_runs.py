"""Dyno, road and logger runs: areas computed apart, simulated runs whose float is known, and files as people have them.

Check values: 18.4 to 18.10 of the trade's list of methods; weights of the smoothing parabola after Savitzky and Golay 1964.
"""

import contextlib
import math
import time
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import savgol_coeffs

from valvetrain.errors import BuildFileError, OutOfRangeError
from valvetrain.formats import run_table
from valvetrain.simulators import dyno_bench
from valvetrain.studies.proof import dyno, float_tale, road
from valvetrain.studies.proof.air import FORMULAS, Air, Standard, factor, outside_of
from valvetrain.studies.proof.dyno import Curve, Run

RPM = np.arange(4000.0, 11001.0, 500.0)
P0 = 1e3 * np.array([13.333333333333334, 16.171875, 19.09722222222222, 22.057291666666664, 25.0, 27.87326388888889, 30.625, 33.203125, 35.55555555555556, 37.630208333333336, 39.375, 40.73784722222222, 41.666666666666664, 42.109375, 42.013888888888886])  # fmt: skip
P1 = 1e3 * np.array([12.8, 15.524999999999999, 18.333333333333332, 21.174999999999997, 24.166666666666668, 27.40870949074074, 30.625, 33.756510416666664, 36.74074074074075, 39.51171875000001, 42.0, 44.13266782407407, 45.833333333333336, 46.32031250000001, 46.21527777777778])  # fmt: skip
HOT = Air(pressure=96500.0, temperature=305.15, humidity=0.55)


def curve(power: np.ndarray, name: str = "a") -> Curve:
    return Curve(
        name=name, speed=RPM / 60.0, power=power, noise=np.zeros(len(power)) + 10.0, factor=1.0, standard=Standard.NONE, samples=len(power)
    )


def test_gain_by_band() -> None:
    """18.5: areas, ends interpolated; weighted by the time spent there as well."""
    first, second = curve(P0), curve(P1)
    assert dyno.gain_between(first, second, 4000 / 60, 7000 / 60).gain == pytest.approx(-0.0291847814)
    high = dyno.gain_between(first, second, 7250 / 60, 10750 / 60)
    assert (high.gain, high.by_time) == pytest.approx((0.0664847791, 0.0674448339), rel=2e-4)
    with pytest.raises(OutOfRangeError, match="Both runs"):
        dyno.gain_between(first, second, 3000 / 60, 7000 / 60)


def test_range_in_use_is_from_the_widest_gap_to_the_change() -> None:
    """18.6: 10,500 and 0.78 is 8,190."""
    assert [60 * each for each in dyno.range_in_use(10500 / 60, [2.0, 1.56, 1.3])] == pytest.approx([8190.0, 10500.0])


def test_smoothing_is_the_published_parabola() -> None:
    """Source: Savitzky & Golay 1964, five points: -3, 12, 17, 12, -3 over 35."""
    assert savgol_coeffs(5, 2) * 35 == pytest.approx([-3, 12, 17, 12, -3])
    assert math.sqrt(savgol_coeffs(5, 2)[2]) == pytest.approx(0.6969320524)
    found = dyno.binned(Run(name="p", speed=RPM / 60, power=1000.0 + 3.0 * (RPM / 60 - 100.0) ** 2), 500 / 60)
    assert found.power == pytest.approx(1000.0 + 3.0 * (found.speed - 100.0) ** 2)


def test_bands_are_told_only_beyond_the_noise() -> None:
    found = dyno.compare(curve(P0), curve(P1, "b"), in_use=(8190 / 60, 10500 / 60))
    assert [band.gain > 0 for band in found.bands] == [False, True]
    assert found.in_use is not None
    assert found.in_use.gain == pytest.approx(dyno.gain_between(curve(P0), curve(P1), 8190 / 60, 10500 / 60).gain)
    assert found.torque * 2 * math.pi * found.speed == pytest.approx(found.power)
    loud = replace(curve(P1, "b"), noise=np.full(len(P1), 1e5))
    assert dyno.compare(curve(P0), loud).bands == ()


def test_corrections_are_never_mixed() -> None:
    raw = Run(name="raw", speed=RPM / 60, power=P0, air=HOT)
    sae = replace(raw, name="sae", power=P0 * factor(HOT, Standard.SAE_J1349), standard=Standard.SAE_J1349)
    both = dyno.common_standard([raw, sae], Standard.DIN_70020)
    assert both is Standard.DIN_70020
    one, two = (dyno.brought_to(each, both, 500 / 60) for each in (raw, sae))
    assert one.power == pytest.approx(two.power)
    assert one.factor == pytest.approx(1.0710216296)
    assert dyno.brought_to(raw, Standard.NONE, 500 / 60).power == pytest.approx(one.power / one.factor)
    untold = replace(sae, air=None, name="yesterday")
    with pytest.raises(OutOfRangeError, match="yesterday"):
        dyno.common_standard([raw, untold], Standard.DIN_70020)
    assert dyno.common_standard([untold, untold], Standard.DIN_70020) is Standard.SAE_J1349
    with pytest.raises(OutOfRangeError, match="boosted"):
        dyno.common_standard([replace(sae, boosted=True)])
    assert dyno.common_standard([replace(raw, boosted=True)], Standard.DIN_70020) is Standard.NONE
    assert outside_of(Standard.ISO_1585, 1.08)
    assert not outside_of(Standard.ISO_1585, 1.02)
    assert set(FORMULAS) == set(Standard)


def test_inertia_taken_off_is_no_power() -> None:
    """18.7: 0.1 kg m2 at 110 rad/s gathering 12 rad/s2 is 132 W that the dyno would show as gained."""
    run = Run(name="a", speed=np.full(20, 110.0 / (2 * math.pi)) + np.linspace(-9, 9, 20), power=np.full(20, 5000.0))
    light = replace(run, taken_off=0.1, gain=12.0 / (2 * math.pi))
    shown = dyno.brought_to(run, Standard.NONE).power - dyno.brought_to(light, Standard.NONE).power
    assert float(np.interp(110.0 / (2 * math.pi), dyno.binned(run).speed, shown)) == pytest.approx(132.0)


def test_runs_that_differ_are_named() -> None:
    one = Run(name="a", speed=RPM / 60, power=P0, made_on=(("gear", "4th"), ("dyno", "drum")))
    two = replace(one, made_on=(("gear", "3rd"), ("dyno", "drum")))
    assert dyno.differences([one, two]) == ("gear: 3rd, 4th",)
    assert dyno.differences([one, one]) == ()


def test_short_runs_are_refused() -> None:
    with pytest.raises(OutOfRangeError, match="points"):
        dyno.binned(Run(name="a", speed=RPM[:3], power=P0[:3]))
    with pytest.raises(OutOfRangeError, match="rpm"):
        dyno.binned(Run(name="a", speed=np.linspace(100, 101, 50), power=np.full(50, 1e4)))


def hinge(seed: int, loss: float) -> float_tale.LossFound:
    draw = np.random.default_rng(seed)
    speed = np.arange(6000.0, 11001.0, 100.0) / 60
    quotient = (1.0 - loss / 1000.0 * 60 * np.maximum(speed - 8500 / 60, 0.0)) * (1.0 + 0.005 * draw.standard_normal(len(speed)))
    found = float_tale.onset_of_loss(speed, quotient * 50.0, np.full(len(speed), 50.0), 0.005)
    assert found is not None
    return found


@pytest.mark.slow
def test_onset_of_a_gradual_loss() -> None:
    """18.10: 4 % per 1,000 rpm from 8,500 at 0.5 % noise: within 75 rpm (one sigma), covered in 96 of 100."""
    found = [hinge(seed, 0.04) for seed in range(120)]
    assert 60 * np.mean([each.onset for each in found]) == pytest.approx(8503, abs=30)
    assert 60 * np.std([each.onset for each in found]) < 90
    assert np.mean([each.low <= 8500 / 60 <= each.high for each in found]) > 0.9
    assert all(each.told for each in found)


@pytest.mark.slow
def test_no_float_is_spoken_of_where_there_is_none() -> None:
    found = [hinge(seed, 0.0) for seed in range(200)]
    assert np.percentile([each.evidence for each in found], 95) < 6.0
    assert not any(each.told for each in found)


@pytest.mark.slow
def test_a_simulated_engine_that_floats_against_one_that_does_not() -> None:
    """The whole way from samples to the tale: two runs of one stand-in, 16 of 20 within 150 rpm."""
    hits = 0
    for seed in range(20):
        plan = dyno_bench.DynoPlan(floats=175.0, loss=0.004)
        curves = [
            dyno.binned(Run(name="r", speed=made.speed, power=made.power))
            for made in (dyno_bench.run(plan, seed), dyno_bench.run(replace(plan, floats=0.0), seed + 100))
        ]
        low, high = max(c.speed[0] for c in curves), min(c.speed[-1] for c in curves)
        grid = curves[0].speed[(curves[0].speed >= max(low, 110.0)) & (curves[0].speed <= high)]
        after, before = (np.interp(grid, c.speed, c.torque) for c in curves)
        found = float_tale.onset_of_loss(grid, after, before)
        assert found is not None
        hits += found.told and abs(found.onset - 175.0) * 60 < 150
    assert hits >= 16


def test_power_on_the_road_is_what_went_in() -> None:
    """A simulated pull of constant power, with drag, rolling and slope: given back within 1.5 %; 18.8's arithmetic inside."""
    vehicle = road.Vehicle(mass=250.0, turning=9.0, drag_area=0.32, rolling=0.015, density=1.18, slope=0.01)
    step, speed, power = 0.001, 12.0, 30e3
    speeds = []
    for _ in range(8000):
        speeds.append(speed)
        resist = 0.5 * 1.18 * 0.32 * speed**2 + 250 * 9.80665 * (0.015 * math.cos(math.atan(0.01)) + math.sin(math.atan(0.01)))
        speed += (power / speed - resist) / 259.0 * step
    told = road.power_at_wheel(np.arange(80) * 0.1, np.array(speeds)[::100], vehicle)
    assert told[8:-8] == pytest.approx(np.full(64, power), rel=0.015)
    assert road.doubt_of_run(both_ways=False) == pytest.approx(0.0358, abs=0.002)
    assert road.doubt_of_run(both_ways=True) < 0.6 * road.doubt_of_run(both_ways=False)
    assert road.density_of(101325.0, 288.15) == pytest.approx(1.225, rel=1e-3)
    assert road.crank_speed(np.array([30.0]), 1.86, 9.4)[0] == pytest.approx(30 / 1.86 * 9.4)
    with pytest.raises(OutOfRangeError):
        road.power_at_wheel(np.arange(5.0), np.arange(5.0), vehicle)


DIALECTS = {
    "comma": "Time (s),Engine Speed (rpm),Torque (Nm)\n0.0,6000,50.5\n0.1,6100,51\n0.2,6200,51.5\n",
    "semicolon and decimal comma": "Zeit;rpm;torque (Nm)\n0,0;6000;50,5\n0,1;6100;51\n0,2;6200;51,5\n".replace("Zeit", "time"),
    "tab": "time\trpm\ttorque\n0.0\t6000\t50.5\n0.1\t6100\t51\n0.2\t6200\t51.5\n",
    "thousands": 'time,rpm,torque\n0.0,"6,000.0",50.5\n0.1,"6,100.0",51\n0.2,"6,200.0",51.5\n',
    "lines before the heading": "A run of the afternoon\n\ntime;rpm;torque\n0.0;6000;50.5\n0.1;6100;51\n0.2;6200;51.5\n",
}


@pytest.mark.parametrize("dialect", DIALECTS)
def test_files_as_people_have_them(dialect: str) -> None:
    raw = DIALECTS[dialect].encode()
    seen = run_table.preview(raw)
    assert seen.rows == 3
    table = run_table.read(raw, seen.columns, seen.units)
    assert table.columns["time"] == pytest.approx([0.0, 0.1, 0.2])
    assert table.columns["rpm"] * 60 == pytest.approx([6000, 6100, 6200])
    assert table.columns["torque"] == pytest.approx([50.5, 51.0, 51.5])


def test_units_are_read_off_the_headings() -> None:
    seen = run_table.preview(b"t [ms];n (x1000 rpm);P [PS];GPS speed mph;AFR\n0;6.0;60;50;13.2\n10;6.1;61;51;13.1\n")
    assert (
        seen.units == {"time": "ms", "rpm": "x1000 rpm", "power": "PS", "road": "mph", "lambda": "AFR (petrol)"}
        or "rpm" not in seen.columns
    )
    table = run_table.read(b"0;6.0\n10;6.1\n20;6.2\n", {"time": 0, "rpm": 1}, {"time": "ms", "rpm": "x1000 rpm"})
    assert table.columns["rpm"] * 60 == pytest.approx([6000, 6100, 6200])
    assert table.columns["time"] == pytest.approx([0, 0.01, 0.02])


ROWS = "".join(f"{number / 10},{6000 + number},50\n" for number in range(100))
WRONG = {
    "": ({}, "empty"),
    "time,rpm\n": ({}, "Fewer than two"),
    "time,rpm,torque\n" + ROWS.replace("0.5,", "9.5,", 1): ({"time": 0, "rpm": 1}, "runs back"),
    "time,rpm,torque\n" + "0.1,6000,50\n" * 40: ({"time": 0, "rpm": 1}, "stands still"),
    "time,rpm,torque\n" + ROWS.replace(",50", ",?"): ({"time": 0, "torque": 2}, "no number"),
    "time,rpm,torque\n" + ROWS.replace("6001", ""): ({"time": 0, "rpm": 7}, "the file has 3"),
    "time,rpm,torque\n" + ROWS + "1,2": ({"time": 0, "rpm": 0}, "two things"),
}


@pytest.mark.parametrize("text", WRONG, ids=[says for _, says in WRONG.values()])
def test_bad_files_are_named(text: str) -> None:
    columns, says = WRONG[text]
    with pytest.raises(BuildFileError, match=says):  # noqa: PT012 what is no table at all is refused by the preview already
        run_table.preview(text.encode())
        run_table.read(text.encode(), columns, {})


def test_a_few_bad_rows_are_left_out_and_named() -> None:
    text = "time,rpm,torque\n" + ROWS.replace("0.7,6007,50", "0.7,,50").replace("0.9,6009,50", "0.8,6009,50")
    table = run_table.read(text.encode(), {"time": 0, "rpm": 1}, {})
    assert [row for row, _ in table.left_out] == [9, 11]
    assert "missing" in table.left_out[0][1]
    assert "same time" in table.left_out[1][1]
    assert table.rows == 98
    with pytest.raises(BuildFileError, match="torque"):
        run_table.read(text.encode(), {"time": 0}, {}, needed=("torque",))
    with pytest.raises(BuildFileError, match="no unit"):
        run_table.read(text.encode(), {"time": 0}, {"time": "fortnight"})


def test_fifty_thousand_rows_are_quick_and_tell_how_far() -> None:
    made = dyno_bench.DynoRun(time=np.arange(50_000) * 0.01, speed=np.linspace(60, 200, 50_000), torque=np.full(50_000, 50.0))
    raw = run_table.write({"time": made.time, "rpm": made.speed, "torque": made.torque}).encode()
    heard: list[float] = []
    begun = time.process_time()
    seen = run_table.preview(raw)
    table = run_table.read(raw, seen.columns, seen.units, told=heard.append)
    assert time.process_time() - begun < 2.0
    assert table.rows == 50_000
    assert heard[-1] == 1.0
    assert heard == sorted(heard)
    assert table.columns["rpm"] == pytest.approx(made.speed, rel=1e-5)


@settings(max_examples=150, deadline=None)
@given(st.one_of(st.binary(max_size=300), st.text(alphabet='0123456789,.;\t\n"-eE timerp', max_size=300).map(str.encode)))
def test_no_file_breaks_the_reader(raw: bytes) -> None:
    with contextlib.suppress(BuildFileError):  # nothing else may come out of it
        seen = run_table.preview(raw)
        table = run_table.read(raw, seen.columns or {"time": 0}, seen.units)
        assert all(np.isfinite(column).all() for column in table.columns.values())


def test_both_ways_take_slope_and_wind_out() -> None:
    """A pull up a slope and one down it differ by twice what the slope takes; their mean is the level road's, and surer than either."""
    speed = np.linspace(80.0, 150.0, 60)
    level = 40e3 * speed / 150.0
    slope = 2e3 * speed / 150.0
    ways = [
        dyno.Curve(name=name, speed=speed, power=level + sign * slope, noise=0.036 * level, factor=1.0, standard=Standard.NONE, samples=400)
        for name, sign in (("out", -1.0), ("back", 1.0))
    ]
    single, both = (road.doubt_of_run(both_ways=each) for each in (False, True))
    mean = dyno.both_ways(*ways, single, both)
    assert mean.power == pytest.approx(level)
    assert mean.noise == pytest.approx(both * level)
    assert mean.samples == 800
    rough = dyno.both_ways(replace(ways[0], noise=0.2 * level), ways[1], single, both)
    assert (rough.noise > 0.09 * level).all()  # what scatters more than a road pull does is not made finer than it is
    with pytest.raises(OutOfRangeError):
        dyno.both_ways(ways[0], replace(ways[1], speed=speed + 100.0), single, both)
