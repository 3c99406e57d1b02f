"""Events and comparison of cams. Closed forms of the harmonic lobe and the event arithmetic (METHODS 3 and 7)."""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import simpson

from tests.valvetrain.builders import harmonic, known_build, known_side, measured, with_proposed
from valvetrain.errors import OutOfRangeError
from valvetrain.formulas.slider_crank import piston_drop, trapped_ratio
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.record import BuildRecord
from valvetrain.studies.cams.cam_events import HEIGHT, CamPair, Quantity, differences, net_lift, pair_of, trade
from valvetrain.studies.train.assembly import complete


def test_slider_crank() -> None:
    """METHODS 6.11: 30.477195 mm at 90 degrees, 0.51604389 mm at 10; METHODS 6.12: x/S = 0.56350833 at r/l = 0.25."""
    assert piston_drop(0.0536, 0.0995, math.pi / 2) * 1e3 == pytest.approx(30.477195, rel=1e-6)
    assert piston_drop(0.0536, 0.0995, math.radians(10)) * 1e3 == pytest.approx(0.51604389, rel=1e-6)
    assert piston_drop(2.0, 4.0, math.pi / 2) / 2.0 == pytest.approx(0.56350833, rel=1e-7)
    assert piston_drop(0.0536, 0.0995, math.pi) == pytest.approx(0.0536)


@pytest.mark.parametrize(("closing", "ratio"), [(52, 11.363699), (38, 12.215699), (0, 13.2)])
def test_trapped_ratio(closing: float, ratio: float) -> None:
    """METHODS 7.2."""
    assert trapped_ratio(13.2, 0.0536, 0.101, math.radians(closing)) == pytest.approx(ratio, rel=1e-6)


def test_trapped_ratio_refuses_what_cannot_be() -> None:
    for call in (
        lambda: trapped_ratio(0.9, 0.05, 0.1, 0.5),
        lambda: trapped_ratio(9.0, 0.2, 0.09, 0.5),
        lambda: trapped_ratio(9.0, 0.05, 0.1, 4.0),
    ):
        with pytest.raises(OutOfRangeError):
            call()


@pytest.mark.parametrize(("height", "duration"), [(1.0, 230.98396), (1.27, 221.73219), (0.2, 269.67521)])
def test_duration_of_a_harmonic_lobe(height: float, duration: float) -> None:
    """METHODS 3.6: D = 4 (half/pi) acos(2c/L - 1), L 8 mm, half 75 degrees."""
    assert math.degrees(harmonic(8e-3, 75).duration_at(height * 1e-3)) == pytest.approx(duration, rel=1e-6)


@pytest.mark.parametrize(("advance", "lift"), [(0, 1.5171457), (6, 1.9468159), (-6, 1.1234776)])
def test_lift_at_overlap_tdc(advance: float, lift: float) -> None:
    """METHODS 3.7: centre 104 crank degrees, clearance 0.20 mm; advanced and retarded by 6."""
    found = net_lift(harmonic(8e-3, 75), 0.2e-3, math.radians(104 - advance), np.array([0.0]))
    assert found[0] * 1e3 == pytest.approx(lift, rel=1e-5)


def hotter() -> BuildRecord:
    """The known triple with a longer, higher intake cam proposed."""
    side = known_side()
    cam = {
        **side.parts[Owner.CAM].figures,
        "lift": measured(9.9e-3),
        "duration_1": measured(math.radians(248)),
        "lobe_centre": measured(math.radians(108)),
    }
    record = with_proposed(
        known_build(), Side.INTAKE, replace(side, parts={**side.parts, Owner.CAM: replace(side.parts[Owner.CAM], figures=cam)})
    )
    return replace(record, engine={**record.engine, "compression": measured(9.0), "rod_length": measured(0.122)})


def pairs(record: BuildRecord) -> tuple[CamPair, CamPair]:
    done = complete(record)
    return pair_of(*(done.stock.sides[side] for side in (Side.INTAKE, Side.EXHAUST)), done.engine, 140.0), pair_of(
        *(done.proposed.sides[side] for side in (Side.INTAKE, Side.EXHAUST)), done.engine, 140.0
    )


def test_event_arithmetic_closes() -> None:
    """METHODS 3: overlap = (D_in + D_ex)/2 - 2 LSA; durations are opening + 180 + closing."""
    for pair in pairs(hotter()):
        assert pair.overlap == pytest.approx((pair.intake.duration + pair.exhaust.duration) / 2 - 2 * pair.separation)
        for side in (pair.intake, pair.exhaust):
            assert side.opens + math.pi + side.shuts == pytest.approx(side.duration)


def test_figures_of_a_side_against_scipy() -> None:
    done = complete(hotter())
    train = done.proposed.sides[Side.INTAKE]
    curve, clearance = train.curve, train.clearance.value
    pair = pair_of(*(done.proposed.sides[side] for side in (Side.INTAKE, Side.EXHAUST)), done.engine, 140.0)
    lift = lambda crank: float(net_lift(curve, clearance, math.radians(108), np.array([crank]))[0])
    crank = np.linspace(math.radians(108) - 3.0, math.radians(108) + 3.0, 6001)
    area = simpson([lift(angle) for angle in crank], x=crank)
    assert pair.intake.area == pytest.approx(area, rel=1e-3)
    assert lift(-pair.intake.opens) == pytest.approx(HEIGHT, rel=2e-3)
    assert lift(math.pi + pair.intake.shuts) == pytest.approx(HEIGHT, rel=2e-3)
    # on the ramp: 0.018 mm per degree of cam at 140 rev/s of the crank, METHODS 4.5
    assert pair.intake.seating == pytest.approx(2 * math.pi * 70 * 0.018e-3 * 180 / math.pi, rel=0.02)


def test_the_sentence_is_derived_from_the_numbers() -> None:
    stock, proposed = pairs(hotter())
    said = trade(stock, proposed)
    opens, shuts = (round(math.degrees(getattr(proposed.intake, name) - getattr(stock.intake, name))) for name in ("opens", "shuts"))
    assert f"opens {opens}° earlier" in said
    assert f"closes {shuts}° later" in said
    assert f"{proposed.intake.area / stock.intake.area - 1:.0%}".replace("%", " %") in said
    assert said.endswith("gains at the top end, loses at the bottom.")
    assert trade(proposed, stock).endswith("it gains below and gives above.")
    assert trade(stock, stock) == "Both pairs of cams do the same."


def test_the_difference_list() -> None:
    rows = {(row.what, row.side): row for row in differences(*pairs(hotter()))}
    assert rows[Quantity.LIFT, Side.INTAKE].change == pytest.approx(0.65e-3)
    assert rows[Quantity.LIFT, Side.EXHAUST].change == 0.0
    assert rows[Quantity.TRAPPED, None].change < 0.0
    assert rows[Quantity.OVERLAP, None].change > 0.0
    assert rows[Quantity.ACCELERATION, Side.INTAKE].spread > 0.0
