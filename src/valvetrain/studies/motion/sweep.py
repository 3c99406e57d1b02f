"""How one valve really moves at speed: stiff train, one-sided contact and seat, springs as distributed masses with coil clash.

The model and its unknowns: docs/how-the-numbers-are-made.md. Source: norton_cam, ch. 8 (single mass on a train), wahl1963 (surge).
"""

import math
import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valvetrain.errors import ContradictionError, OutOfRangeError
from valvetrain.kernels import valve_motion as kernel
from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.units import LENGTH, amount

Array = NDArray[np.float64]

NODES = 8  # inner masses of each spring; first surge frequency within 0.5 % before its correction, exact after it
SAMPLES = 720  # of a trace, over one turn of the cam
LOSS = 20e-6  # m; a gap below this is chatter of the contact, not loss of it. Source: judgement, tried
_FULL_ENOUGH = 0.1  # share of full lift above which loss of contact counts: below it the valve is about to sit anyway
_FADE = 5e-6  # m of penetration over which damping of a contact comes in, so that touching makes no jump of force
_LONGEST_STEP = 4e-6  # s
_STABLE = 0.35  # longest step times the quickest own motion of the chain, rad
_TURNS_LEAST, _TURNS_MOST, _DECAY = 3, 14, math.log(50.0)


@dataclass(frozen=True)
class MovingSpring:
    """One spring as the motion sees it, SI: `preload` N with the valve shut, `rate` N/m and `bend` N/m^2 there, `mass` of its active coils,
    `room` m from shut to solid, `damping` ratio of its first own motion, `end` the mass of the dead coil that moves with the retainer."""

    rate: float
    preload: float
    mass: float
    room: float
    damping: float
    bend: float = 0.0
    end: float = 0.0

    @property
    def own(self) -> float:
        """First own circular frequency, held at both ends, rad/s (source: wahl1963)."""
        return math.pi * math.sqrt(self.rate / self.mass)


@dataclass(frozen=True)
class MotionCase:
    """One valve and what moves it, SI. `mass` is that of all moving parts at the valve without springs; stiffnesses are at the valve.

    `lift_scale` and `width_scale` stretch the curve to see what their spread does; `clash` is the stiffness of closed coils over
    that of open ones; `rounding` (rad of cam) rounds the corners of a lobe that is only drawn through card figures.
    """

    curve: LiftCurve
    clearance: float
    mass: float
    springs: tuple[MovingSpring, ...]
    train_stiffness: float
    train_damping: float
    seat_stiffness: float
    seat_damping: float
    clash: float
    lift_scale: float = 1.0
    width_scale: float = 1.0
    rounding: float = 0.0

    @property
    def felt_mass(self) -> float:
        """Mass at the valve with a third of the springs' active coils and their upper ends, kg (source: rayleigh)."""
        return self.mass + sum(spring.mass / 3.0 + spring.end for spring in self.springs)

    def lobe_at(self, angle: Array) -> Array:
        """What the lobe asks of the valve at cam angles (rad from the nose), m, clearance off; negative where it is clear of it."""
        return self.lift_scale * self.curve.smooth_lift_at(angle / self.width_scale) - self.clearance

    def check(self) -> None:
        """Raise ContradictionError with a sentence where no motion can be computed."""
        open_room = self.curve.full * self.lift_scale - self.clearance
        for number, spring in enumerate(self.springs):
            which = "spring" if len(self.springs) == 1 else ("outer spring", "inner spring")[number]
            if spring.preload <= 0.0:
                raise ContradictionError(f"The {which} is longer than its space: with the valve shut it does not push.")
            if spring.room < open_room:
                raise ContradictionError(
                    f"The {which} is solid after {amount(spring.room, LENGTH)}, before the full lift of {amount(open_room, LENGTH)}."
                )
        if self.mass <= 0.0 or min(spring.mass for spring in self.springs) <= 0.0:
            raise ContradictionError("A moving mass must be above zero.")


@dataclass(frozen=True, eq=False)
class Sweep:
    """What the valve does at each speed. Arrays of n speeds; those of springs (springs, n); SI.

    `gap` greatest distance from the lobe while it counts; `lost_at` cam angle (rad from the nose) where it first exceeds LOSS, NaN
    where it does not; `seating` m/s at the first touch of the seat; `bounce` height after it; `contact_most`, `contact_least`,
    `seat_most` N; `surge` amplitude m of a spring's first own motion; `coil_force` greatest N anywhere in a spring; `clashing` m by
    which coils press into one another, negative where they stay apart; `work` J that the cam gave in the last turn.
    `case` is what was swept. `trace` (3 + 4 springs, SAMPLES, n) over one turn of the cam from the base circle, channels as in the kernel.
    """

    speed: Array
    gap: Array
    lost_at: Array
    seating: Array
    bounce: Array
    contact_most: Array
    contact_least: Array
    seat_most: Array
    surge: Array
    coil_force: Array
    clashing: Array
    work: Array
    trace: NDArray[np.float32]
    state: Array
    case: MotionCase

    @property
    def loses(self) -> NDArray[np.bool_]:
        """Whether contact is lost."""
        return self.gap > LOSS


