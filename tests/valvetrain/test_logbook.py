"""Damage, not hours: rainflow against its standard's worked example, Miner and Basquin by the list of methods, uses out of logs, rules held against a run.

Check values: 19.1 to 19.9 of the trade's list of methods; ASTM E1049 figure 6 from memory.
"""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.valvetrain.builders import known_build
from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.coil_springs import shear_stress
from valvetrain.formulas.damage import Below, doubt_of_life, impact_energy, reliability_bound, reversed_stress, slope_exponent, turns_borne
from valvetrain.formulas.spring_fatigue import turns_to_failure
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure
from valvetrain.parts.spring import PackedSpring
from valvetrain.studies.logbook import due
from valvetrain.studies.logbook.damage import Damage, Strength, Wear, against, banded, harm, harm_of_use
from valvetrain.studies.logbook.due import After, Run, State, Unit, Whose, held, in_force, of_life, trade_rules, typed_rule
from valvetrain.studies.logbook.rainflow import Turn, joined, of_one_turn, rainflow, reversals
from valvetrain.studies.logbook.spring_use import harm_by_speed, load_turns, seat_struck, spring_harm, spring_use, strength_of_wire, used_by
from valvetrain.studies.logbook.use import BIN, PROFILES, of_log, of_profile, stretched, together
from valvetrain.studies.motion.case import motion_case
from valvetrain.studies.motion.sweep import Sweep, sweep
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.side_figures import weakest

SIDE = complete(known_build()).proposed.sides[Side.INTAKE]
SIDE_VALVE = weakest(SIDE)
ASTM = [-2.0, 1.0, -3.0, 5.0, -1.0, 3.0, -4.0, 4.0, -2.0]
WIRE = Strength(endurance=729.7662001508746e6, ultimate=1174.607753e6)
HISTOGRAM = [(520.0, 560.0, 360e3), (600.0, 580.0, 120e3), (700.0, 600.0, 20e3), (820.0, 620.0, 3e3)]


def counts(turns: list[Turn]) -> dict[float, float]:
    found: dict[float, float] = {}
    for turn in turns:
        found[turn.range] = found.get(turn.range, 0.0) + turn.count
    return found


def test_the_standards_worked_example() -> None:
    """19.1: ASTM E1049, figure 6; 19.2: the means in the order of closing; 19.3: the same as a closed loop."""
    assert counts(rainflow(ASTM)) == {3.0: 0.5, 4.0: 1.5, 6.0: 0.5, 8.0: 1.0, 9.0: 0.5}
    expected = [(3, -0.5, 0.5), (4, -1, 0.5), (4, 1, 1), (8, 1, 0.5), (9, 0.5, 0.5), (8, 0, 0.5), (6, 1, 0.5)]
    assert [(turn.range, turn.mean, turn.count) for turn in rainflow(ASTM)] == expected
    loop = of_one_turn(ASTM[:-1])
    assert [(turn.range, turn.mean, turn.count) for turn in loop] == [(4, 1, 1), (3, -0.5, 1), (7, 0.5, 1), (9, 0.5, 0.5), (9, 0.5, 0.5)]


@given(st.lists(st.floats(-1e3, 1e3), min_size=2, max_size=60))
def test_every_reversal_is_counted_once(course: list[float]) -> None:
    """Halves of all turns are the ranges between reversals, and the largest range is the course's own; flat stretches change nothing."""
    turns = rainflow(course)
    points = reversals(course)
    assert 2.0 * sum(turn.count for turn in turns) == pytest.approx(max(len(points) - 1, 0))
    if turns:
        assert max(turn.range for turn in turns) == pytest.approx(max(course) - min(course))
    assert rainflow(np.repeat(course, 3)) == turns
    assert sum(turn.count for turn in joined(turns)) == pytest.approx(sum(turn.count for turn in turns))


