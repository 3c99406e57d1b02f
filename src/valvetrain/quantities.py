"""Quantities as people type them, turned into SI; units.py turns SI into what they read."""

import math
import re
from dataclasses import dataclass
from functools import lru_cache

import pint

from valvetrain.errors import QuantityError
from valvetrain.units import QuantityKind, UnitSystem, example, known_units, registry, shown_unit, si_unit, usual_decimals

# What people write -> what pint reads. Keys are lower case without blanks, dots and dashes.
_ALIASES: dict[str, str] = {
    "": "", "mm": "mm", "cm": "cm", "m": "m", "um": "um", "µm": "um", "μm": "um", "micron": "um",
    "in": "in", "inch": "in", "inches": "in", '"': "in", "”": "in", "″": "in", "thou": "thou", "mil": "thou", "mils": "thou", "''": "in", "thousandths": "thou",
    "tenths": "thou/10", "ft": "ft", "feet": "ft", "cm3": "cm**3", "cc": "cm**3", "ccm": "cm**3", "l": "l", "in3": "in**3", "ci": "in**3", "cuin": "in**3",
    "g": "g", "gram": "g", "grams": "g", "kg": "kg", "mg": "mg", "oz": "oz", "lb": "lb", "lbs": "lb",
    "n": "N", "kn": "kN", "lbf": "lbf", "kgf": "kgf", "kp": "kgf", "dan": "daN",
    "n/mm": "N/mm", "n/m": "N/m", "kn/m": "kN/m", "lbf/in": "lbf/in", "lb/in": "lbf/in", "lbs/in": "lbf/in",
    "kg/mm": "kgf/mm", "kgf/mm": "kgf/mm", "n/mm2": "N/mm**2", "lbf/in2": "lbf/in**2", "lb/in2": "lbf/in**2",
    "kgmm2": "kg*mm**2", "gmm2": "g*mm**2", "gcm2": "g*cm**2", "kgcm2": "kg*cm**2", "kgm2": "kg*m**2", "ozin2": "oz*in**2", "lbin2": "lb*in**2", "w": "W", "kw": "kW", "s": "s", "ms": "ms",
    "bar": "bar", "mbar": "mbar", "psi": "psi", "kpa": "kPa", "mpa": "MPa", "pa": "Pa", "hpa": "hPa",
    "inhg": "inHg", "inh2o": "inH2O", "inwater": "inH2O", "mmh2o": "mmH2O", "l/s": "l/s", "l/min": "l/min", "cfm": "ft**3/min", "ft3/min": "ft**3/min",
    "m3/h": "m**3/h", "kg/cm2": "kgf/cm**2", "kgf/cm2": "kgf/cm**2", "atm": "atm", "ksi": "ksi", "gpa": "GPa",
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
_KNOWN = frozenset(_ALIASES.values()) | known_units()
_KNOWN |= {unit for row in _KIND_ALIASES.values() for unit in row.values()}


@lru_cache(maxsize=1024)
def _to_si(unit: str, kind: QuantityKind) -> tuple[float, float]:
    """Return (factor, offset) so that si = factor * value + offset; raises QuantityError across kinds."""
    si = si_unit(kind)
    if unit not in _KNOWN:
        raise QuantityError("unknown unit")
    if unit == si == "":
        return 1.0, 0.0
    units = registry()
    if kind is QuantityKind.SPEED:  # an rpm counts revolutions; the core's engine speed is rev/s, not rad/s
        if unit != "rpm":
            raise QuantityError(f"an engine speed is given in rpm, not in {unit or 'nothing'}")
        return 1.0 / 60.0, 0.0
    try:
        one = units.Quantity(1.0, unit).to(si).magnitude
        zero = units.Quantity(0.0, unit).to(si).magnitude
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


def plain(value: float, kind: QuantityKind, system: UnitSystem = UnitSystem.METRIC) -> str:
    """Print an SI value for an input field: up to three decimals more than shown, no trailing zeros, plain minus."""
    unit, decimals = shown_unit(kind, system), usual_decimals(kind, system)
    return f"{in_unit(value, kind, unit):.{decimals + 2}f}".rstrip("0").rstrip(".")
