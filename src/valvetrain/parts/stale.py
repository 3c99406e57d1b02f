"""Which change makes what stale: what was read with one part in is not true of another. Source: trade."""

from enum import StrEnum

from valvetrain.parts.engine import Adjuster, EngineKind, Gear
from valvetrain.parts.gaps import GapKind


class Change(StrEnum):
    """What was changed."""

    SPRING = "spring"
    RETAINER = "retainer or keepers"
    VALVE = "valve"
    CAM = "cam"
    FOLLOWER = "follower"
    SHIM = "shim or cap"
    HEAD = "face or gasket"
    SEAT = "seat, face or guide worked on"
    LAPPED = "valve lapped"
    CAMS_OUT = "cams out and back"
    CHAIN = "chain or belt off and on"


class Subject(StrEnum):
    """What was read, or rests on what was read."""

    CLEARANCE = "clearance"
    HEIGHT = "installed height"
    BIND = "coil bind and retainer"
    PISTON = "piston gap"
    TIMING = "cam timing"
    FOLLOWER_GAP = "follower to retainer"
    LOBE_GAP = "lobe to head"


class State(StrEnum):
    """What becomes of it: void, or to be looked at again."""

    VOID = "void"
    LOOK = "look again"


_V, _L = State.VOID, State.LOOK
_TABLE: dict[Change, dict[Subject, State]] = {
    Change.SPRING: {Subject.CLEARANCE: _L, Subject.HEIGHT: _L, Subject.BIND: _V},
    Change.RETAINER: {Subject.CLEARANCE: _L, Subject.HEIGHT: _V, Subject.BIND: _V, Subject.TIMING: _L, Subject.FOLLOWER_GAP: _V},
    Change.VALVE: {Subject.CLEARANCE: _V, Subject.HEIGHT: _V, Subject.BIND: _V, Subject.PISTON: _V, Subject.FOLLOWER_GAP: _V},
    # a piston gap is kept as it is at rest, valve shut: another lobe moves what is computed from it, not the pocket
    Change.CAM: {
        Subject.CLEARANCE: _V,
        Subject.BIND: _V,
        Subject.PISTON: _L,
        Subject.TIMING: _V,
        Subject.FOLLOWER_GAP: _L,
        Subject.LOBE_GAP: _V,
    },
    Change.FOLLOWER: {Subject.CLEARANCE: _V, Subject.FOLLOWER_GAP: _V, Subject.LOBE_GAP: _L},
    Change.SHIM: {Subject.CLEARANCE: _V, Subject.FOLLOWER_GAP: _L},
    Change.SEAT: {Subject.CLEARANCE: _V, Subject.HEIGHT: _V, Subject.BIND: _V, Subject.PISTON: _V, Subject.FOLLOWER_GAP: _L},
    Change.LAPPED: {Subject.CLEARANCE: _V, Subject.HEIGHT: _L},
    Change.CAMS_OUT: {Subject.CLEARANCE: _L, Subject.PISTON: _L, Subject.TIMING: _V},
    Change.CHAIN: {Subject.CLEARANCE: _L, Subject.PISTON: _L, Subject.TIMING: _V},
}
_WORKS = {"seats_new": Change.SEAT, "seats_cut": Change.SEAT, "guides_new": Change.SEAT, "faces": Change.SEAT, "lap": Change.LAPPED}
_STEPS = {"v02": Change.LAPPED, "n08": Change.CAMS_OUT, "n14": Change.CHAIN, "n15": Change.CHAIN}
STEPS_THAT_CHANGE = tuple(_STEPS)
_SLOTS = {
    "outer_spring": Change.SPRING, "inner_spring": Change.SPRING, "retainer": Change.RETAINER, "keepers": Change.RETAINER, "valve": Change.VALVE,
    "cam": Change.CAM, "low_cam": Change.CAM, "follower": Change.FOLLOWER, "shim": Change.SHIM,
}  # fmt: skip
_GAPS = {
    GapKind.COIL_BIND: Subject.BIND, GapKind.RETAINER: Subject.BIND, GapKind.NESTED: Subject.BIND, GapKind.SPRING_POCKET: Subject.BIND,
    GapKind.FOLLOWER: Subject.FOLLOWER_GAP, GapKind.LOBE_HEAD: Subject.LOBE_GAP,
}  # fmt: skip


def change_of_slot(slot: str) -> Change:
    """What kind of change another part in a slot is."""
    return _SLOTS[slot]


def change_of_work(work: str) -> Change | None:
    """What kind of change a work of the machine shop is; None for one that moves nothing that was read."""
    return _WORKS.get(work)


def change_of_step(step: str) -> Change:
    """What kind of change a step of a job is, of STEPS_THAT_CHANGE."""
    return _STEPS[step]


def subject_of_gap(gap: GapKind) -> Subject:
    """What kind of reading a gap is."""
    return _GAPS.get(gap, Subject.PISTON)


def makes(change: Change, subject: Subject, kind: EngineKind) -> State | None:
    """What a change makes of something that was read before it; None where it stays."""
    if change is not Change.HEAD:
        return _TABLE[change].get(subject)
    if subject is Subject.PISTON:
        return State.VOID
    if kind.gear is Gear.PUSH_ROD and subject is Subject.CLEARANCE:  # the head carries the rockers, the block the cam
        return State.VOID
    if kind.gear in (Gear.DOHC, Gear.OHC):
        return {Subject.TIMING: State.VOID, Subject.CLEARANCE: State.LOOK if kind.adjuster is not Adjuster.HYDRAULIC else None}.get(subject)
    return None