def test_a_sine_that_is_repeated_is_one_turn_whatever_its_start() -> None:
    """One turn of the cam counts the same wherever it is cut open; a surge on top adds turns of its own."""
    angle = np.linspace(0.0, 2.0 * math.pi, 720, endpoint=False)
    for shift in (0, 100, 333):
        found = counts(of_one_turn(np.roll(300.0 + 200.0 * np.sin(angle), shift)))
        assert {round(range_): count for range_, count in found.items()} == {400: 1.0}
    surged = of_one_turn(300.0 + 200.0 * np.sin(angle) + 30.0 * np.sin(9.0 * angle))
    assert sum(turn.count for turn in surged) == pytest.approx(9.0)
    with pytest.raises(OutOfRangeError):
        rainflow([1.0, math.nan])


def test_goodman_and_basquin() -> None:
    """19.4: slope and turns of peened chrome-silicon; above the limit as the spring's own page has it."""
    assert slope_exponent(WIRE.endurance, WIRE.ultimate) == pytest.approx(18.639140472962563)
    assert turns_borne(700e6, WIRE.endurance, WIRE.ultimate, Below.SAME) == pytest.approx(2173211.4794646474)
    assert turns_borne(700e6, WIRE.endurance, WIRE.ultimate, Below.LESS) > 2.1732e6
    assert math.isinf(turns_borne(700e6, WIRE.endurance, WIRE.ultimate, Below.NOTHING))
    alternating, mean = 460e6, 500e6
    stress = reversed_stress(alternating, mean, WIRE.ultimate)
    assert turns_borne(stress, WIRE.endurance, WIRE.ultimate) == pytest.approx(
        turns_to_failure(alternating, mean, WIRE.endurance, WIRE.ultimate)
    )


@pytest.mark.parametrize(
    ("below", "expected"), [(Below.NOTHING, 0.07664918749453047), (Below.SAME, 0.09323699321755553), (Below.LESS, 0.08646789552554182)]
)
def test_miner_of_a_histogram(below: Below, expected: float) -> None:
    """19.5: ranges, means and turns; the three ways below the limit."""
    turns = [Turn(range_ * 1e6, mean * 1e6, count) for range_, mean, count in HISTOGRAM]
    assert harm(turns, WIRE, below) == pytest.approx(expected, rel=1e-6)
    assert reversed_stress(300e6, 580e6, WIRE.ultimate) == pytest.approx(592.6298877236469e6)
    assert harm(turns[:2], WIRE, below) + harm(turns[2:], WIRE, below) == pytest.approx(expected, rel=1e-6)


def test_a_life_is_told_as_a_band_and_never_as_hours() -> None:
    """19.7: a factor of 8.6 each way; 19.8: what a seat is struck with; 19.9: parts that held."""
    assert 10.0 ** (2.0 * doubt_of_life(18.639140472962563, 0.05, 0.25)) == pytest.approx(8.60694841682592)
    found = banded(0.05, WIRE)
    assert (found.low, found.high) == pytest.approx((0.05 / 8.60694841682592, 0.05 * 8.60694841682592), rel=1e-6)
    assert [Damage(middle=1.0, low=low, high=high).wear for low, high in ((0.001, 0.09), (0.05, 2.0), (1.1, 80.0))] == list(Wear)
    assert impact_energy(0.062, 1.8) / impact_energy(0.062, 0.35) == pytest.approx(26.44897959183674)
    assert reliability_bound(32, 0.95) == pytest.approx(0.9106318010137352)
    assert reliability_bound(32, 0.95, 60.0 / 40.0) == pytest.approx(0.8100677235544266)


def test_a_mean_at_the_ultimate_is_no_life_at_all() -> None:
    assert math.isinf(harm([Turn(10e6, WIRE.ultimate, 1.0)], WIRE))
    assert harm([Turn(0.0, 500e6, 1e9)], WIRE) == 0.0


