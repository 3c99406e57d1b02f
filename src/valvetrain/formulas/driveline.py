"""From engine speed to road, track or water speed and back."""

import math

from valvetrain.formulas.limits import require_above, require_between
from valvetrain.units import Hertz, Metre, MetrePerSecond, Radian, Ratio


def overall_ratio(primary: Ratio, gear: Ratio, front_teeth: Ratio, rear_teeth: Ratio) -> Ratio:
    """Turns of the crankshaft for one of the wheel.

    Equation: i = i_primary i_gear z_rear / z_front
    Range: all > 0
    Source: definition

    >>> round(overall_ratio(76 / 36, 1.55, 16, 47), 7)
    9.6121528
    """
    for name, value in (("The primary ratio", primary), ("The gear", gear), ("The front sprocket", front_teeth), ("The rear", rear_teeth)):
        require_above(name, value)
    return primary * gear * rear_teeth / front_teeth


def road_speed(speed: Hertz, circumference: Metre, ratio: Ratio) -> MetrePerSecond:
    """Speed over the ground; `speed` is the crankshaft's in rev/s, `circumference` how far the wheel rolls in a turn.

    Equation: v = N C / i
    Range: all > 0; no slip
    Source: definition

    >>> round(road_speed(10500 / 60, 1.8643656, 9.6121528) * 3.6, 4)
    122.1943
    """
    require_above("The engine speed", speed)
    require_above("The rolling circumference", circumference)
    require_above("The overall ratio", ratio)
    return speed * circumference / ratio


def engine_speed(road: MetrePerSecond, circumference: Metre, ratio: Ratio) -> Hertz:
    """Crankshaft speed (rev/s) that goes with a road speed.

    Equation: N = v i / C
    Range: all > 0; no slip
    Source: definition

    >>> round(engine_speed(120 / 3.6, 1.86, 9.4) * 60, 3)
    10107.527
    """
    require_above("The road speed", road)
    require_above("The rolling circumference", circumference)
    require_above("The overall ratio", ratio)
    return road * ratio / circumference


def speed_in_gear(speed: Hertz, gear_from: Ratio, gear_to: Ratio) -> Hertz:
    """Crankshaft speed after a change of gear at the same road speed: the wheel drags the engine there.

    Equation: N2 = N1 i2 / i1
    Range: all > 0; no slip of clutch or tyre
    Source: definition

    >>> round(speed_in_gear(10500 / 60, 1.55, 1.933) * 60, 3)
    13094.516
    """
    require_above("The engine speed", speed)
    require_above("The gear it came from", gear_from)
    require_above("The gear it went into", gear_to)
    return speed * gear_to / gear_from


def rolling_circumference(rim: Metre, width: Metre, aspect: Ratio, squash: Ratio) -> Metre:
    """How far a tyre rolls in one turn, from the size on its wall; `squash` is rolling over free circumference.

    Equation: C = squash pi (rim + 2 aspect width)
    Range: rim, width, aspect > 0; squash between 0.8 and 1.2 (0.96 to 0.98 under load; common practice)
    Source: definition

    >>> round(rolling_circumference(17 * 25.4e-3, 0.150, 0.60, 0.97), 7)
    1.8643656
    """
    for name, value in (("The rim", rim), ("The tyre's width", width), ("The aspect ratio", aspect)):
        require_above(name, value)
    require_between("Rolling over free circumference", squash, 0.8, 1.2)
    return squash * math.pi * (rim + 2.0 * aspect * width)


def sprocket_diameter(pitch: Metre, teeth: Ratio) -> Metre:
    """Pitch circle of a chain sprocket.

    Equation: d = p / sin(pi / z)
    Range: p > 0, z >= 3
    Source: iso606

    >>> round(sprocket_diameter(15.875e-3, 15) * 1e3, 6)
    76.354533
    """
    require_above("The chain's pitch", pitch)
    require_between("The number of teeth", teeth, 3.0, 400.0)
    return pitch / math.sin(math.pi / teeth)


