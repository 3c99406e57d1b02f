"""Measuring plan, trend over hours, the warm engine, and small sums of the Lash station."""

import math
import random
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from scipy.optimize import brentq

from tests.valvetrain.builders import known_build
from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.formulas.clearances import chance_of_reaching
from valvetrain.formulas.thermal import growth, reading_shift, warm_clearance
from valvetrain.parts.engine import Side, ValvePosition
from valvetrain.parts.figure import Figure
from valvetrain.simulators.feeler import read_again, read_valve
from valvetrain.studies.clearance.clearance_trend import SheetReading, trend, true_wear
from valvetrain.studies.clearance.hours_left import Passage, hours_left
from valvetrain.studies.clearance.measuring_plan import USUAL_ORDERS, Window, plan_stops, read_firing, rest_window
from valvetrain.studies.clearance.shim_plan import ClearanceLimits, exchanged, from_blades, grind_passes
from valvetrain.studies.clearance.warm_clearance import expansion, materials, reads_larger, usual_case, warm_hint
from valvetrain.studies.train.assembly import complete
from valvetrain.units import told

TRAINS = complete(known_build()).proposed.sides
LIMITS = ClearanceLimits(0.13e-3, 0.20e-3)


def _places(cylinders: int) -> tuple[ValvePosition, ...]:
    return tuple(ValvePosition(f"{'IN' if side is Side.INTAKE else 'EX'} {n}", side, n) for side in Side for n in range(1, cylinders + 1))


# As manuals print them, worked by hand from the firing order: at TDC of compression both valves of that cylinder rest; of the cylinder that
# fires next (180 or 240 degrees later) the intake rests no more than its compression; the one that fired last still has its exhaust shut.
BY_HAND = {
    1: [{"IN 1", "EX 1"}],
    2: [{"IN 1", "EX 1"}, {"IN 2", "EX 2"}],
    3: [{"IN 1", "EX 1", "EX 3", "IN 2"}, {"IN 3", "EX 2"}],
    4: [{"IN 1", "EX 1", "IN 2", "EX 3"}, {"IN 4", "EX 4", "IN 3", "EX 2"}],
    6: [{"IN 1", "EX 1", "IN 2", "IN 4", "EX 3", "EX 5"}, {"IN 6", "EX 6", "IN 3", "IN 5", "EX 2", "EX 4"}],
}


@pytest.mark.parametrize("cylinders", BY_HAND)
def test_stops_are_those_of_the_manuals(cylinders: int) -> None:
    plan = plan_stops(TRAINS, _places(cylinders), read_firing(USUAL_ORDERS[cylinders], cylinders))
    assert [set(stop.valves) for stop in plan.stops] == BY_HAND[cylinders]
    assert plan.stops[0].cylinder == 1  # the first mark a person looks for
    assert all(stop.turn >= 0.0 for stop in plan.stops)


@pytest.mark.parametrize("cylinders", range(1, 7))
def test_every_valve_sits_on_its_base_circle_at_its_stop(cylinders: int) -> None:
    """The lift itself is asked at each stop and 14 degrees to either side: nothing."""
    firing = read_firing(USUAL_ORDERS[cylinders], cylinders)
    plan = plan_stops(TRAINS, _places(cylinders), firing)
    assert sorted(valve for stop in plan.stops for valve in stop.valves) == sorted(place.name for place in _places(cylinders))
    for stop in plan.stops:
        for valve in stop.valves:
            side = Side.INTAKE if valve.startswith("IN") else Side.EXHAUST
            centre = math.degrees(TRAINS[side].lobe_centre.value) * (1 if side is Side.INTAKE else -1)
            for off in (-14.0, 0.0, 14.0):
                from_overlap = (stop.angle + off - firing.at[int(valve[3:])] - 360.0 + 360.0) % 720.0 - 360.0
                cam = math.radians((from_overlap - centre) / 2.0)
                assert TRAINS[side].curve.lift_at(np.array([cam, cam - math.pi * 2, cam + math.pi * 2])).max() < 1e-6


def test_fewest_stops_by_trying_every_pair_of_degrees() -> None:
    """Five cylinders: no single place in whole degrees shows all ten valves their base circle, so two stops are the fewest."""
    firing = read_firing(USUAL_ORDERS[5], 5)
    windows = [rest_window(TRAINS[place.side], place.name, firing.at[place.cylinder]) for place in _places(5)]
    assert not any(all(window.holds(float(angle)) for window in windows) for angle in range(720))
    assert len(plan_stops(TRAINS, _places(5), firing).stops) == 2


