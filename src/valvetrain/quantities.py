"""Quantities as people type and read them, and the unit types the core speaks.

Inside the core everything is an SI float. Text becomes SI here and nowhere else,
SI becomes text here and nowhere else.
"""

import math
import re
from dataclasses import dataclass
from enum import StrEnum
from functools import cache, lru_cache
from typing import Annotated

import pint

from valvetrain.errors import QuantityError

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
    QuantityKind.NUMBER: ("", ("", 2), ("", 2), "9.2"),
}

_SYMBOL = {
    "deg": "°",
    "degC": "°C",
    "degF": "°F",
    "N*m": "N m",
    "lbf*ft": "lbf ft",
    "mi/h": "mph",
    "mm**2": "mm²",
    "in**2": "in²",
    "m/s**2": "m/s²",
    "ft/s**2": "ft/s²",
    "N/mm**2": "N/mm²",
    "lbf/in**2": "lbf/in²",
    "kg*mm**2": "kg mm²",
    "oz*in**2": "oz in²",
    "mm/deg": "mm/°",
    "in/deg": "in/°",
}

# What people write -> what pint reads. Keys are lower case without blanks, dots and dashes.
_ALIASES: dict[str, str] = {
    "": "", "mm": "mm", "cm": "cm", "m": "m", "um": "um", "µm": "um", "μm": "um", "micron": "um",
    "in": "in", "inch": "in", "inches": "in", '"': "in", "”": "in", "″": "in", "thou": "thou", "mil": "thou", "mils": "thou", "''": "in", "thousandths": "thou",
    "tenths": "thou/10", "ft": "ft",
    "g": "g", "gram": "g", "grams": "g", "kg": "kg", "mg": "mg", "oz": "oz", "lb": "lb", "lbs": "lb",
    "n": "N", "kn": "kN", "lbf": "lbf", "kgf": "kgf", "kp": "kgf", "dan": "daN",
    "n/mm": "N/mm", "n/m": "N/m", "kn/m": "kN/m", "lbf/in": "lbf/in", "lb/in": "lbf/in", "lbs/in": "lbf/in",
    "kg/mm": "kgf/mm", "kgf/mm": "kgf/mm", "n/mm2": "N/mm**2", "lbf/in2": "lbf/in**2", "lb/in2": "lbf/in**2",
    "kgmm2": "kg*mm**2", "gmm2": "g*mm**2", "gcm2": "g*cm**2", "kgcm2": "kg*cm**2", "kgm2": "kg*m**2", "ozin2": "oz*in**2", "lbin2": "lb*in**2", "w": "W", "kw": "kW", "s": "s", "ms": "ms",
    "bar": "bar", "mbar": "mbar", "psi": "psi", "kpa": "kPa", "mpa": "MPa", "pa": "Pa", "hpa": "hPa",
    "inhg": "inHg", "kg/cm2": "kgf/cm**2", "kgf/cm2": "kgf/cm**2", "atm": "atm", "ksi": "ksi", "gpa": "GPa",
    "rpm": "rpm", "r/min": "rpm", "1/min": "rpm", "u/min": "rpm", "rev/min": "rpm",
    "deg": "deg", "degrees": "deg", "°": "deg", "rad": "rad",
    "m/s": "m/s", "ft/s": "ft/s", "fps": "ft/s", "mm2": "mm**2", "mm²": "mm**2", "cm2": "cm**2", "in2": "in**2", "sqin": "in**2", "m/s2": "m/s**2", "m/s²": "m/s**2",
    "ft/s2": "ft/s**2", "km/h": "km/h", "kmh": "km/h", "kph": "km/h", "mph": "mi/h", "mm/deg": "mm/deg", "mm/°": "mm/deg", "in/deg": "in/deg",
    "in/°": "in/deg", "nm": "N*m", "ftlb": "lbf*ft", "ftlbs": "lbf*ft", "inlbs": "lbf*in", "ftlbf": "lbf*ft", "lbft": "lbf*ft", "lbfft": "lbf*ft",
    "inlb": "lbf*in", "inlbf": "lbf*in", "lbin": "lbf*in", "lbfin": "lbf*in", "kgm": "kgf*m", "kgfm": "kgf*m",
    "h": "h", "hr": "h", "hrs": "h", "hours": "h", "min": "min", "c": "degC", "°c": "degC", "degc": "degC",
    "f": "degF", "°f": "degF", "degf": "degF", "k": "K",
}  # fmt: skip

