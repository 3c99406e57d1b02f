"""Springs that are no plain cylinders: cones, and cylinders that taper into a beehive."""

from valvetrain.formulas.coil_springs import spring_index
from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Metre, NewtonPerMetre, Pascal, Ratio


def cone_rate(wire_diameter: Metre, small_diameter: Metre, large_diameter: Metre, coils: Ratio, shear_modulus: Pascal) -> NewtonPerMetre:
    """Rate of a spring whose mean coil diameter runs evenly from small to large, while no coil has closed.

    Equation: k = G d^4 / (2 n (D1 + D2) (D1^2 + D2^2))
    Range: 3 <= D/d <= 20 at both ends, 0.25 <= n <= 100
    Source: wahl1963

    >>> round(cone_rate(3.2e-3, 16e-3, 24e-3, 5.0, 79.5e9), 1)
    25048.6
    """
    spring_index(wire_diameter, small_diameter)
    spring_index(wire_diameter, large_diameter)
    require_between("The number of coils", coils, 0.25, 100.0)
    require_above("The shear modulus", shear_modulus)
    both, squares = small_diameter + large_diameter, small_diameter**2 + large_diameter**2
    return shear_modulus * wire_diameter**4 / (2.0 * coils * both * squares)


def series_rate(first: NewtonPerMetre, second: NewtonPerMetre) -> NewtonPerMetre:
    """Rate of two springs standing on one another, or of two parts of one spring.

    Equation: 1 / k = 1 / k1 + 1 / k2
    Range: k1, k2 > 0
    Source: statics

    >>> round(series_rate(25125.926, 50097.231), 1)
    16733.4
    """
    require_above("The first rate", first)
    require_above("The second rate", second)
    return 1.0 / (1.0 / first + 1.0 / second)
