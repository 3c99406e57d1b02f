"""The air of a run, and the standard that brings its power to a reference day."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from valvetrain.formulas.air_correction import din_70020, dry_pressure, iso_1585, sae_j607, sae_j1349


class Standard(StrEnum):
    """Whose reference air a power is told for; NONE is as measured."""

    NONE = "as measured"
    SAE_J1349 = "SAE J1349"
    SAE_J607 = "SAE J607"
    ISO_1585 = "ISO 1585"
    DIN_70020 = "DIN 70020"


_DRY: Final[dict[Standard, Callable[[float, float], float]]] = {
    Standard.SAE_J1349: sae_j1349, Standard.SAE_J607: sae_j607, Standard.ISO_1585: iso_1585,
}  # fmt: skip
FORMULAS: Final = {
    Standard.NONE: "not corrected",
    Standard.SAE_J1349: "1.18 (990 hPa / dry pressure) √((t + 273) / 298) − 0.18",
    Standard.SAE_J607: "1.18 (1013.2 hPa / dry pressure) √((t + 273) / 288.6) − 0.18",
    Standard.ISO_1585: "(99 kPa / dry pressure)^1.2 ((t + 273) / 298)^0.6",
    Standard.DIN_70020: "(1013 hPa / pressure) √((t + 273) / 293)",
}
_ISO_RANGE: Final = (0.93, 1.07)


@dataclass(frozen=True, kw_only=True)
class Air:
    """Pressure where the run was made (Pa, not brought to sea level), temperature (K), humidity (0 to 1)."""

    pressure: float
    temperature: float
    humidity: float = 0.5


def factor(air: Air, standard: Standard) -> float:
    """Factor from measured power to that of the standard's air. Raises OutOfRangeError for air that nobody breathes."""
    if standard is Standard.NONE:
        return 1.0
    if standard is Standard.DIN_70020:
        return din_70020(air.pressure, air.temperature)
    return _DRY[standard](dry_pressure(air.pressure, air.temperature, air.humidity), air.temperature)


def outside_of(standard: Standard, value: float) -> bool:
    """Whether a factor lies where its standard no longer holds."""
    return standard is Standard.ISO_1585 and not _ISO_RANGE[0] <= value <= _ISO_RANGE[1]
