"""The motion of one valve written a second time, as one would for scipy's solve_ivp: SI, one speed, no thought of speed."""

import math

import numpy as np
from numpy.typing import NDArray
from scipy.integrate import solve_ivp

from valvetrain.parts.lift_curve import LiftCurve
from valvetrain.studies.motion.sweep import MotionCase, MovingSpring

Array = NDArray[np.float64]
HALF = math.radians(80.0)
FADE = 5e-6


def smooth_lobe(full: float = 9e-3, half: float = HALF, points: int = 4001) -> LiftCurve:
    """full (1 - x^2)^3: smooth to the second derivative where it meets the base circle, closed form everywhere."""
    x = np.linspace(-1.0, 1.0, points)
    terms = [full * np.polynomial.Polynomial([1, 0, -1]) ** 3]
    for _ in range(3):
        terms.append(terms[-1].deriv())
    return LiftCurve(x * half, *(np.asarray(term(x)) / half**n for n, term in enumerate(terms)))


def two_springs(damping: float = 0.02) -> tuple[MovingSpring, ...]:
    return (MovingSpring(27e3, 190.0, 33e-3, 12.5e-3, damping), MovingSpring(14e3, 100.0, 12e-3, 14e-3, damping))


def example(**changes: float) -> MotionCase:
    figures = {"clearance": 0.2e-3, "mass": 0.075, "train_stiffness": 20e6, "train_damping": 0.07, "seat_stiffness": 60e6}
    figures |= {"seat_damping": 0.15, "clash": 20.0} | changes
    return MotionCase(curve=smooth_lobe(), springs=two_springs(), **figures)


def lobe(case: MotionCase, angle: float) -> tuple[float, float]:
    """Lift less clearance (m) and its slope (m/rad) from the closed form."""
    x = ((angle + math.pi) % (2 * math.pi) - math.pi) / HALF
    if abs(x) >= 1.0:
        return -case.clearance, 0.0
    return case.curve.full * (1 - x * x) ** 3 - case.clearance, -6 * case.curve.full * x * (1 - x * x) ** 2 / HALF


def forces(case: MotionCase, nodes: int, state: Array, cam: tuple[float, float]) -> tuple[Array, float]:
    """Accelerations of valve and nodes (m/s2), and the contact force (N); `cam` is lift and velocity of the lobe."""
    segments = nodes + 1
    share = (math.sin(math.pi / 2 / segments) / (math.pi / 2 / segments)) ** 2
    y, v = state[0], state[1]
    felt = case.mass + sum(s.mass for s in case.springs) / 3.0
    press, sunk = max(cam[0] - y, 0.0), max(-y, 0.0)
    damp = 2 * case.train_damping * math.sqrt(case.train_stiffness * felt) * min(press / FADE, 1.0)
    push = max(case.train_stiffness * press + damp * (cam[1] - v), 0.0)
    damp = 2 * case.seat_damping * math.sqrt(case.seat_stiffness * felt) * min(sunk / FADE, 1.0)
    total = push + max(case.seat_stiffness * sunk - damp * v, 0.0)
    out = np.zeros_like(state)
    valve = case.mass
    for number, spring in enumerate(case.springs):
        at = 2 + 2 * nodes * number
        x = np.concatenate([[y], state[at : at + nodes], [0.0]])
        w = np.concatenate([[v], state[at + nodes : at + 2 * nodes], [0.0]])
        rate = spring.rate * segments
        squeeze = -np.diff(x)
        force = spring.preload + rate * squeeze - 2 * spring.damping * rate / (math.pi * math.sqrt(spring.rate / spring.mass)) * np.diff(w)
        force += case.clash * rate * np.maximum(squeeze - spring.room / segments, 0.0)
        force[0], force[-1] = max(force[0], 0.0), max(force[-1], 0.0)
        out[at : at + nodes] = w[1:-1]
        out[at + nodes : at + 2 * nodes] = -np.diff(force) / (spring.mass / segments * share)
        valve += spring.mass / 2 / segments
        total -= force[0]
    out[0], out[1] = v, total / valve
    return out, push


def rest(case: MotionCase, nodes: int) -> Array:
    start = np.zeros(2 + 2 * nodes * len(case.springs))
    start[0] = -sum(spring.preload for spring in case.springs) / case.seat_stiffness
    return start


def surge_of(case: MotionCase, speed: float, angles: Array, nodes: int = 8) -> Array:
    """Amplitude (m) of each spring's first own motion at cam angles in the first turn from rest: what each mass stands off the straight line
    between valve and seat, projected on the first mode, by scipy alone. Shape (springs, angles)."""
    omega = math.pi * speed

    def right(t: float, state: Array) -> Array:
        lift, slope = lobe(case, omega * t - math.pi)
        return forces(case, nodes, state, (lift, slope * omega))[0]

    times = (angles + math.pi) / omega
    found = solve_ivp(right, (0.0, 2 * math.pi / omega), rest(case, nodes), "DOP853", times, rtol=1e-8, atol=1e-11, max_step=4e-5)
    at = np.arange(1, nodes + 1)
    mode, straight = np.sin(math.pi * at / (nodes + 1)), 1.0 - at / (nodes + 1)
    off = [found.y[2 + 2 * nodes * n : 2 + 2 * nodes * n + nodes] - straight[:, None] * found.y[0] for n in range(len(case.springs))]
    return np.array([2.0 / (nodes + 1) * mode @ each for each in off])


def one_turn(case: MotionCase, speed: float, angles: Array, nodes: int = 8, method: str = "DOP853", tolerance: float = 1e-9) -> Array:
    """Valve position (m) at cam angles (rad from the nose, -pi to pi) in the first turn from rest; crank speed in rev/s."""
    omega = math.pi * speed

    def right(t: float, state: Array) -> Array:
        lift, slope = lobe(case, omega * t - math.pi)
        return forces(case, nodes, state, (lift, slope * omega))[0]

    end = 2 * math.pi / omega
    times = (angles + math.pi) / omega
    found = solve_ivp(
        right, (0.0, end), rest(case, nodes), method=method, t_eval=times, rtol=tolerance, atol=tolerance * 1e-3, max_step=4e-5
    )
    return np.asarray(found.y[0])
