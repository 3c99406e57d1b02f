"""Unit systems, and SI turned into what a person reads: alone, or inside a sentence.

A sentence of the core holds its quantities in SI (`amount`) until somebody reads it: `told` prints them in the reader's units.
Inside the core everything is an SI float.
"""

import re
from enum import StrEnum
from functools import cache, lru_cache
from typing import Annotated

import pint

# Unit types: `Annotated` keeps them plain floats while the formula contract test can read the dimension.
Metre = Annotated[float, "m"]
Kilogram = Annotated[float, "kg"]
Newton = Annotated[float, "N"]
NewtonPerMetre = Annotated[float, "N/m"]
Pascal = Annotated[float, "Pa"]
PerSecond = Annotated[float, "1/s"]
Hertz = Annotated[float, "1/s"]
MetrePerSecond = Annotated[float, "m/s"]
SquareMetre = Annotated[float, "m**2"]
KilogramPerCubicMetre = Annotated[float, "kg/m**3"]
KilogramSquareMetre = Annotated[float, "kg*m**2"]
Radian = Annotated[float, ""]
MetrePerRadian = Annotated[float, "m"]
MetrePerSquareRadian = Annotated[float, "m"]
Ratio = Annotated[float, ""]


class QuantityKind(StrEnum):
    """What a field asks for; decides which units are accepted and shown."""

    LENGTH = "length"
    MASS = "mass"
    FORCE = "force"
    RATE = "spring rate"
    STIFFENING = "rise of rate"
    INERTIA = "moment of inertia"
    POWER = "power"
    PRESSURE = "pressure"
    SPEED = "engine speed"
    ANGLE = "angle"
    VELOCITY = "velocity"
    RAMP = "ramp velocity"
    TORQUE = "torque"
    AREA = "area"
    ACCELERATION = "acceleration"
    ROAD = "road speed"
    STRESS = "stress"
    DURATION = "running time"
    TEMPERATURE = "temperature"
    ALTITUDE = "height above the sea"
    VOLUME = "volume"
    FLOW = "flow of air"
    NUMBER = "number"


class UnitSystem(StrEnum):
    """The two unit systems a person can choose between."""

    METRIC = "metric"
    INCH = "inch"


# kind -> (SI unit of the core, shown unit and decimals in the metric and in the inch system, example)
_SHOWN: dict[QuantityKind, tuple[str, tuple[str, int], tuple[str, int], str]] = {
    QuantityKind.LENGTH: ("m", ("mm", 2), ("in", 4), "0.15, 0.15 mm, .006 in or 6 thou"),
    QuantityKind.MASS: ("kg", ("g", 1), ("oz", 3), "36.4, 36.4 g or 1.28 oz"),
    QuantityKind.FORCE: ("N", ("N", 0), ("lbf", 1), "184, 184 N, 41 lbf or 19 kgf"),
    QuantityKind.RATE: ("N/m", ("N/mm", 1), ("lbf/in", 0), "38.4, 38.4 N/mm or 219 lbf/in"),
    QuantityKind.STIFFENING: ("N/m**2", ("N/mm**2", 2), ("lbf/in**2", 0), "0.8, 0.8 N/mm2 or 116 lbf/in2"),
    QuantityKind.INERTIA: ("kg*m**2", ("kg*mm**2", 2), ("oz*in**2", 3), "3.6, 3.6 kg mm2"),
    QuantityKind.POWER: ("W", ("W", 0), ("W", 0), "640 or 640 W"),
    QuantityKind.PRESSURE: ("Pa", ("bar", 2), ("psi", 1), "0.6, 0.6 bar, 9 psi or 60 kPa"),
    QuantityKind.SPEED: ("1/s", ("rpm", 0), ("rpm", 0), "8400 or 8,400 rpm"),
    QuantityKind.ANGLE: ("rad", ("deg", 1), ("deg", 1), "252 or 252 deg"),
    QuantityKind.VELOCITY: ("m/s", ("m/s", 1), ("ft/s", 0), "22, 22 m/s or 72 ft/s"),
    QuantityKind.RAMP: ("m/rad", ("mm/deg", 4), ("in/deg", 5), "0.018 or .0007 in/deg"),
    QuantityKind.TORQUE: ("N*m", ("N*m", 1), ("lbf*ft", 1), "12, 12 Nm or 8.7 ft-lb"),
    QuantityKind.AREA: ("m**2", ("mm**2", 1), ("in**2", 4), "110 or 110 mm2"),
    QuantityKind.ACCELERATION: ("m/s**2", ("m/s**2", 0), ("ft/s**2", 0), "35000 or 35,000 m/s2"),
    QuantityKind.ROAD: ("m/s", ("km/h", 1), ("mi/h", 1), "120, 120 km/h or 75 mph"),
    QuantityKind.STRESS: ("Pa", ("MPa", 0), ("ksi", 0), "900, 900 MPa or 130 ksi"),
    QuantityKind.DURATION: ("s", ("h", 0), ("h", 0), "150 or 150 h"),
    QuantityKind.TEMPERATURE: ("K", ("degC", 0), ("degF", 0), "18, 18 C or 64 F"),
    QuantityKind.ALTITUDE: ("m", ("m", 0), ("ft", 0), "340, 340 m or 1100 ft"),
    QuantityKind.VOLUME: ("m**3", ("cm**3", 1), ("in**3", 2), "449 or 449 cm3"),
    QuantityKind.FLOW: ("m**3/s", ("l/s", 1), ("ft**3/min", 0), "62, 62 l/s or 131 cfm"),
    QuantityKind.NUMBER: ("", ("", 2), ("", 2), "9.2"),
}