# In a force field the scales and spring testers of the trade say lb and kg and mean force.
_KIND_ALIASES: dict[QuantityKind, dict[str, str]] = {
    QuantityKind.FORCE: {"lb": "lbf", "lbs": "lbf", "#": "lbf", "kg": "kgf"},
    QuantityKind.TORQUE: {"nm": "N*m"},
    QuantityKind.ANGLE: {"c": "", "f": ""},
}


@dataclass(frozen=True)
class Typed:
    """A quantity together with what the person wrote.

    `value` is SI, `unit` the unit it was read in (pint spelling), `text` the text as typed.
    """

    value: float
    unit: str
    text: str


# Every unit that may reach the registry: what people write as we read it, and what we show. Nothing else does: a unit is text from outside.
_KNOWN = frozenset(_ALIASES.values()) | {unit for row in _SHOWN.values() for unit in (row[0], row[1][0], row[2][0])}
_KNOWN |= {unit for row in _KIND_ALIASES.values() for unit in row.values()}


@cache
def _registry() -> pint.UnitRegistry[float]:
    # force_ndarray_like off and cached: building a registry costs 0.3 s, so it is made on first use only.
    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


@lru_cache(maxsize=1024)
def _to_si(unit: str, kind: QuantityKind) -> tuple[float, float]:
    """Return (factor, offset) so that si = factor * value + offset; raises QuantityError across kinds."""
    si = _SHOWN[kind][0]
    if unit not in _KNOWN:
        raise QuantityError("unknown unit")
    if unit == si == "":
        return 1.0, 0.0
    registry = _registry()
    if kind is QuantityKind.SPEED:  # an rpm counts revolutions; the core's engine speed is rev/s, not rad/s
        if unit != "rpm":
            raise QuantityError(f"an engine speed is given in rpm, not in {unit or 'nothing'}")
        return 1.0 / 60.0, 0.0
    try:
        one = registry.Quantity(1.0, unit).to(si).magnitude
        zero = registry.Quantity(0.0, unit).to(si).magnitude
    except (pint.DimensionalityError, pint.UndefinedUnitError) as error:
        raise QuantityError(str(error)) from error
    return float(one - zero), float(zero)


_NUMBER = re.compile(r"^[+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d{1,3})?")
_FRACTION = re.compile(r"^([+-]?)(?:(\d+)[ -]+)?(\d+)\s*/\s*(\d+)(?=\s*(?:in|inch|\"|″|ft|$))")
_SPACED = re.compile(r"^[1-9]\d{0,2} \d{3}(?!\d)")
_THOUSANDS = re.compile(r"^[+-]?[1-9]\d{0,2}(?:,\d{3})+(?:\.\d+)?(?![\d,])")


def _read_number(text: str, kind: QuantityKind) -> tuple[float, str]:
    """Split off the leading number; return it and the rest."""
    fraction = _FRACTION.match(text) if kind in (QuantityKind.LENGTH, QuantityKind.NUMBER) else None
    if fraction:
        sign, whole, top, bottom = fraction.groups()
        if int(bottom) == 0:
            raise QuantityError(f"“{text}” divides by zero.")
        value = int(whole or 0) + int(top) / int(bottom)
        return (-value if sign == "-" else value), text[fraction.end() :]
    if kind is QuantityKind.SPEED and _SPACED.match(text):
        text = text.replace(" ", "", text.count(" ") if text.replace(" ", "").isdigit() else 1)
    thousands = _THOUSANDS.match(text)
    if thousands:
        number = thousands.group()
        if kind is QuantityKind.SPEED or number.count(",") > 1 or "." in number:
            return float(number.replace(",", "")), text[thousands.end() :]
        plain, point = number.replace(",", ""), number.replace(",", ".")
        raise QuantityError(f"“{number}” can be read two ways. Write {plain} or {point}.")
    match = _NUMBER.match(text)
    if not match:
        raise QuantityError(f"“{text}” is not {_article(kind)}. Write for example {example(kind)}.")
    return float(match.group().replace(",", ".")), text[match.end() :]


def _article(kind: QuantityKind) -> str:
    return f"{'an' if kind.value[0] in 'aeiou' else 'a'} {kind.value}"