def test_hours_by_speed_out_of_a_log() -> None:
    """19.6: 270,000 turns of the cam in an hour at 9,000; time above a speed shares its bin; holes and nonsense are named."""
    time = np.arange(0.0, 3600.0, 0.1)
    steady = of_log(time, np.full(len(time), 9000.0 / 60.0))
    assert steady.hours == pytest.approx(1.0, rel=1e-3)
    rising = of_log(time, np.linspace(0.0, 10_000.0 / 60.0, len(time)))
    assert rising.above(7500.0 / 60.0) == pytest.approx(900.0, rel=2e-3)
    assert rising.above(0.0) == pytest.approx(rising.seconds.sum())
    assert rising.above(20_000.0 / 60.0) == 0.0
    assert rising.turns == pytest.approx(3600.0 * 5000.0 / 60.0, rel=2e-3)
    holed = np.concatenate([time[:1000], time[1000:2000] + 600.0])
    speed = np.full(2000, 150.0)
    speed[50], speed[51] = 9e9, -3.0
    found = of_log(holed, speed)
    assert found.hours * 3600.0 == pytest.approx(199.9 - 0.2, abs=0.2)
    assert "1 holes, 600 s" in found.left_out[0]
    assert "2 samples" in found.left_out[1]
    for bad in ([0.0], [0.0, 5.0, 3.0]):
        with pytest.raises(OutOfRangeError):
            of_log(np.array(bad), np.full(len(bad), 100.0))


@pytest.mark.parametrize("profile", sorted(PROFILES))
def test_a_use_in_words_keeps_its_hours(profile: str) -> None:
    found = of_profile(profile, 12.5, 9000.0 / 60.0)
    assert found.hours == pytest.approx(12.5)
    assert found.highest <= 9000.0 / 60.0
    for wrong in (("joy", 1.0, 100.0), (profile, -1.0, 100.0), (profile, 1.0, 1e9)):
        with pytest.raises(OutOfRangeError):
            of_profile(*wrong)


def test_harm_of_a_use_is_the_sum_over_its_bins() -> None:
    """By hand: one bin, harm between two speeds straight in the logarithm; twice the hours is twice the harm; more speed never harms less."""
    hour = of_profile("work", 1.0, 100.0)
    flat = harm_of_use(hour, {50.0: 1e-9})
    turns = float((hour.seconds * (hour.low + BIN / 2.0) / 2.0).sum())
    assert flat == pytest.approx(1e-9 * turns)
    assert harm_of_use(of_profile("work", 2.0, 100.0), {50.0: 1e-9}) == pytest.approx(2.0 * flat)
    low, high = 40.0, 160.0
    steep = {low: 1e-12, high: 1e-8}
    assert harm_of_use(of_profile("race", 1.0, 160.0), steep) > harm_of_use(of_profile("race", 1.0, 120.0), steep)
    assert math.isinf(harm_of_use(of_profile("race", 1.0, 160.0), {100.0: 1e-9, 150.0: math.inf}))
    assert math.isfinite(harm_of_use(of_profile("race", 1.0, 100.0), {100.0: 1e-9, 150.0: math.inf}))
    with pytest.raises(OutOfRangeError):
        harm_of_use(hour, {})
    found = against(3.0 * flat, flat)
    assert found.times == pytest.approx(3.0)
    assert found.told
    assert not against(1.5 * flat, flat).told
    with pytest.raises(OutOfRangeError):
        against(flat, 0.0)


def test_the_rules_that_ship_are_whole() -> None:
    rules = trade_rules()
    assert len({rule.id for rule in rules}) == len(rules)
    assert all(rule.what and rule.why and rule.does for rule in rules)
    what = {rule.what for rule in in_force({"street", "chain"})}
    assert {"oil and filter", "clearances", "valve springs", "stem seals", "cam chain and tensioner"} <= what
    assert "titanium valves" not in what
    assert "titanium valves" in {rule.what for rule in in_force({"race", "titanium"})}


def test_the_manual_goes_before_the_shop_and_the_shop_before_the_trade() -> None:
    maker = typed_rule("clearances", 25.0, Unit.HOURS, Whose.MAKER, page="p. 3-14", why="the manual", does="measure")
    own = due.Rule(
        id="own", what="clearances", after=After.RUN, least=12.0, most=15.0, unit=Unit.HOURS, when=("any",), why="ours", does="measure", whose=Whose.OWN
    )  # fmt: skip
    chosen = lambda more: next(rule for rule in in_force({"race"}, more) if rule.what == "clearances" and rule.unit is Unit.HOURS)
    assert chosen(()).whose is Whose.TRADE
    assert chosen((own,)).least == 12.0
    assert chosen((own, maker)).page == "p. 3-14"
    with pytest.raises(OutOfRangeError):
        typed_rule("clearances", math.nan, Unit.HOURS, Whose.MAKER, why="", does="")


