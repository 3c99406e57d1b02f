"""One valve's plan. The worked exchange is a fact of the trade: common practice, no source."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from valvetrain.errors import OutOfRangeError
from valvetrain.parts.engine import Adjuster
from valvetrain.studies.clearance.shim_plan import Act, Aim, ClearanceInterval, ClearanceLimits, State, plan_valve, same_as_before
from valvetrain.units import told

INCH = 0.0254
EXHAUST = ClearanceLimits(0.010 * INCH, 0.012 * INCH, step=0.001 * INCH, thinnest=0.080 * INCH, thickest=0.120 * INCH)
INTAKE = ClearanceLimits(0.005 * INCH, 0.007 * INCH, step=0.001 * INCH, thinnest=0.080 * INCH, thickest=0.120 * INCH)
METRIC = ClearanceLimits(0.22e-3, 0.28e-3, step=0.025e-3, thinnest=2.0e-3, thickest=3.2e-3)


@pytest.mark.parametrize(
    ("limits", "read", "shim", "fit"), [(EXHAUST, 0.013, 0.088, 0.090), (INTAKE, 0.008, 0.090, 0.092)], ids=["exhaust", "intake"]
)
def test_the_worked_exchange_of_the_trade(limits: ClearanceLimits, read: float, shim: float, fit: float) -> None:
    plan = plan_valve(ClearanceInterval(read * INCH, read * INCH, shim * INCH), limits, Adjuster.SHIM_UNDER)
    assert (plan.state, plan.act, plan.sure) == (State.LOOSE, Act.SHIM, True)
    assert plan.amount == pytest.approx(fit * INCH)


@pytest.mark.parametrize(("read", "limits"), [(0.011, EXHAUST), (0.007, INTAKE), (0.006, INTAKE)])
def test_what_the_trade_accepts_stays(read: float, limits: ClearanceLimits) -> None:
    assert plan_valve(ClearanceInterval(read * INCH, read * INCH, 0.09 * INCH), limits, Adjuster.SHIM_UNDER).act is Act.STAYS


def test_interval_carries_through() -> None:
    plan = plan_valve(ClearanceInterval(0.18e-3, 0.20e-3, 2.580e-3), METRIC, Adjuster.SHIM_UNDER)
    assert plan.wanted == pytest.approx(2.520e-3)
    assert plan.amount == pytest.approx(2.525e-3)
    assert (plan.low_after, plan.high_after) == (pytest.approx(0.235e-3), pytest.approx(0.255e-3))


def test_straddling_asks_for_a_finer_blade() -> None:
    plan = plan_valve(ClearanceInterval(0.20e-3, 0.24e-3, 2.5e-3), METRIC, Adjuster.SHIM_UNDER)
    assert (plan.state, plan.act) == (State.UNDECIDED, Act.FINER_BLADE)
    assert "least" in told(plan.why)


def test_without_the_shim_it_asks_for_the_micrometer() -> None:
    assert plan_valve(ClearanceInterval(0.10e-3, 0.12e-3), METRIC, Adjuster.SHIM_UNDER).act is Act.NEED_SHIM


def test_beyond_the_sizes_on_sale() -> None:
    plan = plan_valve(ClearanceInterval(0.5e-3, 0.52e-3, 3.15e-3), METRIC, Adjuster.SHIM_UNDER)
    assert plan.act is Act.IMPOSSIBLE
    assert "3.410 mm is needed" in told(plan.why)


def test_a_coarse_step_that_cannot_bring_it_inside_says_so() -> None:
    narrow = ClearanceLimits(0.24e-3, 0.26e-3, step=0.1e-3, thinnest=2.0e-3, thickest=3.2e-3)
    assert plan_valve(ClearanceInterval(0.30e-3, 0.30e-3, 2.5e-3), narrow, Adjuster.SHIM_UNDER).sure is False


def test_finger_ratio() -> None:
    """METHODS 10.2: 0.08 read, 0.14 wanted, ratio 1.45: the shim changes by -0.087 mm."""
    limits = ClearanceLimits(0.12e-3, 0.16e-3, step=0.001e-3, thinnest=1e-3, thickest=4e-3)
    plan = plan_valve(ClearanceInterval(0.08e-3, 0.08e-3, 2.225e-3), limits, Adjuster.SHIM_ON_STEM, ratio=1.45)
    assert plan.amount == pytest.approx(2.138e-3)


def test_screw_grind_and_hydraulic() -> None:
    """METHODS 10.3: M5x0.5, from 0.05 to 0.10 mm is 36 degrees out; ground metal cannot be put back."""
    limits = ClearanceLimits(0.08e-3, 0.12e-3)
    turn = plan_valve(ClearanceInterval(0.05e-3, 0.05e-3), limits, Adjuster.SCREW, pitch=0.5e-3)
    assert turn.act is Act.TURN
    assert turn.amount is not None
    assert turn.amount * 360 == pytest.approx(36)
    assert plan_valve(ClearanceInterval(0.05e-3, 0.05e-3), limits, Adjuster.STEM_GRIND).amount == pytest.approx(0.05e-3)
    assert plan_valve(ClearanceInterval(0.20e-3, 0.20e-3), limits, Adjuster.STEM_GRIND).act is Act.IMPOSSIBLE
    assert plan_valve(ClearanceInterval(0.0, 0.0), limits, Adjuster.HYDRAULIC).act is Act.NOTHING


def test_readings_that_cannot_be() -> None:
    with pytest.raises(OutOfRangeError):
        plan_valve(ClearanceInterval(0.3e-3, 0.2e-3), METRIC, Adjuster.SHIM_UNDER)


@given(
    st.floats(0.0, 0.8e-3),
    st.floats(0.0, 0.03e-3),
    st.floats(2.2e-3, 3.0e-3),
    st.sampled_from([0.025e-3, 0.05e-3]),
    st.sampled_from(list(Aim)),
)
def test_what_is_promised_is_what_the_sum_gives(low: float, width: float, shim: float, step: float, aim: Aim) -> None:
    """Any reading: a planned shim is on sale, nearest to the wish, and `sure` is true only when all of the interval is inside."""
    limits = ClearanceLimits(0.22e-3, 0.28e-3, step=step, thinnest=2.0e-3, thickest=3.2e-3)
    plan = plan_valve(ClearanceInterval(low, low + width, shim), limits, Adjuster.SHIM_UNDER, aim)
    if plan.act is not Act.SHIM:
        return
    assert plan.amount is not None
    assert plan.wanted is not None
    assert plan.low_after is not None
    assert plan.high_after is not None
    steps = (plan.amount - 2.0e-3) / step
    assert steps == pytest.approx(round(steps), abs=1e-6)
    assert abs(plan.amount - plan.wanted) <= step / 2 + 1e-9
    assert plan.low_after == pytest.approx(low + shim - plan.amount, abs=1e-12)
    if plan.sure:
        assert plan.low_after >= limits.least - 2e-9
        assert plan.high_after <= limits.most + 2e-9


def test_recheck_against_prediction() -> None:
    assert same_as_before((0.235e-3, 0.255e-3), ClearanceInterval(0.24e-3, 0.26e-3))
    assert not same_as_before((0.235e-3, 0.255e-3), ClearanceInterval(0.28e-3, 0.30e-3))
