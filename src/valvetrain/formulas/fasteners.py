"""What a torque makes of a screw: preload, stress and its share of what the screw bears."""

import math
from typing import Annotated

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, Newton, Ratio, SquareMetre

NewtonMetre = Annotated[float, "N*m"]

PROOF = {"8.8": 580e6, "10.9": 830e6, "12.9": 970e6}  # Pa, to M16 (iso898)


def preload_from_torque(torque: NewtonMetre, diameter: Metre, factor: Ratio) -> Newton:
    """Preload of a screw by the nut factor; at a given torque it scatters by 25 to 30 %.

    Equation: F = T / (K d), K 0.30 dry black, 0.20 zinc, 0.18 lubricated, 0.12 anti-seize
    Range: T >= 0, d > 0, 0.05 <= K <= 0.5
    Source: shigley

    >>> round(preload_from_torque(9.5, 6e-3, 0.18), 1)
    8796.3
    """
    require_above("The torque", torque, -1e-30)
    require_above("The thread's diameter", diameter)
    require_between("The nut factor", factor, 0.05, 0.5)
    return torque / (factor * diameter)


def stress_area(diameter: Metre, pitch: Metre) -> SquareMetre:
    """Tensile stress area of a metric thread.

    Equation: A = (pi / 4) (d - 0.938194 P)^2
    Range: 0 < P < d
    Source: iso898

    >>> round(stress_area(8e-3, 1.25e-3) * 1e6, 3)
    36.609
    """
    require_above("The pitch", pitch)
    require_above("The thread's diameter", diameter, pitch)
    return math.pi / 4.0 * (diameter - 0.938194 * pitch) ** 2


def preload_by_friction(torque: NewtonMetre, diameter: Metre, pitch: Metre, thread: Ratio, head: Ratio, bearing: Metre) -> Newton:
    """Preload of a metric screw from friction in the thread and under the head; `bearing` is the mean diameter under the head.

    Equation: F = T / (P / (2 pi) + d2 mu_G / (2 cos 30) + D_K mu_K / 2), d2 = d - 0.649519 P
    Range: 0 < P < d, 0 <= mu <= 0.5, D_K >= d
    Source: vdi2230

    >>> round(preload_by_friction(24.573008, 8e-3, 1.25e-3, 0.12, 0.12, 10.315e-3), 0)
    18627.0
    """
    require_above("The pitch", pitch)
    require_above("The thread's diameter", diameter, pitch)
    require_between("Friction in the thread", thread, 0.0, 0.5)
    require_between("Friction under the head", head, 0.0, 0.5)
    require_above("The mean diameter under the head", bearing, diameter * 0.999)
    flank = diameter - 0.649519 * pitch
    return torque / (0.16 * pitch + 0.58 * flank * thread + bearing / 2.0 * head)
