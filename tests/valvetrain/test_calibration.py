"""Anchoring the model on what an engine did, with the kart engine of the trade as the outside check."""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.valvetrain.builders import measured
from valvetrain.errors import StoppedError
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.motion.calibration import Calibration, Observation, calibrate, settles
from valvetrain.studies.motion.case import motion_figures
from valvetrain.studies.train.assembly import complete

LBF = 4.4482216152605


def _unsure(value: float, share: float) -> Figure:
    return Figure(value, value * share, Basis.ESTIMATE)


def _kart(seat: float) -> TrainSide:
    """A push-rod kart single of which little is known: cam from its card, masses and springs by guess; seat load in lbf by its label."""
    mass = {Owner.VALVE: 0.028, Owner.RETAINER: 0.009, Owner.KEEPERS: 0.002, Owner.FOLLOWER: 0.055, Owner.SHIM: 0.001}
    parts = {owner: PartRecord(owner.value, {"mass": _unsure(kg, 0.25)}) for owner, kg in mass.items()}
    cam = {"lift": 6.4e-3, "height_1": 1.0e-3, "duration_1": math.radians(218), "lobe_centre": math.radians(108)}
    cam |= {"ramp_velocity": 0.016e-3 * 180 / math.pi}
    parts[Owner.CAM] = PartRecord("cam", {key: Figure(value, value * 0.01, Basis.CARD) for key, value in cam.items()})
    parts[Owner.VALVE] = PartRecord("valve", {**parts[Owner.VALVE].figures, "head_diameter": measured(25e-3)})
    spring = {
        "rate": _unsure(10.5e3, 0.3), "load": Figure(seat * LBF, seat * LBF * 0.12, Basis.CARD), "load_height": measured(21e-3),
        "solid_height": measured(11e-3), "mass": _unsure(0.011, 0.2),
    }  # fmt: skip
    fit = {"installed_height": 21e-3, "spring_shim": 0.0, "retainer_to_seal": 9e-3, "clearance": 0.08e-3}
    side = SideRecord(parts, (PartRecord("spring", spring),), {key: measured(value) for key, value in fit.items()})
    engine = {"bore": measured(68e-3), "stroke": measured(54e-3), "limiter": measured(60.0)}
    kind = EngineKind(1, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.LASH_CAP)
    sides = dict.fromkeys(Side, side)
    return complete(BuildRecord("kart", kind, engine, {}, Use.STREET, (), sides, dict(sides))).proposed.sides[Side.INTAKE]


@pytest.fixture(scope="module")
def kart() -> tuple[TrainSide, TrainSide, Calibration]:
    stock, strong = _kart(10.8), _kart(18.0)
    return stock, strong, calibrate(stock, strong, Observation(5200 / 60, 100 / 60), count=96)


@pytest.mark.slow
def test_kart_engine_calibrated_at_5200_may_give_up_at_5600_with_the_stronger_springs(
    kart: tuple[TrainSide, TrainSide, Calibration],
) -> None:
    # common practice, no source: 5,200 rpm with stock springs, about 5,600 with springs marked 18 lb
    _, _, found = kart
    assert found.fits == ""
    assert found.after.low * 60 < 5600 < found.after.high * 60
    assert found.after.value > 5200 / 60


def test_calibration_narrows_the_band_and_says_what_decides(kart: tuple[TrainSide, TrainSide, Calibration]) -> None:
    _, strong, found = kart
    before, after = found.before.high - found.before.low, found.after.high - found.after.low
    assert after < 0.85 * before
    assert found.weight > 6.0
    assert found.decides
    name = settles(found.decides, motion_figures(strong))
    assert name in motion_figures(strong)
    assert motion_figures(strong)[name].basis is not Basis.MEASURED


@pytest.mark.slow
def test_an_engine_that_gave_up_far_below_its_valves_is_told_so(kart: tuple[TrainSide, TrainSide, Calibration]) -> None:
    stock, strong, _ = kart
    found = calibrate(stock, strong, Observation(1500 / 60, 60 / 60), count=32)
    assert found.fits == "early"
    assert found.after == found.before
    assert found.learnt == ()
    assert calibrate(stock, strong, Observation(14000 / 60, 60 / 60), count=32).fits == "late"


@pytest.mark.slow
def test_the_same_set_up_is_predicted_where_it_was_seen(kart: tuple[TrainSide, TrainSide, Calibration]) -> None:
    stock, _, _ = kart
    found = calibrate(stock, stock, Observation(5200 / 60, 60 / 60), count=96)
    assert found.observed == found.before  # nothing differs, so every draw gives the same twice
    assert found.after.value * 60 == pytest.approx(5200, rel=0.03)
    assert found.after.low * 60 < 5200 < found.after.high * 60


def test_it_tells_how_far_it_is_and_can_be_stopped(kart: tuple[TrainSide, TrainSide, Calibration]) -> None:
    stock, strong, _ = kart
    heard: list[float] = []

    def until_half(share: float) -> bool:
        heard.append(share)
        return share < 0.5

    with pytest.raises(StoppedError):
        calibrate(stock, strong, Observation(87.0, 1.0), count=32, go_on=until_half)
    assert heard == sorted(heard)
    assert heard[0] == 0.0
    assert heard[-1] == 0.5


def test_what_stays_is_drawn_alike_and_what_changes_is_not() -> None:
    from valvetrain.studies.motion.case import draw

    stock, strong = motion_figures(_kart(10.8)), motion_figures(_kart(18.0))
    one, two = draw(stock, 16), draw(strong, 16)
    row = {name: number for number, name in enumerate(one.names)}
    other = {name: number for number, name in enumerate(two.names)}
    assert np.array_equal(one.values[row["shake:train_stiffness"]], two.values[other["shake:train_stiffness"]])
    assert np.array_equal(one.scores[row["mass:valve"]], two.scores[other["mass:valve"]])
    assert not np.array_equal(one.scores[row["load_0"]], two.scores[other["load_0"]])
    assert replace(stock["load_0"]) != strong["load_0"]