@dataclass(frozen=True, eq=False)
class _Block:
    speeds: Array
    state: Array
    trace: Array
    steps: int


def step_limit(case: MotionCase, nodes: int) -> float:
    """Longest stable and accurate time step, s."""
    fastest = max(2.0 * (nodes + 1) * math.sqrt(s.rate * (1.0 + case.clash) / s.mass) for s in case.springs)
    return min(_LONGEST_STEP, _STABLE / fastest)


def _turns(case: MotionCase, fastest: float) -> int:
    """Turns of the cam until a surge left over from before has died to a fiftieth."""
    decay = min(spring.damping * spring.own for spring in case.springs)
    return int(min(max(math.ceil(_DECAY / (decay * 2.0 / fastest)), _TURNS_LEAST), _TURNS_MOST))


@lru_cache(maxsize=64)
def _modes(nodes: int) -> Array:
    return np.sin(math.pi * np.arange(nodes + 2) / (nodes + 1))


def _rounded(lift: Array, reach: float) -> Array:
    """Three moving averages, whose window reaches `reach` points to each side: corners of the third degree and below go."""
    half = int(reach / 3.0 + 0.5)
    for _ in range(3 if half else 0):
        padded = np.concatenate([lift[-half:], lift, lift[:half]])
        total = np.concatenate([[0.0], np.cumsum(padded)])
        lift = (total[2 * half + 1 :] - total[: -2 * half - 1]) / (2 * half + 1)
    return lift


def _lift(case: MotionCase, steps: int) -> tuple[Array, Array]:
    angle = np.linspace(-math.pi, math.pi, steps, endpoint=False)
    lift = case.lift_scale * _rounded(case.curve.smooth_lift_at(angle / case.width_scale), case.rounding / (2.0 * math.pi) * steps)
    return lift - case.clearance, (lift > _FULL_ENOUGH * case.curve.full * case.lift_scale).astype(float)


def _prepare(case: MotionCase, dt: Array, nodes: int) -> tuple[Array, Array, Array]:
    """State at rest on the seat, table of springs, table of the train."""
    count, segments = len(case.springs), nodes + 1
    state = np.zeros((kernel.state_rows(count, nodes), kernel.LANES))
    preload = sum(spring.preload for spring in case.springs)
    state[kernel.POSITION] = -preload / case.seat_stiffness
    valve = case.mass + sum(spring.end + spring.mass / (2.0 * segments) for spring in case.springs)
    state[kernel.WEIGHT] = dt**2 / valve
    felt = case.felt_mass
    state[kernel.CONTACT_DAMPING] = 2.0 * case.train_damping * math.sqrt(case.train_stiffness * felt) / dt
    state[kernel.SEAT_DAMPING] = 2.0 * case.seat_damping * math.sqrt(case.seat_stiffness * felt) / dt
    table = np.zeros((count, 5))
    x = math.pi / (2.0 * segments)
    for number, spring in enumerate(case.springs):
        rate = spring.rate * segments
        table[number] = (rate, spring.bend * segments**2, spring.room / segments, case.clash * rate, spring.preload)
        # masses a little lighter than their share, so that the chain's first own frequency is the continuous spring's
        each = spring.mass / segments * (math.sin(x) / x) ** 2
        for node in range(nodes + 1):
            row = kernel.node_row(nodes, number, node)
            state[row + 3], state[row + 4] = dt**2 / each, 2.0 * spring.damping * rate / spring.own / dt
    return state, table, np.array([case.train_stiffness, case.seat_stiffness, 1.0 / _FADE, LOSS])


def _march(case: MotionCase, speeds: Array, nodes: int, finer: float, turns: int) -> _Block:
    lanes = np.resize(speeds, kernel.LANES) if len(speeds) < kernel.LANES else speeds
    turn = 2.0 / lanes  # the cam turns once in two turns of the crank
    every = max(math.ceil(turn.max() / (step_limit(case, nodes) / finer) / SAMPLES), 1)
    steps = every * SAMPLES
    lift, zone = _lift(case, steps)
    state, table, train = _prepare(case, turn / steps, nodes)
    trace = np.zeros((3 + 4 * len(case.springs), SAMPLES, kernel.LANES))
    flat = state.reshape(-1)
    kernel.march(flat, table, train, lift, zone, _modes(nodes), turns or _turns(case, float(lanes.max())), every, trace)
    return _Block(speeds, flat.reshape(-1, kernel.LANES), trace, steps)