def test_uneven_cranks_are_told_with_their_angles() -> None:
    """A twin with a 180 degree crank: the second fires after 180 degrees, then 540 of nothing."""
    firing = read_firing("1@0 2@180", 2)
    assert firing.order == (1, 2)
    assert firing.at == {1: 0.0, 2: 180.0}
    plan = plan_stops(TRAINS, _places(2), firing)
    assert {valve for stop in plan.stops for valve in stop.valves} == {"IN 1", "EX 1", "IN 2", "EX 2"}
    assert read_firing("2@90 1@360", 2).at == {2: 0.0, 1: 270.0}


@pytest.mark.parametrize(
    ("text", "words"),
    [("1-2-2", "twice"), ("1-3", "missing 2"), ("one-two", "not a firing order"), ("1@x", "compression TDC"), ("", "missing")],
)
def test_firing_orders_that_cannot_be(text: str, words: str) -> None:
    with pytest.raises(ContradictionError, match=words):
        read_firing(text, 2)


def test_windows_wrap_round_the_cycle() -> None:
    window = Window("V", 650.0, 200.0)
    assert window.holds(700.0)
    assert window.holds(100.0)
    assert not window.holds(200.0)


def _sheets(rate: float, hours: list[float], noise: float = 0.0, settings: list[float] | None = None) -> list[SheetReading]:
    """A valve that moves by `rate` mm/h and is set to `settings` mm at each sheet."""
    source, rows, left, last = random.Random(3), [], 0.17, hours[0]  # noqa: S311  (test data)
    for number, at in enumerate(hours):
        found = left + rate * (at - last) + source.gauss(0.0, noise)
        left = settings[number] if settings else found
        rows.append(SheetReading(at, found * 1e-3, left * 1e-3, 0.01e-3))
        last = at
    return rows


def test_wear_is_found_again_through_every_setting() -> None:
    """A seat that recedes 0.002 mm/h, re-shimmed on every sheet: the raw readings jump about, the wear does not."""
    hours = [0.0, 8.0, 21.0, 30.0, 44.0, 60.0]
    rows = _sheets(-0.002, hours, settings=[0.17, 0.19, 0.16, 0.18, 0.17, 0.17])
    at, wear = true_wear(rows)
    assert wear * 1e3 == pytest.approx(-0.002 * at, abs=1e-9)
    found = trend("IN 1", rows, LIMITS)
    assert found.rate * 1e3 == pytest.approx(-0.002)
    assert found.limit_hours == pytest.approx((0.17 - 0.13) / 0.002, rel=0.06)  # other courses of wear pull a little
    assert found.limit_least is not None
    assert found.limit_least < found.limit_hours
    assert found.next_check == pytest.approx(found.limit_least / 2)
    assert "closes by 0.020 mm in 10 h: the seat recedes" in told(found.words[-1])
    assert "closes" in told(found.words[-1])


def test_band_holds_the_true_rate_under_noise() -> None:
    """Forty valves read with blades 0.016 mm apart on uneven hours, set on each sheet: the band holds the true rate in nine of ten or more."""
    held = 0
    for seed in range(40):
        source = np.random.default_rng(seed)
        hours = np.cumsum(source.uniform(3, 15, 9))
        wear = -0.0015 * (hours - hours[0])
        rows = [
            SheetReading(
                float(h), (0.17 + w + source.uniform(-0.008, 0.008)) * 1e-3, (0.17 + w + source.uniform(-0.008, 0.008)) * 1e-3, 0.008e-3
            )
            for h, w in zip(hours, wear, strict=True)
        ]
        low, high = trend("V", rows, LIMITS).band
        held += low * 1e3 <= -0.0015 <= high * 1e3
    assert held >= 36
    # and it is not so wide that it says nothing: the rate itself is resolved within its own size
    assert trend("V", rows, LIMITS).band[1] < 0.0015e-3


def test_a_step_is_called_out_at_once() -> None:
    rows = _sheets(0.0, [0.0, 10.0, 20.0])
    rows.append(SheetReading(24.0, rows[-1].left - 0.06e-3, 0.17e-3, 0.01e-3))
    found = trend("IN 2", rows, LIMITS)
    assert told(found.words[0]) == "Closed 0.06 mm in 4 h: look at once at the seat and face."
    assert [round(step.amount * 1e3, 2) for step in found.steps] == [-0.06]
    assert found.next_check == 0.0
    later = trend("IN 2", [*rows, SheetReading(40.0, 0.17e-3, 0.17e-3, 0.01e-3)], LIMITS)
    assert later.next_check  # looked at since, and quiet