def parse(text: str, kind: QuantityKind, system: UnitSystem = UnitSystem.METRIC) -> Typed:
    """Read a quantity as typed: `.006`, `6 thou`, `0.15 mm`, `8,400`, `14 lb`, `9 psi`, `3/8 in`.

    A bare number takes the unit that the field shows in the person's unit system.

    Returns SI in `Typed.value` (engine speeds in rev/s). Raises QuantityError with a sentence for the person.

    >>> round(parse("6 thou", QuantityKind.LENGTH).value * 1000, 4)
    0.1524
    >>> parse("8,400", QuantityKind.SPEED).value
    140.0
    """
    cleaned = text.strip().replace("\N{MINUS SIGN}", "-").replace("\N{NO-BREAK SPACE}", " ").replace("\N{THIN SPACE}", " ")
    if not cleaned:
        raise QuantityError(f"Nothing is typed here. Write {_article(kind)}, for example {example(kind)}.")
    if len(cleaned) > 40:
        raise QuantityError(f"That is too long for {_article(kind)}. Write for example {example(kind)}.")
    number, rest = _read_number(cleaned, kind)
    if not math.isfinite(number):
        raise QuantityError(f"“{cleaned}” is too large to be {_article(kind)}.")
    spelled = re.sub(r"[\s.·-]", "", rest.lower()).replace("²", "2")
    if re.match(r"^[+-]?\d", rest.strip()):
        raise QuantityError(f"“{cleaned}” holds two numbers. Write one, for example {example(kind)}.")
    unit = shown_unit(kind, system) if not spelled else _KIND_ALIASES.get(kind, {}).get(spelled, _ALIASES.get(spelled, "?"))
    try:
        factor, offset = _to_si(unit, kind)
    except QuantityError as error:
        raise QuantityError(f"“{rest.strip()}” is not a unit of {_article(kind)}. Write for example {example(kind)}.") from error
    if not math.isfinite(number * factor):
        raise QuantityError(f"“{cleaned}” is too large to be {_article(kind)}.")
    return Typed(value=number * factor + offset, unit=unit, text=text.strip())


def example(kind: QuantityKind) -> str:
    """An example of what may be typed, for messages and hints."""
    return _SHOWN[kind][3]


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


def in_unit(value: float, kind: QuantityKind, unit: str) -> float:
    """Convert an SI value into a named unit of the kind. Raises QuantityError across kinds."""
    factor, offset = _to_si(unit, kind)
    return (value - offset) / factor


def from_unit(value: float, kind: QuantityKind, unit: str) -> float:
    """Convert a value in a named unit (people's or pint's spelling) into SI. Raises QuantityError across kinds."""
    spelled = re.sub(r"\s", "", unit.lower())
    try:
        factor, offset = _to_si(_KIND_ALIASES.get(kind, {}).get(spelled, _ALIASES.get(spelled, unit)), kind)
    except QuantityError as error:
        raise QuantityError(f"“{unit[:24]}” is not a unit of {_article(kind)}. Write for example {example(kind)}.") from error
    return value * factor + offset


def show(
    value: float, kind: QuantityKind, system: UnitSystem = UnitSystem.METRIC, decimals: int | None = None, *, difference: bool = False
) -> str:
    """Print an SI value in the system's unit, without the unit; minus is U+2212, rpm is grouped, inches drop the zero.

    `difference=True` prints a spread or a margin, which has no zero offset (temperatures).

    >>> show(0.000152, QuantityKind.LENGTH, UnitSystem.INCH)
    '.0060'
    >>> show(140.0, QuantityKind.SPEED)
    '8,400'
    """
    unit, usual = _place(kind, system)
    factor, offset = _to_si(unit, kind)
    number = (value - (0.0 if difference else offset)) / factor
    digits = usual if decimals is None else decimals
    text = f"{number:,.{digits}f}" if kind is QuantityKind.SPEED else f"{number:.{digits}f}"
    if float(text.replace(",", "")) == 0:
        text = text.lstrip("-")
    if unit == "in":
        text = re.sub(r"^(-?)0\.", r"\1.", text)
    return text.replace("-", "\N{MINUS SIGN}")


def quantity(value: float, kind: QuantityKind, system: UnitSystem, decimals: int | None = None) -> str:
    """A figure with its unit: `1.10 mm`, `8,610 rpm`."""
    return f"{show(value, kind, system, decimals)} {unit_symbol(kind, system)}".strip()


def plain(value: float, kind: QuantityKind, system: UnitSystem = UnitSystem.METRIC) -> str:
    """Print an SI value for an input field: up to three decimals more than shown, no trailing zeros, plain minus."""
    unit, decimals = _place(kind, system)
    return f"{in_unit(value, kind, unit):.{decimals + 2}f}".rstrip("0").rstrip(".")