def chain_links(distance: Metre, pitch: Metre, first_teeth: Ratio, second_teeth: Ratio) -> Ratio:
    """Links of a chain round two sprockets, before it is made a whole, mostly even, number.

    Equation: X = 2 a / p + (z1 + z2) / 2 + p ((z2 - z1) / (2 pi))^2 / a
    Range: a, p > 0; teeth between 3 and 400
    Source: iso606

    >>> round(chain_links(0.4, 12.7e-3, 17, 50), 6)
    97.36794
    """
    require_above("The distance of the shafts", distance)
    require_above("The chain's pitch", pitch)
    for teeth in (first_teeth, second_teeth):
        require_between("The number of teeth", teeth, 3.0, 400.0)
    return 2.0 * distance / pitch + (first_teeth + second_teeth) / 2.0 + pitch / distance * ((second_teeth - first_teeth) / math.tau) ** 2


def shaft_distance(links: Ratio, pitch: Metre, first_teeth: Ratio, second_teeth: Ratio) -> Metre:
    """Distance of the shafts that a chain of so many links gives.

    Equation: a = (p / 4) (X - s + sqrt((X - s)^2 - 8 ((z2 - z1) / (2 pi))^2)), s = (z1 + z2) / 2
    Range: p > 0; teeth between 3 and 400; chain long enough to go round both
    Source: iso606 (chain_links solved for the distance)

    >>> round(shaft_distance(97.36794, 12.7e-3, 17, 50), 6)
    0.4
    """
    require_above("The chain's pitch", pitch)
    for teeth in (first_teeth, second_teeth):
        require_between("The number of teeth", teeth, 3.0, 400.0)
    straight, step = links - (first_teeth + second_teeth) / 2.0, (second_teeth - first_teeth) / math.tau
    require_above("The chain's length beyond what lies round the sprockets", straight, 2.0 * math.sqrt(2.0) * abs(step))
    return pitch / 4.0 * (straight + math.sqrt(straight**2 - 8.0 * step**2))


def cam_retard(taken_off: Metre, distance: Metre, pitch: Metre, cam_teeth: Ratio, crank_teeth: Ratio) -> Radian:
    """How far a camshaft falls back (of the cam) when it comes nearer to the crankshaft and the chain's pulling side hangs by so much longer.

    Equation: S(a) = sqrt(a^2 - (r2 - r1)^2) + r1 (pi/2 - alpha) + r2 (pi/2 + alpha), sin(alpha) = (r2 - r1) / a; delta = (S(a) - S(a - t)) / r2, r = p / (2 sin(pi / z))
    Range: a, p > 0; teeth between 3 and 400; 0 <= t < a / 4
    Source: definition (an open belt round the pitch circles of iso606)

    >>> round(math.degrees(cam_retard(0.25e-3, 0.35, 6.35e-3, 34, 17)), 4)
    0.4158
    """
    require_above("The distance of the shafts", distance)
    require_between("What is taken off", taken_off, 0.0, distance / 4.0)
    crank, cam = (sprocket_diameter(pitch, teeth) / 2.0 for teeth in (crank_teeth, cam_teeth))

    def pull(apart: float) -> float:
        step = cam - crank
        lean = math.asin(step / apart)
        return math.sqrt(apart**2 - step**2) + crank * (math.pi / 2.0 - lean) + cam * (math.pi / 2.0 + lean)

    return (pull(distance) - pull(distance - taken_off)) / cam


def water_speed(speed: Hertz, pitch: Metre, ratio: Ratio, slip: Ratio) -> MetrePerSecond:
    """Speed of a craft behind an impeller or screw; `ratio` is turns of the crankshaft for one of it.

    Equation: v = N p (1 - s) / i
    Range: N, p, i > 0; 0 <= s < 1
    Source: definition

    >>> round(water_speed(130.0, 0.16, 1.0, 0.15), 2)
    17.68
    """
    require_above("The engine speed", speed)
    require_above("The pitch", pitch)
    require_above("The ratio", ratio)
    require_between("The slip", slip, 0.0, 0.999)
    return speed * pitch * (1.0 - slip) / ratio
