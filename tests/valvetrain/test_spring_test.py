"""Spring tester logs: the text, the fit, the set, the claim, and the simulated tester with its hidden truth."""

import numpy as np
import pytest

from valvetrain.errors import BuildFileError, ContradictionError
from valvetrain.formats import spring_log
from valvetrain.parts.figure import Basis, Figure
from valvetrain.simulators.spring_tester import SpringTesterStandIn
from valvetrain.studies.springs.spring_test import SpringFit, claim_of, fit_spring, read_set, weigh_claim
from valvetrain.units import QuantityKind, UnitSystem, told

MM = 1e-3


def _line(free: float, rate: float, heights: list[float], bend: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
    h = np.array(heights) * MM
    x = free * MM - h
    return h, rate * x + bend * x * x


def test_straight_spring_is_found_exactly() -> None:
    fit = fit_spring("1", *_line(44.0, 27432.0, [40, 38, 36, 34, 32, 30]))
    assert fit.rate.value == pytest.approx(27432.0)
    assert not fit.progressive
    assert fit.free == pytest.approx(44.0 * MM)
    assert fit.load_at(36 * MM).value == pytest.approx(27432.0 * 8e-3)
    assert fit.solid is None
    assert fit.rate.basis is Basis.MEASURED


def test_seat_and_one_millimetre_further_as_the_trade_compares_springs() -> None:
    # common practice, no source: 60 at the seat and 69.5 one millimetre further against 30 and 37 (lbf): rates of 9.5 and 7 lbf/mm
    strong = fit_spring("new", np.array([30.0, 29.0]) * MM, np.array([60.0, 69.5]) * 4.4482216)
    weak = fit_spring("old", np.array([30.0, 29.0]) * MM, np.array([30.0, 37.0]) * 4.4482216)
    assert strong.rate.value / 4448.2216 == pytest.approx(9.5)
    assert weak.rate.value / strong.rate.value == pytest.approx(7.0 / 9.5)
    assert strong.rate.spread > 0.03 * strong.rate.value  # two heights a millimetre apart tell a rate badly


def test_rising_rate_is_told_from_noise() -> None:
    random = np.random.default_rng(3)
    heights = list(np.arange(40.0, 27.5, -1.0))
    h, f = _line(44.0, 24000.0, heights, bend=4e5)
    bent = fit_spring("bent", h, f + random.normal(0, 1.0, len(h)))
    assert bent.progressive
    assert bent.bend.value == pytest.approx(4e5, rel=0.1)
    assert bent.load_at(30 * MM).value == pytest.approx(24000 * 14e-3 + 4e5 * 14e-3**2, rel=0.01)
    h, f = _line(44.0, 27000.0, heights)
    straight = sum(fit_spring("s", h, f + np.random.default_rng(seed).normal(0, 1.0, len(h))).progressive for seed in range(40))
    assert straight <= 1


def test_coil_bind_in_the_log_ends_the_line_and_gives_the_solid_height() -> None:
    h, f = _line(44.0, 27000.0, [40, 38, 36, 34, 32, 30, 28, 27, 26.5, 26.2])
    f = f + np.maximum(27.0 * MM - h, 0.0) * 1.2e6
    fit = fit_spring("1", h, f)
    assert fit.solid
    assert fit.solid.value == pytest.approx(27.0 * MM, abs=max(fit.solid.spread, 0.1 * MM))
    assert list(fit.bound) == [False] * 8 + [True] * 2
    assert fit.rate.value == pytest.approx(27000.0, rel=1e-6)


@pytest.mark.parametrize(
    "heights, loads, words",
    [
        ([36.0], [200.0], "two heights or more"),
        ([36.0, 36.0], [200.0, 201.0], "two heights or more"),
        ([36.0, 32.0, 28.0], [200.0, 180.0, 300.0], "from 36.00 to 32.00 mm the load falls from 200 to 180 N"),
        ([36.0, 32.0], [-5.0, 100.0], "below zero"),
        ([50.0, 48.0], [0.0, 0.0], "below its free length"),
    ],
)
def test_nonsense_is_told_with_where_and_what(heights: list[float], loads: list[float], words: str) -> None:
    with pytest.raises(ContradictionError, match=words):
        fit_spring("7", np.array(heights) * MM, np.array(loads))


def test_a_set_names_the_weak_the_short_the_crooked_and_the_bound() -> None:
    heights = [37, 35, 33, 31, 29]
    good = [fit_spring(f"{n}", *_line(41.5, 38400.0 * (1 + 0.004 * n), heights)) for n in range(3)]
    short = fit_spring("3", *_line(40.8, 38400.0, heights))
    tall_solid = fit_spring(
        "4", *[np.append(part, end) for part, end in zip(_line(41.5, 38400.0, heights), (28.7 * MM, 700.0), strict=True)]
    )
    new = good[0]
    found = read_set([*good, short, tall_solid], 37.2 * MM, 9.0 * MM, new=new, leans={"1": 2.2 * MM})
    said = {each.fit.name: " ".join(each.wrong) for each in found.springs}
    assert said["0"] == ""
    assert "out of square: leans 2.2 mm" in told(said["1"])
    assert "below its set" in said["3"]
    assert "has lost 16% of its load" in said["3"]
    assert "0.7 mm shorter than new" in told(said["3"])
    assert "is solid at" in said["4"]
    assert found.springs[4].opened is None
    assert found.half_range == pytest.approx(0.7e-3 * 38400 / 2, rel=0.1)
    assert found.figures["load"].value == pytest.approx(found.seat)
    assert found.figures["load"].spread > found.half_range * 0.5
    assert found.figures["load_height"].value == 37.2 * MM


def test_installed_above_the_free_length_is_refused() -> None:
    fit = fit_spring("2", *_line(36.0, 30000.0, [34, 32, 30]))
    with pytest.raises(ContradictionError, match=r"installed height of 37.2 mm is above its free length of 36.0 mm"):
        read_set([fit], 37.2 * MM, 8 * MM)


def test_log_with_a_heading_in_inch_units_and_names() -> None:
    found = spring_log.read("Spring,Height (in),Load (lbf)\nA,1.450,40\nA,1.250,66\nB,1.450,41\nB,1.250,67\n")
    assert [one.name for one in found] == ["A", "B"]
    assert found[0].height[0] == pytest.approx(1.45 * 25.4e-3)
    assert found[0].load[0] == pytest.approx(40 * 4.4482216)
    fit = fit_spring("A", found[0].height, found[0].load)
    assert fit.rate.value == pytest.approx(130 * 175.126835)  # lbf/in


def test_bare_columns_take_the_persons_units_and_typed_units_win() -> None:
    metric = spring_log.read("37,2;178\n33,2;330\n")
    assert metric[0].height[0] == pytest.approx(37.2e-3)
    inch = spring_log.read("1.45 40\n1.25 66\n", system=UnitSystem.INCH)
    assert inch[0].load[1] == pytest.approx(66 * 4.4482216)
    typed = spring_log.read("37.2 mm;18 lb\n33.2 mm;30 lb\n")
    assert typed[0].load[0] == pytest.approx(18 * 4.4482216)


@pytest.mark.parametrize(
    "text, words",
    [
        ("", "empty"),
        ("height;load\n", "empty"),
        ("37.2;178\n33.2;x\n", "Row 2, column 2"),
        ("37.2;178\n33.2\n30;300\n", "Row 2 has 1 column"),
        ("a;b\n1;2\n", "do not name height and load"),
        ("37.2;178\n33;nan\n", "is not a number"),
    ],
)
def test_wrong_logs_name_the_place(text: str, words: str) -> None:
    with pytest.raises(BuildFileError, match=words):
        spring_log.read(text)


@pytest.mark.parametrize("seed", range(12))
def test_simulated_tester_is_seen_through(seed: int) -> None:
    tester = SpringTesterStandIn(seed)
    log = spring_log.read(spring_log.write(tester.readings(tester.count)))
    fits = [fit_spring(one.name, one.height, one.load) for one in log]
    for fit, true in zip(fits, tester.truth, strict=True):
        x = true.free - 34e-3
        wanted = x * (true.rate + true.bend * x)
        assert fit.load_at(34e-3).value == pytest.approx(wanted, abs=fit.load_at(34e-3).spread + 0.005 * wanted)
        assert fit.solid
        assert fit.solid.value == pytest.approx(true.solid, abs=0.35e-3)
        assert fit.progressive == (true.bend > 0.0)
    told = read_set(fits, 36e-3, 6e-3)
    weak = min(range(4), key=lambda n: tester.truth[n].free)
    assert [n for n, each in enumerate(told.springs) if "below its set" in " ".join(each.wrong)] == [weak]


def test_tester_gives_readings_as_they_come() -> None:
    tester = SpringTesterStandIn(5)
    few = tester.readings(15)
    assert [len(one.height) for one in few] == [13, 2]
    assert np.array_equal(few[0].load, tester.readings(tester.count)[0].load)
    assert tester.readings(0) == ()


@pytest.mark.parametrize(
    "words, kind, value",
    [
        ("12,000-rpm springs", QuantityKind.SPEED, 200.0),
        ("18 lb", QuantityKind.FORCE, 18 * 4.4482216152605),
        ("rated 200 lb/in", QuantityKind.RATE, 200 * 175.12683524647636),
        ("80 N seat", QuantityKind.FORCE, 80.0),
        ("38,4 N/mm", QuantityKind.RATE, 38400.0),
    ],
)
def test_claims_are_read_from_the_packet(words: str, kind: QuantityKind, value: float) -> None:
    claim = claim_of(words)
    assert claim
    assert (claim.kind, claim.value) == (kind, pytest.approx(value))


def test_claims_stand_or_fall_beside_the_measured_truth() -> None:
    assert claim_of("a dab of red paint") is None
    seat, rate = Figure(70.0, 3.0, Basis.MEASURED), Figure(9e3, 300.0, Basis.MEASURED)
    pounds, rpm = claim_of("18 lb"), claim_of("12,000 rpm")
    assert pounds
    assert rpm
    assert "13% less" in weigh_claim(pounds, seat, rate, 180.0, 5.0)
    assert "the claim stands" in weigh_claim(pounds, Figure(81.0, 3.0), rate, 180.0, 5.0)
    assert "holds 10,800 rpm, 10% less" in weigh_claim(rpm, seat, rate, 180.0, 5.0)


def test_reading_more_heights_narrows_the_rate() -> None:
    def rate(count: int) -> SpringFit:
        heights = list(np.linspace(38, 29, count))
        h, f = _line(44.0, 27000.0, heights)
        return fit_spring("1", h, f + np.random.default_rng(1).normal(0, 1.5, count))

    assert rate(16).rate.spread < rate(4).rate.spread
