"""Scenarios of a failure tried in the model: a cam out of time against slider-crank and lobe put together apart, and which way each witness leans."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.valvetrain.builders import known_build, measured
from valvetrain.parts.engine import Side
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.gaps.gaps import RoomReview, room_review
from valvetrain.studies.proof import evidence
from valvetrain.studies.proof.sweep import Jump, meetings, sweep
from valvetrain.studies.train.assembly import CompletedBuild, complete


def built(**engine: float) -> tuple[CompletedBuild, RoomReview]:
    record = known_build()
    record = replace(record, engine={**record.engine, **{key: measured(value) for key, value in engine.items()}})
    done = complete(record)
    return done, room_review(record, done)


def least(done: CompletedBuild, room: RoomReview, side: Side, shift: float) -> float:
    """The least gap with the cam turned by `shift` (crank rad, early positive), put together apart: crank, rod and lobe only."""
    stroke, rod = done.engine["stroke"].value, done.engine["rod_length"].value
    train, place = done.proposed.sides[side], room.geometry.places[side]
    angle = np.radians(np.arange(-170.0, 170.0, 0.05))
    r = stroke / 2.0
    travel = r + rod - (r * np.cos(angle) + np.sqrt(rod**2 - (r * np.sin(angle)) ** 2))
    sign = 1.0 if side is Side.INTAKE else -1.0
    centre = sign * train.lobe_centre.value
    lift = np.maximum(train.curve.lift_at((angle + shift - centre) / 2.0) - train.clearance.value, 0.0)
    tilt, floor = place.angle.value, place.pocket_angle.value
    return float((room.pistons[side].rest.figure.value + travel * math.cos(floor) / math.cos(tilt - floor) - lift).min())


def test_a_cam_out_of_time_meets_the_piston_where_crank_and_lobe_do() -> None:
    done, room = built()
    found = {each.side: each for each in meetings(room, done)}
    assert set(found) == set(Side)
    for side, meeting in found.items():
        for way, shift in ((1.0, meeting.early), (-1.0, meeting.late)):
            if shift is None:
                assert least(done, room, side, way * math.radians(60.0)) > -1e-4
                continue
            assert least(done, room, side, way * shift) < 0.06e-3
            assert least(done, room, side, way * (shift - math.radians(1.0))) > -0.02e-3
    assert found[Side.INTAKE].early is not None  # an intake that opens early chases the piston up
    assert found[Side.EXHAUST].late is not None


def test_teeth_of_the_sprocket_tell_how_many_it_takes() -> None:
    usual, told = (min(meetings(*reversed(built(**more))), key=lambda each: each.teeth) for more in ({}, {"sprocket_teeth": 72.0}))
    assert not usual.told
    assert told.told
    assert told.tooth == pytest.approx(math.radians(10.0))
    assert told.teeth == pytest.approx(2.0 * usual.teeth, rel=1e-6)


def test_the_speed_that_was_reached_is_held_against_every_limit() -> None:
    done, room = built()
    over = done.goal.over_rev
    odds = {}
    for reached in (0.7 * over, 1.3 * over):
        witnesses = sweep(done, room, {}, "", reached=reached)
        odds[reached] = {each.key: each.odds for each in evidence.weigh(["piston_mark"], [], witnesses)}
        assert any("over-rev that was allowed for" in each.why for each in witnesses)
    first, last = odds.values()
    assert last["over_rev"] > 3.0 * first["over_rev"]


def test_jumps_of_clearance_speak_for_what_moves_them() -> None:
    done, room = built()
    closed = sweep(
        done,
        room,
        {},
        "",
        jumps=[Jump(valve="EX 1", start=10.0, end=18.0, amount=-0.08e-3), Jump(valve="EX 2", start=10.0, end=18.0, amount=-0.02e-3)],
    )
    words = next(each for each in closed if each.scenario == "tight")
    assert "EX 1 closed" in words.why
    assert words.factor > 1.0
    opened = sweep(done, room, {}, "", jumps=[Jump(valve="IN 3", start=4.0, end=9.0, amount=0.10e-3)])
    assert next(each for each in opened if each.scenario == "keeper").factor > 1.0


@given(st.sampled_from(list(Verdict)), st.sampled_from(list(Verdict)), st.one_of(st.none(), st.floats(20.0, 400.0)))
@pytest.mark.slow
def test_no_witness_is_the_judge(bind: Verdict, wire: Verdict, reached: float | None) -> None:
    """Whatever the model says, one witness moves the odds by a factor of five at most, and the odds stay odds."""
    witnesses = sweep(
        DONE, ROOM, {}, "", reached=reached, checks=[(GapKind.COIL_BIND, bind, "Coil bind")], strengths=[("spring", wire, "told")],
        jumps=[Jump(valve="EX 1", start=1.0, end=2.0, amount=-0.1e-3)],
    )  # fmt: skip
    assert all(0.2 <= each.factor <= 5.0 for each in witnesses)
    odds = [each.odds for each in evidence.weigh(["piston_mark"], ["clean"], witnesses)]
    assert sum(odds) == pytest.approx(1.0)
    assert min(odds) > 0.0


DONE, ROOM = built()