_SYMBOL = {
    "deg": "°",
    "degC": "°C",
    "degF": "°F",
    "N*m": "N m",
    "lbf*ft": "lbf ft",
    "mi/h": "mph",
    "cm**3": "cm³",
    "in**3": "in³",
    "mm**2": "mm²",
    "in**2": "in²",
    "m/s**2": "m/s²",
    "ft/s**2": "ft/s²",
    "N/mm**2": "N/mm²",
    "lbf/in**2": "lbf/in²",
    "kg*mm**2": "kg mm²",
    "oz*in**2": "oz in²",
    "ft**3/min": "cfm",
    "mm/deg": "mm/°",
    "in/deg": "in/°",
}


@cache
def registry() -> pint.UnitRegistry[float]:
    """The one registry, made on first use: building one costs 0.3 s. Only units of a closed list may reach it."""
    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


def si_unit(kind: QuantityKind) -> str:
    """The unit (pint spelling) in which the core holds a kind; an engine speed in revolutions a second."""
    return _SHOWN[kind][0]


def known_units() -> frozenset[str]:
    """Every unit (pint spelling) that the product shows or holds figures in."""
    return frozenset(unit for row in _SHOWN.values() for unit in (row[0], row[1][0], row[2][0]))


def usual_decimals(kind: QuantityKind, system: UnitSystem) -> int:
    """Decimals in which a kind is shown."""
    return _place(kind, system)[1]


def example(kind: QuantityKind) -> str:
    """An example of what may be typed, for messages and hints."""
    return _SHOWN[kind][3]


@lru_cache(maxsize=256)
def _scale(unit: str, kind: QuantityKind) -> tuple[float, float]:
    """(factor, offset) of a shown unit, so that SI = factor * number + offset."""
    if not unit:
        return 1.0, 0.0
    if kind is QuantityKind.SPEED:  # an rpm counts revolutions, not radians
        return 1.0 / 60.0, 0.0
    one, zero = (registry().Quantity(number, unit).to(si_unit(kind)).magnitude for number in (1.0, 0.0))
    return float(one - zero), float(zero)


def _place(kind: QuantityKind, system: UnitSystem) -> tuple[str, int]:
    """Unit (pint spelling) and decimals in which a kind is shown."""
    _, metric, inch, _ = _SHOWN[kind]
    return metric if system is UnitSystem.METRIC else inch