class _Pool:
    """Threads for blocks, made on first use in each process: the compiled march gives the interpreter free."""

    def __init__(self) -> None:
        self._made: tuple[int, ThreadPoolExecutor] | None = None

    def threads(self) -> ThreadPoolExecutor:
        if self._made is None or self._made[0] != os.getpid():
            self._made = (os.getpid(), ThreadPoolExecutor(max_workers=os.cpu_count() or 1, thread_name_prefix="motion"))
        return self._made[1]


_pool = _Pool()


def _gather(case: MotionCase, blocks: list[_Block], nodes: int) -> Sweep:
    cut = [len(block.speeds) for block in blocks]
    speed = np.concatenate([block.speeds for block in blocks])

    def row(number: int) -> Array:
        return np.concatenate([block.state[number, :n] for block, n in zip(blocks, cut, strict=True)])

    trace = np.concatenate([block.trace[:, :, :n] for block, n in zip(blocks, cut, strict=True)], axis=2)
    steps = np.concatenate([np.full(n, block.steps, dtype=float) for block, n in zip(blocks, cut, strict=True)])
    at = row(kernel.LOST_AT)
    dt = 2.0 / speed / steps
    count = len(case.springs)
    own = [trace[3 + 4 * number : 7 + 4 * number] for number in range(count)]
    share = 2.0 / (nodes + 1)
    trace[[3 + 4 * number for number in range(count)]] *= share  # `own` are views of it
    return Sweep(
        speed=speed,
        gap=row(kernel.GAP),
        lost_at=np.where(at < steps, at / steps * 2.0 * math.pi - math.pi, np.nan),
        seating=-row(kernel.SEATING) / dt,
        bounce=row(kernel.BOUNCE),
        contact_most=row(kernel.CONTACT_MOST),
        contact_least=row(kernel.CONTACT_LEAST),
        seat_most=row(kernel.SEAT_MOST),
        surge=np.array([np.abs(channels[kernel.SURGE]).max(axis=0) for channels in own]),
        coil_force=np.array([channels[kernel.COIL_FORCE].max(axis=0) for channels in own]),
        clashing=np.array([channels[kernel.CLASHING].max(axis=0) for channels in own]),
        work=row(kernel.WORK),
        trace=trace.astype(np.float32),
        case=case,
        state=np.concatenate([block.state[:, :n] for block, n in zip(blocks, cut, strict=True)], axis=1),
    )


def sweeps(cases: list[tuple[MotionCase, Array]], *, nodes: int = NODES, finer: float = 1.0, turns: int = 0) -> list[Sweep]:
    """March each case at its crank speeds (rev/s, increasing); `finer` divides the time step, `turns` of the cam 0 for as many as settle it.

    Raises ContradictionError for a case that cannot move so, OutOfRangeError for a speed of zero or below.
    """
    work = []
    for number, (case, speeds) in enumerate(cases):
        case.check()
        if not len(speeds) or speeds.min() <= 0.0:
            raise OutOfRangeError("A sweep needs speeds above zero.")
        work += [(number, case, speeds[at : at + kernel.LANES]) for at in range(0, len(speeds), kernel.LANES)]
    done = list(_pool.threads().map(lambda item: _march(item[1], item[2], nodes, finer, turns), work))
    found = []
    for number, (case, _) in enumerate(cases):
        blocks = [block for (each, _, _), block in zip(work, done, strict=True) if each == number]
        found.append(_gather(case, blocks, nodes))
    return found


def sweep(case: MotionCase, speeds: Array, *, nodes: int = NODES, finer: float = 1.0, turns: int = 0) -> Sweep:
    """March one case at many crank speeds; see `sweeps`."""
    return sweeps([(case, speeds)], nodes=nodes, finer=finer, turns=turns)[0]


def with_damping(case: MotionCase, ratio: float) -> MotionCase:
    """The same case with another damping of its springs."""
    return replace(case, springs=tuple(replace(spring, damping=ratio) for spring in case.springs))


def warm() -> None:
    """Load (or compile and keep) the march, so that no request waits for it."""
    angle = np.linspace(-1.0, 1.0, 64)
    flank = (1.0 - angle**2) ** 2 * 8e-3
    curve = LiftCurve(angle, flank, -4.0 * angle * (1.0 - angle**2) * 8e-3, np.zeros(64), np.zeros(64))
    spring = MovingSpring(30e3, 200.0, 30e-3, 12e-3, 0.1)
    _march(
        MotionCase(
            curve=curve,
            clearance=1e-4,
            mass=0.08,
            springs=(spring,),
            train_stiffness=20e6,
            train_damping=0.07,
            seat_stiffness=60e6,
            seat_damping=0.15,
            clash=20.0,
        ),
        np.array([100.0]),
        2,
        0.05,
        3,
    )
