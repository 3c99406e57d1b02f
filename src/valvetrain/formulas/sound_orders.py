"""What speed an engine's sound tells: firing frequency, the weight of each half order, and what passing by does to both."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Hertz, MetrePerSecond, Ratio


def half_order(speed: Hertz) -> Hertz:
    """Frequency of half an order: a four-stroke repeats every two turns, so all its lines lie at multiples of it.

    Equation: N / 2
    Range: N > 0
    Source: definition

    >>> half_order(9000 / 60)
    75.0
    """
    require_above("The speed", speed)
    return speed / 2.0


def firing_frequency(speed: Hertz, cylinders: Ratio) -> Hertz:
    """Firings a second of a four-stroke.

    Equation: n N / 2
    Range: all above zero
    Source: definition

    >>> firing_frequency(9000 / 60, 4)
    300.0
    """
    require_above("The cylinders", cylinders)
    return cylinders * half_order(speed)


def line_weights(angles: Sequence[float], count: int) -> NDArray[np.float64]:
    """Weight of half orders 1 to `count` of an engine that fires at these crank angles (rad, of 4 pi).

    Equation: w_j = |sum_c exp(-i j a_c / 2)| / n
    Range: at least one cylinder
    Source: definition

    >>> [round(float(weight), 4) for weight in line_weights([0.0, 4.71238898], 4)]
    [0.3827, 0.7071, 0.9239, 0.0]
    """
    lines = np.arange(1, count + 1)[:, None]
    return np.asarray(np.abs(np.exp(-0.5j * lines * np.asarray(angles, dtype=float)[None, :]).sum(axis=1)) / len(angles))


def heard_frequency(frequency: Hertz, closing: MetrePerSecond, sound: MetrePerSecond) -> Hertz:
    """Frequency heard from a source that comes nearer at `closing`.

    Equation: f / (1 - v / c)
    Range: |v| < c
    Source: definition

    >>> round(heard_frequency(9000.0, 25.0, 343.2), 1)
    9707.1
    """
    require_between("The speed over that of sound", closing / sound, -0.9, 0.9)
    return frequency / (1.0 - closing / sound)


def speed_of_a_pass(coming: Hertz, going: Hertz) -> Hertz:
    """True speed of an engine that passed by on a straight, from what was heard far before and far after.

    Equation: 2 f1 f2 / (f1 + f2)
    Range: all above zero
    Source: definition

    >>> round(speed_of_a_pass(9707.102451, 8388.919066))
    9000
    """
    require_above("What is heard before", coming)
    require_above("What is heard after", going)
    return 2.0 * coming * going / (coming + going)
