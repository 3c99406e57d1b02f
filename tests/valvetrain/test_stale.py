"""Which change makes what stale. Common practice, no source."""

import pytest

from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.stale import (
    STEPS_THAT_CHANGE,
    Change,
    State,
    Subject,
    change_of_slot,
    change_of_step,
    change_of_work,
    makes,
    subject_of_gap,
)  # fmt: skip
from valvetrain.studies.head.shop import WORKS

DOHC = EngineKind(1, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
PUSH = EngineKind(1, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.SCREW)
SIDE = EngineKind(1, 1, Gear.SIDE_VALVE, Follower.TAPPET, Adjuster.STEM_GRIND)


@pytest.mark.parametrize(
    ("change", "subject", "kind", "state"),
    [
        (Change.SPRING, Subject.CLEARANCE, DOHC, State.LOOK),
        (Change.SPRING, Subject.PISTON, DOHC, None),
        (Change.RETAINER, Subject.FOLLOWER_GAP, DOHC, State.VOID),
        (Change.VALVE, Subject.CLEARANCE, DOHC, State.VOID),
        (Change.VALVE, Subject.PISTON, DOHC, State.VOID),
        (Change.CAM, Subject.CLEARANCE, DOHC, State.VOID),
        (Change.CAM, Subject.TIMING, DOHC, State.VOID),
        (Change.FOLLOWER, Subject.FOLLOWER_GAP, DOHC, State.VOID),
        (Change.FOLLOWER, Subject.PISTON, DOHC, None),
        (Change.SHIM, Subject.CLEARANCE, DOHC, State.VOID),
        (Change.HEAD, Subject.PISTON, DOHC, State.VOID),
        (Change.HEAD, Subject.TIMING, DOHC, State.VOID),
        (Change.HEAD, Subject.CLEARANCE, DOHC, State.LOOK),
        (Change.HEAD, Subject.CLEARANCE, PUSH, State.VOID),
        (Change.HEAD, Subject.TIMING, PUSH, None),
        (Change.HEAD, Subject.CLEARANCE, SIDE, None),
        (Change.HEAD, Subject.PISTON, SIDE, State.VOID),
        (Change.SEAT, Subject.HEIGHT, DOHC, State.VOID),
        (Change.SEAT, Subject.TIMING, DOHC, None),
        (Change.LAPPED, Subject.CLEARANCE, DOHC, State.VOID),
        (Change.LAPPED, Subject.BIND, DOHC, None),
        (Change.CAMS_OUT, Subject.TIMING, DOHC, State.VOID),
        (Change.CAMS_OUT, Subject.CLEARANCE, DOHC, State.LOOK),
        (Change.CHAIN, Subject.HEIGHT, DOHC, None),
    ],
)
def test_what_a_change_makes_of_what_was_read(change: Change, subject: Subject, kind: EngineKind, state: State | None) -> None:
    assert makes(change, subject, kind) is state


def test_every_slot_and_gap_is_something() -> None:
    slots = ("cam", "low_cam", "valve", "retainer", "keepers", "follower", "shim", "outer_spring", "inner_spring")
    done = {Change.HEAD, Change.SEAT, Change.LAPPED, Change.CAMS_OUT, Change.CHAIN}  # by the head's figures, the machine shop and the job
    assert {change_of_slot(slot) for slot in slots} == set(Change) - done
    assert {change_of_step(step) for step in STEPS_THAT_CHANGE} | {change_of_work(work) for work in WORKS} >= done - {Change.HEAD}
    assert subject_of_gap(GapKind.PISTON_VALVE) is Subject.PISTON
    assert subject_of_gap(GapKind.COIL_BIND) is Subject.BIND
    assert all(subject_of_gap(gap) in set(Subject) for gap in GapKind)
