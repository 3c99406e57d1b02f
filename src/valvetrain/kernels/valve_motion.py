"""The equation of motion of one valve with its springs, marched in time for many speeds side by side.

One valve node rides on a lobe through a stiff one-sided contact, sits on a one-sided seat, and carries springs that are chains of
masses. Time steps are leapfrog (half-step velocities). All speeds of a call share one table of cam angles, so that they march in step:
the inner loops run over `LANES` speeds and become vector instructions. Rows of one flat array keep the compiler sure that nothing
overlaps; unsigned indices spare it the wrap-around of negative ones. Both together are worth a factor of 3.5.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

Array = NDArray[np.float64]

LANES = 16
# Rows of the state that belong to the valve, each LANES wide; the springs' chains follow.
POSITION, STEP, FORCE, WEIGHT, CONTACT_DAMPING, SEAT_DAMPING = range(6)
GAP, LOST_AT, SEATING, BOUNCE, CONTACT_MOST, CONTACT_LEAST, SEAT_MOST, WORK = range(6, 14)
VALVE_ROWS = 14
# Columns of the table of springs, one row a spring; everything of one segment of the chain, SI.
RATE, BEND, ROOM, CLASH, PRELOAD = range(5)
# Columns of the table of the train.
CONTACT_RATE, SEAT_RATE, ONE_OVER_FADE, LOSS = range(4)
# Channels of a trace: three of the valve, then four of each spring.
LIFT, CONTACT, SEAT = range(3)
SURGE, TOP_FORCE, COIL_FORCE, CLASHING = range(4)

_NODE = 5  # rows of a node: position, displacement per step, force of the link above it, dt^2 / m, damping of the link below / dt
_FAR = 1e9  # stands for "not seen yet" in a least force and an angle step; infinity is excluded by the arithmetic flags


def state_rows(springs: int, nodes: int) -> int:
    """Rows of a state: the valve's, and the chains of the springs with a place for each end."""
    return VALVE_ROWS + springs * (nodes + 2) * _NODE