def test_titanium_is_replaced_by_drift_or_by_hours() -> None:
    drifted = trend("IN 1", _sheets(-0.004, [0.0, 15.0, 30.0, 40.0]), LIMITS, titanium=True)
    assert any("coating is through" in words for words in drifted.words)
    assert drifted.next_check == 0.0
    aged = trend("IN 1", _sheets(0.0, [0.0, 30.0, 61.0]), LIMITS, titanium=True)
    assert any("replace it by the hours" in words for words in aged.words)
    young = trend("IN 1", _sheets(0.0, [0.0, 20.0]), LIMITS, titanium=True)
    assert any("40 h left of 60" in words for words in young.words)


def test_a_new_valve_begins_anew() -> None:
    """Sunk 0.16 mm in 40 h, then a new valve that keeps its clearance: neither the old rate nor the old drift nor the old hours are its."""
    rows = _sheets(-0.004, [0.0, 15.0, 30.0, 40.0])
    rows[-1] = replace(rows[-1], left=0.17e-3, renewed=True)
    rows += [SheetReading(h, 0.17e-3, 0.17e-3, 0.01e-3) for h in (50.0, 62.0)]
    found = trend("IN 1", rows, LIMITS, titanium=True)
    assert found.hours == (40.0, 50.0, 62.0)
    assert found.rate == pytest.approx(0.0)
    assert found.steps == ()
    assert "Titanium, 22 h old: 38 h left of 60, 0.12 mm of drift." in [told(word) for word in found.words]
    assert "New valve at 40 h: counted from there." in found.words
    alone = trend("IN 1", rows[:4], LIMITS, titanium=True)
    assert alone.words[0] == "New valve at 40 h: counted from there."
    assert "Titanium, 0 h old" in alone.words[-1]


def test_untold_age_of_titanium_is_that_of_the_engine() -> None:
    """Sheets begin at 45 h; nobody told that the valve is younger: it may be 65 h old."""
    for hours in ([45.0, 65.0], [65.0]):
        assert trend("IN 1", _sheets(0.0, hours), LIMITS, titanium=True, interval=30.0).next_check == 0.0
    words = trend("IN 1", _sheets(0.0, [45.0, 65.0]), LIMITS, titanium=True).words
    assert any("with up to 65 h: replace it by the hours" in each and "mark the sheet on which it was new" in each for each in words)


@pytest.mark.parametrize(("left", "words"), [(0.12, "below"), (0.21, "over")])
def test_what_was_left_outside_its_limits_is_due_now(left: float, words: str) -> None:
    rows = [SheetReading(0.0, left * 1e-3, left * 1e-3, 0.01e-3), SheetReading(9.0, left * 1e-3, left * 1e-3, 0.01e-3)]
    for some in (rows, rows[:1]):
        found = trend("V", some, LIMITS, interval=30.0)
        assert found.next_check == 0.0
        assert found.words[0] == f"Left {words} its limits: set it now."
    inside = [replace(row, found=0.16e-3, left=0.16e-3) for row in rows]
    assert trend("V", inside[:1], LIMITS, interval=30.0).next_check == 30.0
    assert trend("V", inside[:1], LIMITS).next_check is None


def test_one_sheet_or_no_order_of_hours() -> None:
    assert "no trend" in trend("V", _sheets(0.0, [5.0]), LIMITS).words[0]
    with pytest.raises(OutOfRangeError, match="must grow"):
        trend("V", _sheets(0.0, [5.0, 5.0]), LIMITS)
    with pytest.raises(OutOfRangeError, match="needs a sheet"):
        trend("V", [], LIMITS)


def test_warm_exhaust_and_intake() -> None:
    """METHODS 8.1 and 8.2: 0.22 becomes 0.1066809 mm (change -0.1133191), 0.15 becomes 0.1750004 mm."""
    head = growth(np.array([92e-3]), np.array([21.8e-6]), np.array([85.0]))
    chain = growth(np.array([30e-3, 44.78e-3, 17e-3]), np.array([18.5e-6, 17.0e-6, 11.7e-6]), np.array([330.0, 110.0, 85.0]))
    assert (head * 1e3, chain * 1e3) == pytest.approx((0.170476, 0.2837951), rel=1e-6)
    assert warm_clearance(0.22e-3, head, chain) * 1e3 == pytest.approx(0.1066809, rel=1e-6)
    head = growth(np.array([92e-3]), np.array([21.8e-6]), np.array([80.0]))
    chain = growth(np.array([30e-3, 44.85e-3, 17e-3]), np.array([11.5e-6, 11.2e-6, 11.7e-6]), np.array([230.0, 80.0, 80.0]))
    assert warm_clearance(0.15e-3, head, chain) * 1e3 == pytest.approx(0.1750004, rel=1e-6)


