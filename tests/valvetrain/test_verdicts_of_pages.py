"""Verdicts that pages show beside the checks: by hand, from their definitions."""

import math
from dataclasses import replace

import pytest

from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure
from valvetrain.studies.cams.degreed_in import correction
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.gaps.at_speed import AtSpeed


@pytest.mark.parametrize(
    ("off", "side", "way", "verdict"),
    [
        (0.9, Side.INTAKE, "", Verdict.HOLDS),
        (2.0, Side.INTAKE, "advance", Verdict.SLIM),
        (-2.0, Side.INTAKE, "retard", Verdict.SLIM),
        (2.0, Side.EXHAUST, "retard", Verdict.SLIM),
        (5.0, Side.EXHAUST, "retard", Verdict.SHORT),
    ],
)
def test_an_error_of_the_centre_is_judged_and_told_which_way(off: float, side: Side, way: str, verdict: Verdict) -> None:
    found = correction(math.radians(off), side, {})
    assert (found.way, found.verdict, found.count) == (way, verdict, 0)


def test_teeth_or_slots_whichever_leave_least() -> None:
    """By hand: 34 teeth are 21.18 crank degrees each, holes 10 against 11 are 6.55: of 7 degrees one slot leaves 0.45, no tooth helps."""
    engine = {"sprocket_teeth": Figure(34.0), "sprocket_holes": Figure(10.0), "flange_holes": Figure(11.0)}
    found = correction(math.radians(7.0), Side.INTAKE, engine)
    assert (found.name, found.count) == ("slot", 1)
    assert math.degrees(found.left) == pytest.approx(7.0 - 720.0 / 110.0, abs=1e-9)
    far = correction(math.radians(21.0), Side.INTAKE, engine)
    assert (far.name, far.count) == ("tooth", 1)
    assert correction(math.radians(3.0), Side.INTAKE, engine | {"flange_holes": Figure(10.0), "sprocket_holes": Figure(9.0)}).steps


def test_what_is_left_at_speed_against_its_limit() -> None:
    left = AtSpeed(Side.INTAKE, 150.0, 2e-3, 0.3e-3, 0.2e-3, 1.5e-3, 0.1, 0.2e-3, known=True)
    assert left.verdict(1.2e-3) is Verdict.HOLDS
    assert left.verdict(1.4e-3) is Verdict.SLIM
    assert left.verdict(1.6e-3) is Verdict.SLIM
    assert replace(left, left=1.0e-3).verdict(1.3e-3) is Verdict.SHORT