def node_row(nodes: int, spring: int, node: int) -> int:
    """First row of a chain's node; node 0 repeats the valve, node `nodes` + 1 is the fixed seat."""
    return VALVE_ROWS + (spring * (nodes + 2) + node) * _NODE


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nsz", "arcp", "nnan", "ninf"})
def march(  # noqa: PLR0915  (one loop: what the compiler must see whole)
    state: Array, springs: Array, train: Array, lift: Array, zone: Array, modes: Array, cycles: int, every: int, trace: Array
) -> None:  # pragma: no cover  (compiled)
    """March `cycles` turns of the cam; watches and trace are those of the last turn.

    `state` flat, `state_rows` x LANES; `springs` (springs, 5); `train` (4,); `lift` m less clearance, one value a step, negative where
    the lobe is clear; `zone` 1 where loss of contact counts; `modes` (nodes + 2) shape of the first own motion; `trace`
    (3 + 4 springs, samples, LANES), a sample each `every` steps. Writes into `state` and `trace`.
    """
    u = np.uint64
    lanes, one, steps = u(LANES), u(1), u(lift.size)
    count, chain = u(springs.shape[0]), u(modes.size)
    nodes = chain - u(2)
    row = lanes
    y, v, force, weight, hold_c, hold_s = u(0), row, u(2) * row, u(3) * row, u(4) * row, u(5) * row
    gap, lost, seating, bounce = u(6) * row, u(7) * row, u(8) * row, u(9) * row
    most, least, seat_most, work = u(10) * row, u(11) * row, u(12) * row, u(13) * row
    first = u(14) * row
    node = u(5) * row
    contact_rate, seat_rate, fade, loss = train[0], train[1], train[2], train[3]
    nose = u(np.argmax(lift))
    gather = u(every)
    last_turn = u(cycles) - one
    before = lift[steps - one]
    for turn in range(u(cycles)):
        if turn == last_turn:
            for lane in range(lanes):
                state[gap + lane] = 0.0
                state[lost + lane] = _FAR
                state[seating + lane] = 0.0
                state[bounce + lane] = 0.0
                state[most + lane] = 0.0
                state[least + lane] = _FAR
                state[seat_most + lane] = 0.0
                state[work + lane] = 0.0
        for i in range(steps):
            h = lift[i]
            rise = h - before
            before = h
            counts = zone[i]
            now = turn == last_turn and i % gather == u(0)
            sample = i // gather
            for lane in range(lanes):
                state[force + lane] = 0.0
            for number in range(count):
                k, b, room = springs[number, 0], springs[number, 1], springs[number, 2]
                clash, preload = springs[number, 3], springs[number, 4]
                top = first + number * chain * node
                for lane in range(lanes):
                    state[top + lane] = state[y + lane]
                    state[top + row + lane] = state[v + lane]
                if now:
                    channel = u(3) + number * u(4)
                    for lane in range(lanes):
                        trace[channel, sample, lane] = 0.0
                        trace[channel + u(2), sample, lane] = -_FAR
                        trace[channel + u(3), sample, lane] = -_FAR
                    for j in range(nodes + one):
                        q = top + j * node
                        for lane in range(lanes):
                            x = state[q + lane]
                            d = x - state[q + node + lane]
                            dv = state[q + row + lane] - state[q + node + row + lane]
                            f = preload + d * (k + b * max(d, 0.0)) + state[q + u(4) * row + lane] * dv + clash * max(d - room, 0.0)
                            straight = state[y + lane] * (u(1) * (nodes + one - j)) / (nodes + one)
                            trace[channel, sample, lane] += modes[j] * (x - straight)
                            trace[channel + u(2), sample, lane] = max(trace[channel + u(2), sample, lane], f)
                            trace[channel + u(3), sample, lane] = max(trace[channel + u(3), sample, lane], d - room)
                # the link at the top never pulls: the retainer is not tied to the spring
                for lane in range(lanes):
                    d = state[top + lane] - state[top + node + lane]
                    dv = state[top + row + lane] - state[top + node + row + lane]
                    f = preload + d * (k + b * max(d, 0.0)) + state[top + u(4) * row + lane] * dv + clash * max(d - room, 0.0)
                    state[top + node + u(2) * row + lane] = max(f, 0.0)
                for lane in range(lanes):
                    state[force + lane] += state[top + node + u(2) * row + lane]
                if now:
                    for lane in range(lanes):
                        trace[u(4) + number * u(4), sample, lane] = state[top + node + u(2) * row + lane]
                for j in range(one, nodes):
                    q = top + j * node
                    for lane in range(lanes):
                        x, s = state[q + lane], state[q + row + lane]
                        d = x - state[q + node + lane]
                        dv = s - state[q + node + row + lane]
                        f = preload + d * (k + b * max(d, 0.0)) + state[q + u(4) * row + lane] * dv + clash * max(d - room, 0.0)
                        s += state[q + u(3) * row + lane] * (state[q + u(2) * row + lane] - f)
                        state[q + node + u(2) * row + lane] = f
                        state[q + row + lane] = s
                        state[q + lane] = x + s
                q = top + nodes * node
                for lane in range(lanes):
                    x, s = state[q + lane], state[q + row + lane]
                    f = max(preload + x * (k + b * max(x, 0.0)) + state[q + u(4) * row + lane] * s + clash * max(x - room, 0.0), 0.0)
                    s += state[q + u(3) * row + lane] * (state[q + u(2) * row + lane] - f)
                    state[q + row + lane] = s
                    state[q + lane] = x + s
            late = 1.0 if i >= nose else 0.0
            clear = 1.0 if h < 0.0 and i >= nose else 0.0
            ignored = 0.0 if counts > 0.0 else _FAR
            place = float(i)
            # everything is read before anything is chosen, and choices are plain selects: so this loop stays a vector loop too
            for lane in range(lanes):
                x, s = state[y + lane], state[v + lane]
                seated, high, seen = state[seating + lane], state[bounce + lane], state[lost + lane]
                press = max(h - x, 0.0)
                sunk = max(-x, 0.0)
                push = max(contact_rate * press + state[hold_c + lane] * min(press * fade, 1.0) * (rise - s), 0.0)
                stop = max(seat_rate * sunk - state[hold_s + lane] * min(sunk * fade, 1.0) * s, 0.0)
                apart = (x - h) * counts
                to = x + s + state[weight + lane] * (push + stop - state[force + lane])
                s = to - x
                at = place if apart > loss else _FAR
                down = s * late if x > 0.0 else 0.0
                hit = down if to <= 0.0 else 0.0
                up = to * clear
                state[gap + lane] = max(state[gap + lane], apart)
                state[lost + lane] = min(seen, at)
                state[most + lane] = max(state[most + lane], push)
                state[least + lane] = min(state[least + lane], push + ignored)
                state[seat_most + lane] = max(state[seat_most + lane], stop)
                state[work + lane] += push * rise
                # only the first touch is the seating; what comes up after it is bounce
                rebound = up if seated < 0.0 else 0.0
                state[seating + lane] = seated if seated < 0.0 else hit
                state[bounce + lane] = max(high, rebound)
                state[v + lane] = s
                state[y + lane] = to
                state[force + lane] = push  # kept for the trace: the force of the springs is spent
            if now:
                for lane in range(lanes):
                    trace[u(0), sample, lane] = state[y + lane] - state[v + lane]
                    trace[u(1), sample, lane] = state[force + lane]
                    trace[u(2), sample, lane] = max(-(state[y + lane] - state[v + lane]), 0.0) * seat_rate
