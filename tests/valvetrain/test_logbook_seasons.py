"""Hours into days, springs over seasons and what a season costs."""

import math
import random
from datetime import date

import pytest

from valvetrain.errors import OutOfRangeError
from valvetrain.studies.logbook.dates import Pace, days_of, pace_of
from valvetrain.studies.logbook.due import After, Due, Rule, Run, State, Unit, Whose, held, in_force, trade_rules, typed_rule
from valvetrain.studies.logbook.seasons import LoadTest, least_factor, load_life, pays, season_cost

TODAY = date(2027, 3, 1)


def due(unit: Unit, least: float, most: float) -> Due:
    rule = Rule(id="x", what="x", after=After.RUN, least=10.0, most=20.0, unit=unit, when=("any",), why="", does="")
    return Due(rule=rule, used=0.0, left=(least, most), state=State.RESTS)


def test_a_pace_holds_the_hours_that_come() -> None:
    """Riders of a known pace, weeks drawn at random: the band holds the true pace in about 95 of 100. GUM 4.2 (JCGM 100:2008)."""
    draw, held_ = random.Random(7), 0  # noqa: S311  (a simulation)
    for _ in range(600):
        true = draw.uniform(0.5, 6.0) / 7.0
        rides = [(day, draw.expovariate(1.0 / (true * 2.0))) for day in range(112) if draw.random() < 0.5]
        found = pace_of([day for day, _ in rides], [hours for _, hours in rides])
        assert found is not None
        held_ += found.low <= true <= found.high
    assert 0.88 <= held_ / 600 <= 0.99


def test_one_day_tells_no_pace_and_weeks_of_rest_count() -> None:
    assert pace_of([3], [2.0]) is None
    assert pace_of([], []) is None
    steady = pace_of([0, 7, 14, 21], [2.0] * 4)
    assert steady is not None
    assert steady.middle == pytest.approx(2.0 / 7.0)
    assert steady.low == pytest.approx(steady.high)
    rested = pace_of([0, 70], [2.0, 2.0])
    assert rested is not None
    assert rested.middle < steady.middle / 3.0


def test_days_of_hours_seasons_and_what_is_past() -> None:
    pace = Pace(middle=0.5, low=0.25, high=1.0)
    assert days_of(due(Unit.HOURS, 10.0, 20.0), TODAY, pace, None) == (date(2027, 3, 11), date(2027, 5, 20))
    assert days_of(due(Unit.HOURS, -1.0, 2.0), TODAY, Pace(middle=0.1, low=0.0, high=0.2), None) == (TODAY, None)
    assert days_of(due(Unit.HOURS, -3.0, -1.0), TODAY, None, None) == (TODAY, TODAY)
    assert days_of(due(Unit.HOURS, 3.0, 5.0), TODAY, None, None) is None
    assert days_of(due(Unit.PASSES, 10.0, 20.0), TODAY, None, pace) == (date(2027, 3, 11), date(2027, 5, 20))
    assert days_of(due(Unit.SEASONS, 1.0, 2.0), TODAY, None, None) == (date(2028, 2, 29), date(2029, 2, 28))


def test_the_maker_goes_before_the_workshop_and_that_before_the_trade() -> None:
    measured = typed_rule("clearances, by their drift", 6.0, Unit.HOURS, Whose.MEASURED, most=11.0, why="", does="")
    maker = typed_rule("clearances", 15.0, Unit.HOURS, Whose.MAKER, page="4-12", why="", does="")
    own = typed_rule("clearances", 8.0, Unit.HOURS, Whose.OWN, why="", does="")
    found = [rule for rule in in_force({"race"}, [own, measured, maker]) if rule.what.startswith("clearances") and rule.after is After.RUN]
    assert {rule.whose for rule in found} == {Whose.MAKER, Whose.MEASURED}
    since = {"clearances": Run(hours=12.0), "clearances, by their drift": Run(hours=12.0)}
    assert {row.rule.whose: row.state for row in held(found, since)} == {Whose.MAKER: State.SOON, Whose.MEASURED: State.OVER}
    assert any(rule.what == "clearances" and rule.whose is Whose.TRADE for rule in trade_rules())
    for wrong in ((0.0, 1.0), (5.0, 3.0), (math.nan, 4.0), (1.0, math.inf)):
        with pytest.raises(OutOfRangeError):
            typed_rule("x", wrong[0], Unit.HOURS, Whose.OWN, most=wrong[1], why="", does="")


@pytest.mark.parametrize("law", [0.5, 0.7, 1.0])
def test_hours_left_hold_springs_that_settle_by_a_power_of_the_hours(law: float) -> None:
    """Loss = a h^law, the shapes that relaxation tests of cold wound springs show: fast at first. The band holds the hour at which six in a hundred is lost."""
    draw, inside, cases = random.Random(3), 0, 0  # noqa: S311  (a simulation)
    for _ in range(400):
        end = draw.uniform(20.0, 60.0)
        a = 0.06 / end**law
        hours = sorted(draw.uniform(2.0, 0.8 * end) for _ in range(2))
        if hours[1] - hours[0] < 3.0:
            continue
        loads = [300.0 * (1.0 - a * h**law) * (1.0 + draw.gauss(0.0, 0.004)) for h in hours]
        life = load_life(300.0, [LoadTest(hours=h, least=load, middle=load, count=4) for h, load in zip(hours, loads, strict=True)])
        cases += 1
        inside += life.left[0] <= end - hours[1] <= (life.left[1] if life.left[1] is not None else math.inf)
    assert inside / cases > 0.93


def test_which_spring_is_used_again() -> None:
    one = lambda load: load_life(300.0, [LoadTest(hours=10.0, least=load, middle=load, count=8)])
    assert one(297.0).again is True
    assert one(270.0).again is False
    assert one(283.0).again is None
    assert one(270.0).left == (0.0, 0.0)
    for tests in (
        [],
        [LoadTest(hours=5.0, least=0.0, middle=2.0, count=1)],
        [LoadTest(hours=h, least=290.0, middle=291.0, count=1) for h in (9.0, 4.0)],
    ):
        with pytest.raises(OutOfRangeError):
            load_life(300.0, tests)


def test_a_season_costs_what_its_hours_use_up() -> None:
    """By hand: 45 h a season, sets of 30 h at 120: one and a half sets, 180."""
    plain = season_cost(120.0, (30.0, 30.0), (45.0, 45.0))
    assert (plain.sets, plain.cost) == ((1.5, 1.5), (180.0, 180.0))
    wide = season_cost(120.0, (20.0, 40.0), (40.0, 50.0))
    assert wide.cost == (120.0, 300.0)
    assert pays(plain, season_cost(150.0, (60.0, 60.0), (45.0, 45.0))) is True
    assert pays(plain, season_cost(300.0, (30.0, 40.0), (45.0, 45.0))) is False
    assert pays(plain, season_cost(150.0, (30.0, 60.0), (45.0, 45.0))) is None
    assert least_factor(120.0, 180.0) == pytest.approx(1.5)
    for wrong in (
        (-1.0, (1.0, 1.0), (1.0, 1.0)),
        (1.0, (0.0, 1.0), (1.0, 1.0)),
        (1.0, (2.0, 1.0), (1.0, 1.0)),
        (math.nan, (1.0, 1.0), (1.0, 1.0)),
    ):
        with pytest.raises(OutOfRangeError):
            season_cost(*wrong)  # type: ignore[arg-type]
