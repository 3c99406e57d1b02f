"""What engines of a class usually have: ranges that the trade meets, conditioning, and a stock engine that holds its own limiter."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.builders import empty_build, known_build, measured, with_proposed
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side
from valvetrain.parts.figure import Figure
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord
from valvetrain.studies.review.build import review
from valvetrain.studies.train.assembly import complete
from valvetrain.studies.train.float_rows import float_speed
from valvetrain.studies.train.priors import CLASSES, ROWS, class_of, draw_prior, weighted
from valvetrain.studies.train.side_figures import moving_mass, seat_load, weakest

FINGER = EngineKind(1, 2, Gear.DOHC, Follower.FINGER, Adjuster.SHIM_UNDER)
EVEN = np.full(ROWS, 1.0 / ROWS)
# Typical magnitudes of stock engines, common practice or memory, no source: make-up, bore mm, stroke mm, limiter rpm, then ranges of the intake
# side: seat force N, lift mm, head mm, moving mass g, duration at 1 mm crank degrees
TYPICAL = [
    (EngineKind(1, 1, Gear.OHC, Follower.ROCKER, Adjuster.SCREW), 52, 50, 9500, (90, 220), (5.5, 8.0), (21, 28), (50, 110), (205, 240)),
    (EngineKind(1, 2, Gear.DOHC, Follower.FINGER, Adjuster.SHIM_ON_STEM), 77, 53, 13000, (130, 260), (7.5, 10.5), (28, 34), (30, 70), (240, 270)),
    (EngineKind(1, 2, Gear.DOHC, Follower.FINGER, Adjuster.SHIM_ON_STEM), 96, 62.1, 11200, (150, 230), (8.5, 11.0), (34, 40), (42, 88), (240, 272)),
    (EngineKind(4, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER), 67, 42.5, 14500, (130, 260), (7.2, 9.8), (25, 30), (35, 75), (240, 272)),
    (EngineKind(4, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER), 75, 56, 12500, (140, 280), (7.8, 10.5), (28, 33), (42, 90), (236, 268)),
    (EngineKind(3, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER), 83, 69, 7800, (130, 260), (7.5, 10.0), (29, 35), (70, 130), (212, 240)),
    (EngineKind(1, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.LASH_CAP), 68, 54, 3900, (50, 140), (5.0, 7.5), (22, 28), (80, 200), (195, 220)),
    (EngineKind(1, 1, Gear.SIDE_VALVE, Follower.TAPPET, Adjuster.STEM_GRIND), 70, 58, 3600, (40, 130), (5.0, 7.5), (25, 31), (70, 150), (190, 215)),
]  # fmt: skip


def untouched(kind: EngineKind, bore: float, stroke: float, limiter: float) -> BuildRecord:
    figures = {"bore": Figure(bore * 1e-3), "stroke": Figure(stroke * 1e-3), "limiter": Figure(limiter / 60.0)}
    return replace(empty_build(kind), engine=figures)


@pytest.mark.parametrize("kind, bore, stroke, limiter, seat, lift, head, mass, duration", TYPICAL, ids=lambda value: str(value)[:40])
def test_estimates_are_what_the_trade_meets(kind, bore, stroke, limiter, seat, lift, head, mass, duration) -> None:  # type: ignore[no-untyped-def]
    done = complete(untouched(kind, bore, stroke, limiter))
    side = done.stock.sides[Side.INTAKE]
    place = weakest(side)
    assert seat[0] <= seat_load(side, place).value <= seat[1]
    assert lift[0] <= side.lift.value * 1e3 <= lift[1]
    assert head[0] <= side.head_diameter.value * 1e3 <= head[1]
    assert mass[0] <= moving_mass(side).value * 1e3 <= mass[1]
    assert duration[0] <= math.degrees(side.duration.value) <= duration[1]


@pytest.mark.parametrize("kind, bore, stroke, limiter", [row[:4] for row in TYPICAL], ids=lambda value: str(value)[:40])
def test_a_stock_engine_holds_its_own_limiter(kind: EngineKind, bore: float, stroke: float, limiter: float) -> None:
    """No builder believes a page that floats a stock engine below its limiter: the whole 95 % band lies above 98 % of it."""
    for check in review(untouched(kind, bore, stroke, limiter)).stock.checks:
        if check.code == "float":
            assert check.low
            assert check.low * 60 > 0.98 * limiter
            assert "runs to its limiter" in check.why


def test_the_single_that_was_given_twice_the_force_it_has() -> None:
    """An untouched 96 x 62.1 with limiter 11,200: such engines carry 150 to 230 N on the intake seat (common practice, no source)."""
    side = complete(untouched(FINGER, 96, 62.1, 11200)).stock.sides[Side.INTAKE]
    found = seat_load(side, weakest(side))
    assert 150.0 < found.value < 230.0
    assert found.value + found.spread < 280.0


def test_it_can_be_switched_off_per_side_and_then_says_nothing() -> None:
    plain = untouched(FINGER, 96, 62.1, 11200)
    off = replace(plain, facts={"holds_limiter_intake": "no"})
    held, free = complete(plain).stock.sides[Side.INTAKE], complete(off).stock.sides[Side.INTAKE]
    a, b = float_speed(held, weakest(held)), float_speed(free, weakest(free))
    assert a.low
    assert b.low
    assert b.low < 0.95 * 11200 / 60 < a.low
    assert free.joint
    assert free.joint.limiter is None
    other = complete(off).stock.sides[Side.EXHAUST]
    assert other.joint
    assert other.joint.limiter


def test_figures_that_cannot_hold_the_limiter_are_told_not_learnt_from() -> None:
    """A measured train that floats far below its stated limiter: nothing is bent to fit, and the page says that a figure is wrong."""
    record = known_build()
    wrong = replace(record, engine={**record.engine, "limiter": measured(260.0)})
    floats = [check for check in review(wrong).stock.checks if check.code == "float"]
    assert all("look for the figure that is wrong" in check.why for check in floats)
    side = complete(wrong).stock.sides[Side.INTAKE]
    assert float_speed(side, weakest(side)).value < 200.0


def test_typed_figures_condition_the_rest() -> None:
    """Conditioning of a Gaussian in closed form: a heavy valve asks for more seat force, a strong seat for a stiffer spring."""
    engine = {"bore": Figure(0.096), "stroke": Figure(0.0621), "limiter": Figure(11200 / 60)}
    plain = draw_prior(FINGER, Side.INTAKE, engine, {})
    heavy = draw_prior(FINGER, Side.INTAKE, engine, {"valve": Figure(40e-3, 0.4e-3)})
    strong = draw_prior(FINGER, Side.INTAKE, engine, {"seat": Figure(250.0, 5.0)})
    middle = lambda prior, name: weighted(prior.columns[name], EVEN)[1]
    assert middle(heavy, "seat") > 1.03 * middle(plain, "seat")
    assert middle(heavy, "valve") == pytest.approx(40e-3, rel=2e-3)
    assert middle(strong, "rate") > 1.15 * middle(plain, "rate")
    low, value, high = weighted(strong.columns["seat"], EVEN)
    assert (low, value, high) == (pytest.approx(245.0, rel=0.01), pytest.approx(250.0, rel=0.005), pytest.approx(255.0, rel=0.01))
    # rate = (open - seat) / lift in every row, as geometry has it
    rows = plain.columns
    assert np.corrcoef(np.log(rows["rate"]), np.log(rows["surplus"] * rows["seat"] / rows["lift"]))[0, 1] > 0.99


def test_an_outlier_moves_the_others_no_more_than_three_deviations_would() -> None:
    engine = {"bore": Figure(0.096), "stroke": Figure(0.0621), "limiter": Figure(11200 / 60)}
    middle = lambda lift: weighted(draw_prior(FINGER, Side.INTAKE, engine, {"lift": Figure(lift, 0.01e-3)}).columns["rate"], EVEN)[1]
    assert middle(20e-3) > 0.7 * middle(12e-3)


def test_classes_by_make_up_and_size() -> None:
    four = EngineKind(4, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
    assert class_of(four, {"bore": Figure(0.067), "limiter": Figure(14500 / 60)}) is CLASSES["small four"]
    assert class_of(four, {"bore": Figure(0.076), "limiter": Figure(12500 / 60)}) is CLASSES["large four"]
    assert class_of(FINGER, {"bore": Figure(0.077)}) is CLASSES["small four-valve single"]
    assert class_of(EngineKind(3, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER), {"limiter": Figure(130.0)}) is CLASSES["watercraft"]


def test_what_the_stock_engine_taught_counts_for_what_the_proposed_one_shares() -> None:
    """Another spring on the same lobe and masses: rows that the limiter ruled out are ruled out for it too."""
    plain = untouched(FINGER, 96, 62.1, 11200)
    spring = PartRecord("new", {"seat_load": Figure(230.0, 5.0), "rate": Figure(45e3, 900.0)})
    changed = with_proposed(plain, Side.INTAKE, SideRecord(springs=(spring,)))
    off = replace(changed, facts={"holds_limiter_intake": "no"})
    taught, free = (complete(record).proposed.sides[Side.INTAKE] for record in (changed, off))
    a, b = float_speed(taught, weakest(taught)), float_speed(free, weakest(free))
    assert a.low
    assert a.high
    assert b.low
    assert b.high
    assert (a.high - a.low) / a.value < (b.high - b.low) / b.value
    stock = complete(changed).stock.sides[Side.INTAKE]
    assert stock.masses == taught.masses
    assert stock.springs != taught.springs
