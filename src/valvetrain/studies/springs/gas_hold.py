"""Does the spring hold the valve shut against the gas, over a range of boost, closed and just off its seat."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valvetrain.formulas.gas_loads import opening_force
from valvetrain.parts.engine import Side
from valvetrain.parts.setup import Goal, TrainSide
from valvetrain.studies.train.estimates import CLOSED_THROTTLE
from valvetrain.studies.train.side_figures import nominal_force, nominal_seat_load, weakest

Array = NDArray[np.float64]

_CRACK = 0.1e-3  # m of lift at which gas reaches under the whole head. Source: judgement
_POINTS = 41


@dataclass(frozen=True, eq=False)
class GasHold:
    """One side over pressures at its port (Pa gauge): force the gas takes closed and just off the seat (N), and what the springs give.

    Intake: boost in the port against an ambient cylinder. Exhaust, over the mean back pressure, the worse of two moments at the goal: pulses
    against a cylinder at intake pressure, or `lifting_off`, mean back pressure against a cylinder below ambient. `lifts_at` is where the gas alone outweighs the spring,
    `kept` the force left on the seat at the goal, `returns` the force that shuts the valve again from just off its seat at the goal.
    """

    pressure: Array
    closed: Array
    cracked: Array
    seat: float
    just_open: float
    goal: float
    lifts_at: float | None
    kept: float
    returns: float
    pulse: float
    lifting_off: bool = False


def gas_hold(side: TrainSide, goal: Goal) -> GasHold:
    """Gas against spring on the weakest valve, from nothing to twice the goal's pressure (source: statics)."""
    intake = side.side is Side.INTAKE
    at_goal = goal.boost.value if intake else goal.back_pressure.value
    pressure = np.linspace(0.0, max(2.0 * at_goal, 0.5e5), _POINTS)
    head, seat, stem = side.head_diameter.value, side.seat_width.value, side.stem_diameter.value
    # exhaust: pulses against the boosted cylinder, or what is left behind the valve on lifting off against one below ambient
    power, lifted = (1.0 if intake else goal.pulse_factor.value, 0.0 if intake else goal.boost.value), (1.0, CLOSED_THROTTLE.value)
    seal = head - seat
    worse = not intake and opening_force(at_goal, lifted[1], 0.0, seal, stem) > opening_force(at_goal * power[0], power[1], 0.0, seal, stem)
    pulse, cylinder = lifted if worse else power

    def force(port: float, seal: float) -> float:
        return opening_force(port * pulse, cylinder, 0.0, seal, stem)

    closed = np.array([force(float(port), head - seat) for port in pressure])
    cracked = np.array([force(float(port), head) for port in pressure])
    place = weakest(side)
    load = nominal_seat_load(side, place)
    just = float(nominal_force(side, place, np.array(_CRACK)))
    over = closed > load
    slope = (closed[-1] - closed[0]) / (pressure[-1] - pressure[0])
    lifts_at = float(pressure[0] + (load - closed[0]) / slope) if slope > 0.0 else None
    if lifts_at is not None and not over.any() and lifts_at > 10.0 * pressure[-1]:
        lifts_at = None
    return GasHold(
        pressure=pressure,
        closed=closed,
        cracked=cracked,
        seat=load,
        just_open=just,
        goal=at_goal,
        lifts_at=lifts_at,
        kept=load - force(at_goal, head - seat),
        returns=just - force(at_goal, head),
        pulse=pulse,
        lifting_off=worse,
    )