def test_one_material_everywhere_only_scales_the_gap() -> None:
    """METHODS 8.3: 0.0001404 mm; a titanium valve instead of steel adds 0.0125664 mm at 60 K."""
    one = 11.7e-6
    change = growth(np.array([92e-3]), np.array([one]), np.array([60.0])) - growth(np.array([91.8e-3]), np.array([one]), np.array([60.0]))
    assert change * 1e3 == pytest.approx(0.0001404, rel=1e-6)
    titanium = growth(np.array([74.8e-3]), np.array([one]), np.array([60.0])) - growth(
        np.array([74.8e-3]), np.array([8.9e-6]), np.array([60.0])
    )
    assert titanium * 1e3 == pytest.approx(0.0125664, rel=1e-6)


def test_measuring_a_lukewarm_engine() -> None:
    """METHODS 8.5: 15 K over 92 mm read 0.013938 mm more."""
    assert reading_shift(92e-3, 21.8e-6, 11.7e-6, 15.0) * 1e3 == pytest.approx(0.013938, rel=1e-6)
    assert reads_larger(92e-3, 308.15) * 1e3 == pytest.approx(0.0139, abs=0.0005)


def test_table_of_expansion() -> None:
    """METHODS 8.4, from memory: Ti-6Al-4V 8.6, cast aluminium 21.5 to 100 degC."""
    assert expansion("titanium 6-4", 373.15).value == pytest.approx(8.6e-6)
    assert expansion("aluminium head", 373.15).value == pytest.approx(21.5e-6)
    assert "titanium 6-4" in materials("valve")
    with pytest.raises(OutOfRangeError, match="not in the table"):
        expansion("wood", 300.0)


def test_the_hint_has_a_sign_and_a_spread() -> None:
    """PRACTICE and METHODS 8: intakes usually open a little, hot exhausts close; titanium opens against steel."""
    intake = warm_hint(usual_case(Side.INTAKE, Figure(0.17e-3), 15e-3))
    exhaust = warm_hint(usual_case(Side.EXHAUST, Figure(0.25e-3), 15e-3))
    assert intake.change > 0.0 > exhaust.change
    assert exhaust.warm == pytest.approx(0.25e-3 + exhaust.change)
    assert 0.02e-3 < exhaust.spread < 0.15e-3
    titanium = warm_hint(usual_case(Side.INTAKE, Figure(0.17e-3), 15e-3, valve="titanium 6-4"))
    assert titanium.change > intake.change
    known = warm_hint(usual_case(Side.INTAKE, Figure(0.17e-3), 15e-3, head_length=92e-3))
    assert known.spread < intake.spread


def test_several_blades_and_small_steps() -> None:
    assert from_blades([0.20e-3, 0.22e-3], 0.01e-3) == pytest.approx((0.20e-3, 0.22e-3))
    assert from_blades([0.21e-3], 0.01e-3) == pytest.approx((0.20e-3, 0.22e-3))
    with pytest.raises(OutOfRangeError):
        from_blades([], 0.01e-3)
    passes = grind_passes(0.20e-3)
    assert sum(passes) == pytest.approx(0.20e-3)
    assert all(later <= before for before, later in pairwise(passes))
    assert grind_passes(0.04e-3) == (pytest.approx(0.04e-3),)


def test_exchanged_shims_are_suspected() -> None:
    """Two valves whose shims of 2.50 and 2.60 went into one another are off by 0.10 mm, opposite ways."""
    shims = {"IN 1": 2.50e-3, "IN 2": 2.60e-3, "IN 3": 2.55e-3}
    off = {"IN 1": -0.10e-3, "IN 2": 0.10e-3, "IN 3": 0.0}
    assert exchanged(off, shims, 0.02e-3) == [("IN 1", "IN 2")]
    assert exchanged({"IN 1": -0.05e-3, "IN 2": 0.10e-3}, shims, 0.02e-3) == []