@pytest.mark.parametrize(
    ("hours", "state"),
    [
        (0.0, State.RESTS),
        (7.9, State.RESTS),
        (8.0, State.SOON),
        (10.0, State.DUE),
        (19.9, State.DUE),
        (20.0, State.OVER),
        (None, State.UNKNOWN),
    ],
)
def test_a_range_rests_is_due_and_is_over(hours: float | None, state: State) -> None:
    """Clearances of a race engine, 10 to 20 hours."""
    rule = next(rule for rule in trade_rules() if rule.id == "clearances_race")
    found = held([rule], {"clearances": Run(hours=hours)})[0]
    assert found.state is state
    assert found.left == (None if hours is None else (10.0 - hours, 20.0 - hours))


def test_what_was_changed_is_due_once_and_counts_that_run_back_are_named() -> None:
    rule = next(rule for rule in trade_rules() if rule.id == "first_clearances")
    assert held([rule], {}) == ()
    changed = {After.CHANGE: Run(hours=2.0)}
    assert held([rule], {}, changed)[0].state is State.DUE
    assert held([rule], {rule.what: Run(hours=1.0)}, changed) == ()  # measured an hour ago, after the change
    assert held([rule], {rule.what: Run(hours=30.0)}, changed)[0].state is State.DUE
    with pytest.raises(OutOfRangeError, match="backwards"):
        held([rule], {}, {After.CHANGE: Run(hours=-1.0)})
    over = next(rule for rule in trade_rules() if rule.after is After.OVER_REV)
    assert held([over], {}, {After.OVER_REV: Run(hours=0.0)})[0].state is State.DUE


def test_the_most_urgent_comes_first() -> None:
    rules = in_force({"race", "titanium", "chain"})
    found = held(rules, {rule.what: Run(hours=15.0, seasons=0.5) for rule in rules})
    order = [list(State).index(each.state) for each in found]
    assert order == sorted(order)


@pytest.fixture(scope="module")
def swept() -> Sweep:
    return sweep(motion_case(SIDE, SIDE_VALVE), np.array([6.0, 60.0, 100.0, 140.0]))


def wire_of(packed: PackedSpring) -> dict[str, Figure]:
    return {"wire_diameter": Figure(3.6e-3), "mean_diameter": Figure(24e-3)}


FACTS = {"wire": "chrome-silicon", "peened": "yes"}


def test_harm_of_a_turn_is_that_of_its_static_stress_where_the_valve_moves_slowly(swept: Sweep) -> None:
    """At 360 rpm nothing surges: one turn between the stress shut and at full lift, by the spring's own line; faster is never kinder."""
    figures, wire = wire_of(SIDE.springs[0]), strength_of_wire(wire_of(SIDE.springs[0]), FACTS)
    assert wire is not None
    by_speed = harm_by_speed(load_turns(swept, 0), figures, wire)
    case = swept.case.springs[0]
    low = case.preload
    high = low + case.rate * (SIDE.lift.value - SIDE.clearance.value)
    stresses = [shear_stress(force, 3.6e-3, 24e-3) for force in (low, high)]
    static = harm([Turn(stresses[1] - stresses[0], sum(stresses) / 2.0, 1.0)], wire)
    assert abs(math.log(by_speed[6.0] / static)) < 0.3  # a hundredth of the stress is a third of the life
    assert by_speed[60.0] >= by_speed[6.0]
    assert by_speed[60.0] <= by_speed[100.0] * 1.05
    assert by_speed[140.0] > by_speed[60.0]
    peened = strength_of_wire(figures, FACTS)
    plain = strength_of_wire(figures, {"wire": "chrome-silicon"})
    assert plain is not None
    assert peened is not None
    assert plain.endurance < peened.endurance
    assert strength_of_wire({}, FACTS) is None