def shown_unit(kind: QuantityKind, system: UnitSystem) -> str:
    """The unit (pint spelling) in which a kind is shown and assumed in a system."""
    return _place(kind, system)[0]


def unit_symbol(kind: QuantityKind, system: UnitSystem) -> str:
    """The unit as printed beside a number: `mm`, `lbf/in`, `°`."""
    unit = shown_unit(kind, system)
    return _SYMBOL.get(unit, unit)


def show(
    value: float, kind: QuantityKind, system: UnitSystem = UnitSystem.METRIC, decimals: int | None = None, *, difference: bool = False
) -> str:
    """Print an SI value in the system's unit, without the unit; minus is U+2212, rpm and what has five digits are grouped, inches drop the zero.

    `difference=True` prints a spread or a margin, which has no zero offset (temperatures).

    >>> show(0.000152, QuantityKind.LENGTH, UnitSystem.INCH)
    '.0060'
    >>> show(140.0, QuantityKind.SPEED)
    '8,400'
    >>> show(20e6, QuantityKind.RATE)
    '20,000'
    """
    unit, usual = _place(kind, system)
    factor, offset = _scale(unit, kind)
    number = (value - (0.0 if difference else offset)) / factor
    large = abs(number) >= 10_000.0  # decimals of such a figure nobody knows
    digits = (0 if large else usual) if decimals is None else decimals
    grouped = kind is QuantityKind.SPEED or large
    text = f"{number:{',' if grouped else ''}.{digits}f}"
    if float(text.replace(",", "")) == 0:
        text = text.lstrip("-")
    if unit == "in":
        text = re.sub(r"^(-?)0\.", r"\1.", text)
    return text.replace("-", "\N{MINUS SIGN}")


def quantity(value: float, kind: QuantityKind, system: UnitSystem, decimals: int | None = None) -> str:
    """A figure with its unit: `1.10 mm`, `8,610 rpm`."""
    return f"{show(value, kind, system, decimals)} {unit_symbol(kind, system)}".strip()


LENGTH, FORCE, RATE, PRESSURE = QuantityKind.LENGTH, QuantityKind.FORCE, QuantityKind.RATE, QuantityKind.PRESSURE
# An amount inside a sentence: begin, kind, SI value, decimals in the metric system, with its unit or bare, end. Private-use signs: nobody types them.
_BEGIN, _NEXT, _END = "\ue000", "\ue001", "\ue002"
_AMOUNT = re.compile(f"{_BEGIN}([^{_END}]*){_END}")


def amount(value: float, kind: QuantityKind, decimals: int | None = None, *, unit: bool = True) -> str:
    """An SI value inside a sentence, printed when the sentence is told.

    >>> told(f"{amount(0.00012, LENGTH)} are left", UnitSystem.INCH)
    '.0047 in are left'
    """
    digits = _place(kind, UnitSystem.METRIC)[1] if decimals is None else decimals
    return f"{_BEGIN}{kind.value}{_NEXT}{float(value)!r}{_NEXT}{digits}{_NEXT}{unit:d}{_END}"


def bare(value: float, kind: QuantityKind, decimals: int | None = None) -> str:
    """An amount without its unit, as the first of a pair: `1.20 to 3.50 mm`."""
    return amount(value, kind, decimals, unit=False)


def told(sentence: str, system: UnitSystem = UnitSystem.METRIC) -> str:
    """The sentence with its amounts in the reader's units. Inches show two decimals more than millimetres, four at most."""

    def printed(found: re.Match[str]) -> str:
        word, value, digits, unit = found[1].split(_NEXT)
        kind = QuantityKind(word)
        decimals: int | None = int(digits)
        if system is UnitSystem.INCH:
            decimals = min(int(digits) + 2, 4) if kind is QuantityKind.LENGTH else None
        text = show(float(value), kind, system, decimals)
        return f"{text} {unit_symbol(kind, system)}" if unit == "1" else text

    return _AMOUNT.sub(printed, sentence) if _BEGIN in sentence else sentence
