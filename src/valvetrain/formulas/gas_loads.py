"""Gas forces that push a closed valve off its seat."""

import math

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, Newton, Pascal


def opening_force(port: Pascal, cylinder: Pascal, case: Pascal, seal_diameter: Metre, stem_diameter: Metre) -> Newton:
    """Net gas force that lifts a closed valve off its seat; negative when the gas holds it shut.

    Equation: F = (p_port - p_cyl) pi/4 d_s^2 - (p_port - p_case) pi/4 d_st^2
    Range: 0 <= d_st < d_s; pressures all absolute or all gauge; quasi-static
    Source: statics

    >>> round(opening_force(120e3, 0.0, 0.0, 31.6e-3, 5.5e-3), 3)
    91.261
    """
    require_above("The diameter at which the seat seals", seal_diameter)
    require_between("The stem diameter", stem_diameter, 0.0, seal_diameter)
    head = (port - cylinder) * math.pi / 4.0 * seal_diameter**2
    return head - (port - case) * math.pi / 4.0 * stem_diameter**2