def test_a_spring_over_a_use_adds_up_and_says_where(swept: Sweep) -> None:
    figures = wire_of(SIDE.springs[0])
    slow, quick = (spring_use(of_profile("race", 10.0, highest), swept, 0, figures, FACTS) for highest in (80.0, 140.0))
    assert slow is not None
    assert quick is not None
    assert quick.total > slow.total
    assert 0.0 < quick.half_above <= 140.0
    double = spring_use(of_profile("race", 20.0, 140.0), swept, 0, figures, FACTS)
    assert double is not None
    assert double.total == pytest.approx(2.0 * quick.total)
    struck = seat_struck(of_profile("race", 1.0, 140.0), swept)
    assert struck is not None
    assert struck.energy == pytest.approx(0.5 * swept.case.mass * float(np.nanmax(np.abs(swept.seating))) ** 2)
    assert struck.softest <= struck.energy
    assert seat_struck(of_profile("race", 1.0, 5.0), swept) is None


def test_peening_that_nobody_told_widens_the_band_over_both(swept: Sweep) -> None:
    figures, use = wire_of(SIDE.springs[0]) | {"wire_diameter": Figure(4.6e-3)}, of_profile("race", 10.0, 120.0)
    peened, plain, untold = (
        spring_use(use, swept, 0, figures, {"wire": "chrome-silicon"} | told) for told in ({"peened": "yes"}, {"peened": "no"}, {})
    )
    assert peened is not None
    assert plain is not None
    assert untold is not None
    assert peened.total < untold.total < plain.total
    assert untold.damage.low == min(peened.damage.low, plain.damage.low)
    assert untold.damage.high == max(peened.damage.high, plain.damage.high)
    assert (peened.peening_told, untold.peening_told) == (True, False)


def test_a_short_record_of_turns_tells_the_same_as_the_sweep(swept: Sweep) -> None:
    """Kept apart from the sweep, for whichever wire: the same sum, and ten times the hours ten times as much."""
    figures, use = wire_of(SIDE.springs[0]), of_profile("race", 10.0, 120.0)
    harms = spring_harm(load_turns(swept, 0), figures, FACTS)
    whole = spring_use(use, swept, 0, figures, FACTS)
    assert harms is not None
    assert whole is not None
    assert used_by(use, harms, 0).total == pytest.approx(whole.total)
    assert used_by(stretched(use, 100.0), harms, 0).total == pytest.approx(10.0 * whole.total)
    assert spring_harm(load_turns(swept, 0), {}, FACTS) is None


def test_uses_are_added_bin_by_bin_and_stretched_with_their_shares() -> None:
    short, long = of_profile("street", 2.0, 60.0), of_profile("race", 3.0, 120.0)
    both = together([short, long])
    assert both.hours == pytest.approx(5.0)
    assert both.highest == long.highest
    assert both.turns == pytest.approx(short.turns + long.turns)
    assert stretched(both, 50.0).turns == pytest.approx(10.0 * both.turns)
    for wrong in (lambda: together([]), lambda: stretched(of_profile("race", 0.0, 100.0), 1.0), lambda: stretched(both, -1.0)):
        with pytest.raises(OutOfRangeError):
            wrong()


@pytest.mark.parametrize(
    ("band", "state"),
    [
        ((0.0, 0.05), State.RESTS), ((0.002, 0.2), State.SOON), ((0.2, 4.0), State.SOON), ((0.5, 8.0), State.DUE), ((1.5, 90.0), State.OVER),
        ((0.0, math.inf), State.DUE),
    ],
)  # fmt: skip
def test_parts_of_a_life_are_due_by_their_band(band: tuple[float, float], state: State) -> None:
    """METHODS2 19.7: endless below a tenth, to be watched across, past its time with the whole band above one mean life."""
    row = of_life("outer spring", band, 0.1, 1.0, "", "")
    assert row.state is state
    beside = held([typed_rule("oil", 5.0, Unit.HOURS, Whose.OWN, why="", does="")], {"oil": Run(hours=1.0)}, None, [row])
    assert row in beside
    assert beside[0] == row or state is State.RESTS
    with pytest.raises(OutOfRangeError):
        of_life("outer spring", (0.2, 0.1), 0.1, 1.0, "", "")