def test_simulated_feeler_is_the_same_for_the_same_engine_and_answers_to_shims() -> None:
    one, again = read_valve(7, "IN 1", 0.13e-3, 0.20e-3), read_valve(7, "IN 1", 0.13e-3, 0.20e-3)
    assert one == again
    assert one.stops - one.goes == pytest.approx(0.02e-3)
    assert one != read_valve(8, "IN 1", 0.13e-3, 0.20e-3)
    thinner = read_again(7, "IN 1", one, one.shim - 0.10e-3)
    assert thinner.goes - one.goes == pytest.approx(0.10e-3, abs=0.021e-3)
    assert any(read_valve(seed, "V", 0.13e-3, 0.2e-3).label - read_valve(seed, "V", 0.13e-3, 0.2e-3).shim > 5e-6 for seed in range(20))


def test_titanium_sinks_by_more_than_a_blade_at_the_cam_tells() -> None:
    """By hand: 0.10 mm at the blade under a finger of ratio 1.3 is 0.13 mm at the seat, beyond the 0.12 mm at which its coating is through
    (common practice, no source)."""
    sheets = [SheetReading(hours, clearance, clearance, 5e-6) for hours, clearance in ((0.0, 0.30e-3), (10.0, 0.25e-3), (20.0, 0.20e-3))]
    wide = ClearanceLimits(0.1e-3, 0.4e-3)
    assert "replace it" not in " ".join(trend("IN 1", sheets, wide, titanium=True).words)
    assert "replace it" in " ".join(trend("IN 1", sheets, wide, titanium=True, ratio=1.3).words)


def test_hours_to_a_limit_are_fiellers_interval() -> None:
    """Closed form (Fieller): a room of 60 +/- 6 um at 1 +/- 0.1 um/h (one sd) is used up after 45.26862 to 79.52529 h, with 95 %."""
    chance = lambda hours: chance_of_reaching(hours, 60e-6, 1e-6, 36e-12, 0.0, 0.01e-12)
    assert brentq(lambda h: chance(h) - 0.025, 1.0, 60.0) == pytest.approx(45.26862, abs=1e-4)
    assert brentq(lambda h: chance(h) - 0.975, 60.0, 200.0) == pytest.approx(79.52529, abs=1e-4)


def test_hours_with_the_error_of_the_present_reading() -> None:
    """Closed form: sheets 40 h apart, 0.18 then 0.14 mm, half width 0.01 mm, least 0.12 mm: s_r 0.2041241 um/h, s_gr -0.8333333 um2/h, 6.664748
    to 48.580239 h."""
    variance = (10e-6) ** 2 / 3.0
    s_rr, s_gr = 2.0 * variance / 40.0**2, -variance / 40.0
    assert math.sqrt(s_rr) == pytest.approx(0.2041241e-6, rel=1e-6)
    assert s_gr == pytest.approx(-0.8333333e-12, rel=1e-6)
    chance = lambda hours: chance_of_reaching(hours, 20e-6, 1e-6, variance, s_gr, s_rr)
    assert brentq(lambda h: chance(h) - 0.025, 0.1, 20.0) == pytest.approx(6.664748, abs=1e-4)
    assert brentq(lambda h: chance(h) - 0.975, 20.0, 200.0) == pytest.approx(48.580239, abs=1e-4)


@pytest.mark.slow
def test_hours_left_hold_the_truth_of_settling_and_steady_wear() -> None:
    """Simulated wear with a known end, three kinds of blades: the band holds the true hour in 90 of 100 (63 when today's reading is left out)."""
    random, limits = np.random.default_rng(11), ClearanceLimits(0.10e-3, 0.40e-3)
    for settling in (0.0, 2.5):
        held = []
        for _ in range(120):
            rate, tau, blade = random.uniform(0.4e-6, 1.6e-6), random.uniform(10.0, 50.0), random.choice([0.01e-3, 0.02e-3, 0.03e-3])
            worn = lambda t, r=rate, s=settling, tau=tau: r * (t + s * tau * (1.0 - np.exp(-t / tau)))
            hours = np.cumsum(random.uniform(8.0, 30.0, int(random.integers(3, 9))))
            start = random.uniform(0.22e-3, 0.36e-3)
            gaps = start - (worn(hours) - worn(hours[0]))
            if gaps[-1] <= limits.least:
                continue
            read = np.floor(gaps / blade) * blade + blade / 2.0
            sheets = [Passage(float(h), float(g), float(g), float(blade) / 2.0) for h, g in zip(hours, read, strict=True)]
            ahead = np.linspace(0.0, 4000.0, 40001)
            end = float(ahead[int(np.argmax(gaps[-1] - (worn(hours[-1] + ahead) - worn(hours[-1])) < limits.least))])
            found = hours_left(sheets, limits)
            held.append((found.least or 0.0) <= end <= (found.most or math.inf))
        assert len(held) > 60
        assert np.mean(held) >= 0.90
