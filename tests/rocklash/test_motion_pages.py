"""Motions on the pages: computed apart, then everywhere; the ladder's marks; what cannot be judged."""

import re
from dataclasses import replace

import numpy as np
import pytest

from rocklash.answers.motion import compute_motions, motion_forces, pending, with_motions
from rocklash.answers.results import result_of
from rocklash.records.models import Build, Membership
from rocklash.ui.drawings import rev_ladder
from rocklash.ui.drawings.rev_marks import FloatMark, LadderData, MotionMark, SurgeMark
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.engine import Side
from valvetrain.studies.checks.check import CheckCode
from valvetrain.studies.review.with_motion import motion_limit

SURGE = (SurgeMark("8th outer", "exhaust", 7600, 7700, 7900, 4e-4), SurgeMark("7th inner", "intake", 9000, 9100, 9130, 3e-4))
DATA = LadderData(
    idle=1250, peak=7400, limiter=7800, goal=8400, over_rev=9000, piston=9565, piston_label="piston 22 m/s",
    stock=(FloatMark("intake", 8280, 220), FloatMark("exhaust", 8210, 230)),
    proposed=(FloatMark("intake", 9240, 160), FloatMark("exhaust", 9160, 165)),
)  # fmt: skip


def test_page_comes_at_once_and_asks_for_the_motion(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    page = client.get(address(petrel, "springs/") + "?side=exhaust").content.decode()
    asked = re.search(r'hx-get="([^"]+/motion/\?next=[^"]+)" hx-trigger="load"', page)
    assert asked
    assert "being computed" in page
    assert "proposed exhaust float at speed" not in page
    then = client_for(builder, htmx=True).get(asked.group(1)).content.decode()
    assert "<html" not in then
    assert "proposed exhaust float at speed" in then
    assert "Contact lost for good at" in then
    assert "Least contact at the goal" in then
    assert 'hx-trigger="load"' not in then
    again = client.get(address(petrel)).content.decode()
    assert "Exhaust float at speed (simulated)" in again
    assert "surge" in again


def test_motion_goes_nowhere_else_than_to_this_build(builder: Membership, petrel: Build, stranger: Membership) -> None:
    client = client_for(builder)
    for wrong in ("https://elsewhere.example/", "/sign-in/", address(petrel, "nonsense/"), address(petrel, "motion/")):
        answer = client.get(address(petrel, "motion/"), {"next": wrong})
        assert answer.status_code == 200
        assert "Fixes to try" in answer.content.decode()
    assert client_for(stranger).get(address(petrel, "motion/")).status_code == 404


def test_only_what_changed_is_pending(petrel: Build) -> None:
    answer = result_of(petrel)
    assert pending(with_motions(answer))
    compute_motions(answer)
    done = with_motions(answer)
    assert not pending(done)
    assert set(done.motions) == {(role, side) for role in ("stock", "proposed") for side in Side}
    assert done.review
    checks = [check for check in done.review.proposed.checks if check.code is CheckCode.MOTION]
    assert {check.side for check in checks} == set(Side)
    assert {check.limit for check in checks} == {motion_limit(done.review.completed.goal)}
    assert answer.review
    assert not [check for check in answer.review.proposed.checks if check.code is CheckCode.MOTION]


def test_forces_of_the_page_are_those_of_the_motion_once_known(petrel: Build) -> None:
    answer = result_of(petrel)
    goal = 8400 / 60
    assert motion_forces(answer, Side.INTAKE, goal).moving is None
    compute_motions(answer)
    found = motion_forces(with_motions(answer), Side.INTAKE, goal)
    assert found.moving
    assert found.moving.speed == pytest.approx(goal)
    # on the whole the moving springs give what they give at rest; surge and clash only swing about it
    static = np.interp(found.moving.angle, found.own.angle, found.own.spring)
    raised = found.moving.lift > 1e-3
    assert np.mean(found.moving.spring[raised]) == pytest.approx(np.mean(static[raised]), rel=0.1)
    assert found.own.contact.max() > found.own.spring.max()


def test_ladder_draws_motion_over_float_and_surge_in_its_own_lane() -> None:
    plain = rev_ladder.full(DATA)
    data = replace(
        DATA, proposed_motion=(MotionMark("intake", 8890, 8280, 9330), MotionMark("exhaust", 8590, 6680, 9140)), proposed_surge=SURGE,
        stock_surge=SURGE[:1],
    )  # fmt: skip
    full = rev_ladder.full(data)
    assert full.height == plain.height + 36
    lane = next(lane for lane in full.lanes if lane.proposed and lane.name == "exhaust float")
    assert lane.rigid is not None
    assert lane.low < lane.box < lane.centre < lane.box + lane.box_width < lane.high
    assert lane.label.strong == "8,590"
    assert lane.label.text == "6,680–9,140"
    stock = next(lane for lane in full.lanes if not lane.proposed)
    assert stock.rigid is None
    assert {zone.y < full.rule_top for zone in full.zones} == {True, False}
    assert all(full.left < zone.x and zone.x + zone.width < full.width for zone in full.zones)
    assert any(zone.label and zone.label.text == "8th outer" for zone in full.zones)
    told = {row[0]: row[1:] for row in full.figures().rows}
    assert told["proposed exhaust float at speed"] == ("8,590", "6,680 to 9,140")
    assert any(name.endswith("spring surge, 8th outer") and rpm == "7,700" for name, (rpm, _) in told.items())
    folded = rev_ladder.phone(data)
    assert any("8,590" in lane.label.strong for lane in folded.lanes)


def test_beyond_what_was_tried_is_said_with_a_plus() -> None:
    data = replace(DATA, proposed_motion=(MotionMark("intake", 10000, 9800, 10000, beyond=True),))
    lane = next(lane for lane in rev_ladder.full(data).lanes if lane.proposed and lane.name == "intake float")
    assert lane.label.strong == "10,000+"
